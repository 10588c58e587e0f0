"""Lamps at the bench: added, seen to light what is near, dragged, explained, taken back."""

import numpy as np
from playwright.sync_api import expect

from cenote_core.plan import PiecePlan, StationPlan
from sites.models import Item

from .browser import BrowserTest
from .helpers import site_of

BEFORE_THE_WALL = StationPlan(name="before the wall", position=(0.0, 1.2, 4.0), target=(0.0, 0.8, -2.0))


class LampsAtTheBench(BrowserTest):
    def test_one_is_added_lights_the_wall_is_moved_and_taken_back(self):
        wall = PiecePlan(name="wall", asset="wall", position=(0, 0, -2), foot_width=0.0)
        site = site_of(self.user, wall=wall, **{"station-1": BEFORE_THE_WALL})
        self.open(site)
        unlit = self.plate()
        self.step("Air")
        self.page.get_by_role("button", name="+ lamp").click()
        self.saved()
        lamp = Item.objects.get(site=site, kind="lamp")
        self.page.get_by_role("button", name="candle").click()
        self.saved()
        lamp.refresh_from_db()
        self.assertEqual((lamp.plan["lumens"], lamp.plan["temperature"]), (12, 1900))
        field = self.page.get_by_label("light, lm").first
        field.fill("200000")
        field.press("Enter")
        self.saved()
        handle = self.page.locator("[data-grip=move]")
        handle.focus()
        for _ in range(2):
            self.page.keyboard.press("Shift+ArrowUp")
        self.saved()
        self.settled()
        lamp.refresh_from_db()
        np.testing.assert_allclose(lamp.plan["position"], (0, 2, -1), atol=0.02)
        lit = self.plate() - unlit
        # Warm light on the wall before it, and none on the sky.
        on_wall = lit[
            int(lit.shape[0] * 0.36) : int(lit.shape[0] * 0.46), int(lit.shape[1] * 0.4) : int(lit.shape[1] * 0.6)
        ]
        self.assertGreater(on_wall[..., 0].mean(), 12)
        self.assertGreater(on_wall[..., 0].mean(), on_wall[..., 2].mean() + 5)
        undo = self.page.get_by_role("button", name="Undo")
        for _ in range(5):
            undo.click()
            self.saved()
        self.assertFalse(Item.objects.filter(site=site, kind="lamp", deleted=False).exists())
        expect(self.page.get_by_role("button", name="Delete this lamp")).to_have_count(0)
        self.settled()
        # Where nothing is laid over the plate to say what was undone.
        on_the_wall = np.s_[int(unlit.shape[0] * 0.36) : int(unlit.shape[0] * 0.6)]
        self.assertLess(np.abs(self.plate() - unlit)[on_the_wall].mean(), 0.5)
