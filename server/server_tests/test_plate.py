"""The plate while something is changed: the rest of the picture stays whole, and what is drawn over it is right."""

from __future__ import annotations

import numpy as np

from cenote_core.plan import AssetShare, Gate, PatinaPlan, PatinaUse, PiecePlan, SlopeRule, StationPlan

from .browser import BrowserTest
from .helpers import grass, site_of

FRONT = StationPlan(name="front", position=(0, 2.0, 6.5), target=(0, 0.7, -2), lens=30, order=1)


def stones():
    level = SlopeRule(gate=Gate(rise_start=0, rise_end=0, fall_start=40, fall_end=60))
    stone = [AssetShare(asset="stone_round")]
    return grass(name="stones", assets=stone, density=2, spacing=0.5, headroom=0, rules=[level])


class Following(BrowserTest):
    def take(self, selector: str) -> tuple[float, float]:
        box = self.page.locator(selector).first.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        return x, y

    def preview(self, x: float, y: float) -> np.ndarray:
        """Move the pointer with its button down, wait until the picture follows, and look."""
        self.page.evaluate("delete document.body.dataset.preview")
        self.page.mouse.move(x, y)
        self.page.wait_for_function("document.body.dataset.preview !== undefined")
        self.page.evaluate("new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
        return self.plate()

    def sides(self) -> list[int]:
        return self.page.evaluate("(c => [c.width, c.clientWidth])(document.querySelector('canvas[data-ready]'))")

    def test_a_drift_follows_its_gate_before_and_behind_what_stands(self):
        wall = PiecePlan(name="garden wall", asset="wall", position=(0, 0, -1))
        site = site_of(self.user, s=stones(), g=grass(density=8), wall=wall, **{"station-1": FRONT})
        self.open(site)
        self.choose("stones")
        self.page.wait_for_timeout(1200)
        self.settled()
        whole = self.plate()
        x, y = self.take("[data-rule=slope] [data-handle=fall_start]")
        same = self.preview(x - 3, y)
        # Level ground is let through all the while: drawn over the backdrop, the picture is what it was.
        self.assertEqual(*self.sides())
        self.assertLess(np.abs(same - whole).mean(), 1.5)
        self.assertLess((np.abs(same - whole).max(axis=2) > 40).mean(), 0.02)
        self.page.mouse.move(x, y)
        self.page.mouse.up()
        self.saved()
        self.page.wait_for_timeout(1200)
        self.settled()
        x, y = self.take("[data-rule=slope] [data-handle=rise_start]")
        bare = self.preview(x + 200, y)
        self.assertEqual(*self.sides())
        gone = np.abs(bare - same).max(axis=2) > 25
        # Stones are gone from the ground; the sky above is untouched to the last bit.
        self.assertGreater(gone[300:].mean(), 0.004)
        self.assertEqual(np.abs(bare - same)[:100, 320:600].max(), 0.0)
        self.page.mouse.up()
        self.saved()
        self.page.wait_for_timeout(1200)
        self.settled()
        # And the picture drawn whole is the one that was shown while dragging.
        after = self.plate()
        self.assertLess((np.abs(after - bare).max(axis=2) > 40).mean(), 0.03)

    def test_a_patina_follows_on_all_that_carries_it(self):
        moss = PatinaPlan(name="moss", amount=1.0, uses=[PatinaUse(surface="wall/stone")])
        site = site_of(self.user, m=moss, wall=PiecePlan(name="garden wall", asset="wall"), **{"station-1": FRONT})
        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        self.page.wait_for_timeout(1200)
        self.settled()
        before = self.plate()
        box = self.page.locator("[data-track='amount']").first.bounding_box()
        self.page.mouse.move(box["x"] + box["width"] - 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        less = self.preview(box["x"] + 2, box["y"] + box["height"] / 2)
        self.assertEqual(*self.sides())
        changed = np.abs(less - before).max(axis=2) > 12
        self.assertGreater(changed.mean(), 0.005)
        # Green goes; nothing but the wall changes.
        there = changed.nonzero()
        green = lambda picture: (picture[..., 1] - picture[..., [0, 2]].mean(axis=2))[there].mean()  # noqa: E731
        self.assertLess(green(less), green(before))
        self.assertEqual(np.abs(less - before)[:60, 320:600].max(), 0.0)
        self.page.mouse.up()

    def test_the_ring_of_the_brush_costs_no_whole_picture(self):
        site = site_of(self.user, g=grass(), **{"station-1": FRONT})
        self.open(site)
        self.choose("grass")
        self.page.wait_for_timeout(1200)
        self.settled()
        plain = self.plate()
        self.page.keyboard.press("p")
        x, y = self.on_plate(0.5, 0.7)
        self.page.mouse.move(x, y)
        self.page.mouse.move(x + 4, y)
        self.page.wait_for_timeout(400)
        ringed = self.plate()
        changed = np.abs(ringed - plain).max(axis=2) > 30
        self.assertTrue(0.0002 < changed.mean() < 0.02, changed.mean())
        self.page.mouse.move(40, 400)
        self.page.wait_for_timeout(400)
        self.assertLess((np.abs(self.plate() - plain).max(axis=2) > 30).mean(), 0.0005)
