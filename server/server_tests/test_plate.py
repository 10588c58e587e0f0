"""The plate while something is changed: the rest of the picture stays whole, and what is drawn over it is right."""

from __future__ import annotations

from urllib.parse import parse_qs, urlsplit

import numpy as np
from playwright.sync_api import expect

from cenote_core.ground.terrain import height_at
from cenote_core.measures.slope import SlopeRule
from cenote_core.plan import (
    AssetShare,
    Gate,
    GroundPlan,
    LightPlan,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    PlacedPlan,
    PlacedThing,
    StationPlan,
    WeatherPlan,
)
from cenote_core.scene import land
from sites.computing import scene_of
from sites.models import Item

from .browser import BrowserTest
from .helpers import grass, site_of

FRONT = StationPlan(name="front", position=(0, 2.0, 6.5), target=(0, 0.7, -2), lens=30, order=1)


def stones():
    level = SlopeRule(gate=Gate(rise_start=0, rise_end=0, fall_start=40, fall_end=60))
    stone = [AssetShare(asset="stone_round")]
    return grass(name="stones", assets=stone, density=2, spacing=0.5, headroom=0, rules=[level])


def softened(picture: np.ndarray) -> np.ndarray:
    """Means over four by four pixels: what two pictures of different sharpness have in common."""
    rows, columns = (side // 4 * 4 for side in picture.shape[:2])
    return picture[:rows, :columns].reshape(rows // 4, 4, columns // 4, 4, 3).mean(axis=(1, 3))


class Looking(BrowserTest):
    def test_what_is_near_is_shown_with_all_its_texels_once_the_eye_rests(self):
        asked = []
        self.page.on("request", lambda request: asked.append(request.url))
        before = StationPlan(name="before", position=(0, 0.8, -0.9), target=(0, 0.7, -2.5), lens=30, order=1)
        away = StationPlan(name="away", position=(0, 30.0, 60.0), target=(0, 0, 60.0), lens=30, order=2)
        wall = PiecePlan(name="wall", asset="wall", position=(0, 0, -2.5))
        site = site_of(self.user, wall=wall, **{"station-1": before, "station-2": away})
        self.open(site)
        canvas = self.page.locator("canvas[data-near]")
        self.assertIn("stone", canvas.get_attribute("data-near").split())
        # Pictures that are wanted at the same time come in one answer; its address lists them.
        fine = lambda: [  # noqa: E731
            part
            for url in asked
            for part in parse_qs(urlsplit(url).query).get("of", [])
            if "/materials/stone/" in part and "side=1024" in part
        ]
        self.assertEqual(len(fine()), 2, "colour and relief")
        # Looked away from and back at, they are still there.
        for name in ("2 · away", "1 · before"):
            self.page.get_by_role("button", name=name).click()
            self.page.wait_for_timeout(1200)
            self.settled()
        self.assertEqual(len(fine()), 2)

    def test_turning_the_view_leaves_the_eye_above_the_ground(self):
        low = StationPlan(name="low", position=(0, 1.2, 6.5), target=(0, 0.9, -2), lens=30, order=1)
        site = site_of(self.user, **{"station-1": low})
        self.open(site)
        x, y = self.on_plate(0.5, 0.6)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        for k in range(1, 9):
            self.page.mouse.move(x, y - 30 * k)
            self.page.wait_for_timeout(120)
        self.page.mouse.up()
        self.settled()
        self.page.get_by_role("button", name="Save station").click()
        self.saved()
        plan = Item.objects.filter(site=site, kind="station").latest("pk").plan
        scene = scene_of(site)
        x, y, z = plan["position"]
        height = height_at(scene.site.ground, land.heights(scene), np.array([[x, z]]))[0]
        self.assertLess(y, 1.1)
        self.assertGreaterEqual(y, height + 0.24)


class Shadows(BrowserTest):
    def test_the_shadow_of_a_tree_leans_with_it_in_the_wind(self):
        """The ground west of a birch with the sun in the east: nothing but its shadow is in the picture."""
        calm = WeatherPlan(wind=0, gusts=0, wind_from=180, season=7)
        birch = grass(name="birch", tier="canopy", assets=[AssetShare(asset="birch_young")], density=0, rules=[])
        tree = PlacedPlan(target="g", things=[PlacedThing(asset="birch_young", point=(3.0, 0.0, 0.0))])
        above = StationPlan(name="above", position=(-2.6, 4.2, 0.02), target=(-2.6, 0, 0), lens=35, order=1)
        site = site_of(
            self.user,
            **{"g": birch, "p": tree, "weather": calm, "station-1": above},
            ground=GroundPlan(width=12, depth=12, cell=0.5, amount=0.0),
            light=LightPlan(azimuth=90, elevation=30, cloud=0.0),
        )
        self.open(site)
        self.page.get_by_role("button", name="Hide birch").click()
        bare = self.bright()
        self.page.get_by_role("button", name="Show birch").click()
        still = self.bright() < 0.8 * bare
        self.assertTrue(0.03 < still.mean() < 0.6)
        self.step("Air")
        field = self.page.get_by_label("speed, m/s")
        field.fill("20")
        field.press("Enter")
        windy = self.bright() < 0.8 * bare
        self.assertGreater(windy.sum(), 0.5 * still.sum())
        # Wind from the south bends it north, which is up in this picture.
        rows = [np.average(np.arange(len(mask)), weights=mask.sum(axis=1)) for mask in (still, windy)]
        self.assertLess(rows[1], rows[0] - 0.06 * len(still))
        field.fill("0")
        field.press("Enter")
        self.assertLess(((self.bright() < 0.8 * bare) ^ still).mean(), 0.01)

    def bright(self) -> np.ndarray:
        """Brightness of the picture once what was changed is saved and drawn, fine texture aside."""
        self.saved()
        # Nothing that explains itself lies over the picture.
        self.page.evaluate("document.activeElement.blur()")
        self.page.mouse.move(2, 780)
        self.settled()
        return softened(self.plate())[10:-10].mean(axis=-1)


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

    def sharpness(self) -> float:
        """Pixels drawn for one of the screen along a side: fewer where the machine could not follow the hand."""
        return self.page.evaluate("(c => c.width / c.clientWidth)(document.querySelector('canvas[data-ready]'))")

    def pair(self, x: float, other: float, y: float) -> tuple[np.ndarray, np.ndarray]:
        """The pictures at two places of the handle, of the one sharpness the machine keeps up with."""
        for _ in range(4):
            first, sharpness = self.preview(x, y), self.sharpness()
            second = self.preview(other, y)
            if self.sharpness() == sharpness:
                self.assertTrue(0.49 < sharpness <= 1.0)
                return first, second
        self.fail("the sharpness of the picture never comes to rest")

    def test_a_drift_follows_its_gate_before_and_behind_what_stands(self):
        wall = PiecePlan(name="garden wall", asset="wall", position=(0, 0, -1))
        site = site_of(self.user, s=stones(), g=grass(density=8), wall=wall, **{"station-1": FRONT})
        self.open(site)
        self.choose("stones")
        self.settled()
        whole = self.plate()
        x, y = self.take("[data-rule=slope] [data-handle=fall_start]")
        same = self.preview(x - 3, y)
        # Level ground is let through all the while: drawn over the backdrop, the picture is what it was.
        self.assertEqual(self.sharpness(), 1)
        self.assertLess(np.abs(same - whole).mean(), 1.5)
        self.assertLess((np.abs(same - whole).max(axis=2) > 40).mean(), 0.02)
        same, _ = self.pair(x - 6, x - 9, y)
        self.assertLess(np.abs(softened(same) - softened(whole)).mean(), 2)
        self.page.mouse.move(x, y)
        self.page.mouse.up()
        self.saved()
        self.settled()
        x, y = self.take("[data-rule=slope] [data-handle=rise_start]")
        bare, barer = self.pair(x + 200, x + 210, y)
        gone = np.abs(bare - same).max(axis=2) > 25
        # Stones are gone from the ground; the sky above is untouched to the last bit.
        self.assertGreater(gone[300:].mean(), 0.004)
        self.assertEqual(np.abs(bare - barer)[:100, 320:600].max(), 0.0)
        self.assertLess(np.abs(softened(bare) - softened(same))[:25, 80:150].max(), 3)
        self.page.mouse.up()
        self.saved()
        self.settled()
        # And the picture drawn whole is the one that was shown while dragging.
        after = self.plate()
        self.assertLess((np.abs(softened(after) - softened(bare)).max(axis=2) > 25).mean(), 0.03)

    def test_a_patina_follows_on_all_that_carries_it(self):
        moss = PatinaPlan(name="moss", amount=1.0, uses=[PatinaUse(surface="wall/stone")])
        site = site_of(self.user, m=moss, wall=PiecePlan(name="garden wall", asset="wall"), **{"station-1": FRONT})
        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        self.settled()
        box = self.page.locator("[data-track='amount']").first.bounding_box()
        y = box["y"] + box["height"] / 2
        self.page.mouse.move(box["x"] + box["width"] - 2, y)
        self.page.mouse.down()
        before, less = self.pair(box["x"] + box["width"] - 3, box["x"] + 2, y)
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


class ManyPatinas(BrowserTest):
    """Each surface is drawn with up to sixteen patinas; what lies below those is named in its sheet."""

    def stacked(self, count: int, red: int):
        """A wall under a stack of patinas of which one alone covers it, in red."""
        plans = {}
        for order in range(count):
            plan = PatinaPlan(
                name=f"coat {order + 1}",
                order=order,
                amount=float(order == red),
                uses=[PatinaUse(surface="wall/stone"), PatinaUse(surface="wall/coping")],
            )
            plan.finish = plan.finish.model_copy(update={"material": "grime", "tint": "#ff0000", "break_up": 0.0})
            plans[f"p{order:02}"] = plan
        wall = PiecePlan(name="garden wall", asset="wall", position=(0, 0, -1))
        self.open(site_of(self.user, wall=wall, **plans, **{"station-1": FRONT}))
        self.step("Patinas")
        self.settled()

    def reddish(self) -> float:
        """The share of the picture that is far redder than it is green or blue."""
        picture = softened(self.plate())
        return float((picture[..., 0] > 1.8 * picture[..., 1:].max(axis=-1)).mean())

    def test_the_lowest_of_ten_shows_through_what_lies_thin_over_it(self):
        self.stacked(10, red=0)
        self.assertGreater(self.reddish(), 0.04)
        self.choose("coat 1")
        expect(self.page.get_by_text("Not drawn in the plate")).to_have_count(0)

    def test_the_lowest_of_eighteen_are_said_to_be_missing(self):
        self.stacked(18, red=1)
        self.assertLess(self.reddish(), 0.001)
        said = self.page.get_by_text("Not drawn in the plate on garden wall, stone, garden wall, coping")
        self.page.locator("nav button[aria-current]", has_text="coat 2").first.click()
        expect(said).to_be_visible()
        self.page.locator("nav button[aria-current]", has_text="coat 3").first.click()
        expect(self.page.get_by_text("Shared by 2 surfaces")).to_be_visible()
        expect(said).to_have_count(0)
