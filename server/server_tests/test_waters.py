"""Still and running water at the bench: set into the ground, made muddy, let run, undone."""

import numpy as np
from playwright.sync_api import expect

from cenote_core.plan import Basin, Cut, GroundPlan, LightPlan, StationPlan, Water
from cenote_core.plan.stored import upgraded
from sites.models import Item

from .browser import BrowserTest
from .helpers import change, client_of, site_of, wall

HOLLOW = Basin(centre=(0, 0), radius=4.5, floor=-0.8, rim=0.0, inside=2.5)
DITCH = Cut(line=[(-9, 6), (9, 6)], width=1.2, depth=0.4, bank=0.4)


class WatersAtTheBench(BrowserTest):
    def setUp(self):
        super().setUp()
        ground = GroundPlan(name="ground", width=24, depth=24, cell=0.25, amount=0.0, forms=[HOLLOW, DITCH])
        station = StationPlan(name="pond", position=(0, 1.6, 5.2), target=(0, -0.6, 0), lens=30, order=1)
        self.site = site_of(self.user, ground=ground, **{"station-1": station})
        self.open(self.site)

    def forms(self):
        return Item.objects.get(site=self.site, key="ground").plan["forms"]

    def middle(self):
        rows, columns = self.plate().shape[:2]
        return self.plate()[int(rows * 0.4) : int(rows * 0.65), int(columns * 0.3) : int(columns * 0.7)].astype(float)

    def drawn_anew(self, before, least):
        """The picture once it has changed by so much from the one before, or after a quarter of a minute."""
        self.saved()
        for _ in range(30):
            self.page.wait_for_timeout(500)
            self.settled()
            now = self.middle()
            if np.abs(now - before).mean() > least:
                break
        self.settled()
        return self.middle()

    def test_water_is_set_into_a_hollow_made_muddy_and_taken_back(self):
        dry = self.middle()
        self.step("Ground")
        self.page.get_by_role("button", name="+ still water").click()
        self.saved()
        level = self.page.get_by_label("level").last
        level.fill("-0.3")
        level.press("Enter")
        wet = self.drawn_anew(dry, 4)
        self.assertEqual((self.forms()[-1]["form"], self.forms()[-1]["level"]), ("water", -0.3))
        self.assertGreater(np.abs(wet - dry).mean(), 4, "the sky is mirrored in it")
        # What is mirrored is bluer than the turf under it.
        self.assertGreater((wet[..., 2] - wet[..., 1]).mean(), (dry[..., 2] - dry[..., 1]).mean() + 5)
        muddy = self.page.get_by_label("muddy").last
        muddy.fill("1")
        muddy.press("Enter")
        brown = self.drawn_anew(wet, 1.5)
        self.assertGreater(np.abs(brown - wet).mean(), 1.5)
        for _ in range(3):
            self.page.get_by_role("button", name="Undo").click()
            self.saved()
        self.assertEqual(len(self.forms()), 2)
        # In between it shows what each step left.
        for _ in range(30):
            self.settled()
            off = np.abs(self.middle() - dry).mean()
            if off < 1.5:
                break
            self.page.wait_for_timeout(500)
        self.assertLess(off, 1.5)

    def test_water_runs_in_a_ditch_and_says_how_much(self):
        self.step("Ground")
        expect(self.page.get_by_label("water running")).to_have_count(0)
        self.page.get_by_role("button", name="Let water run in it").click()
        self.saved()
        expect(self.page.get_by_label("water running").first).to_be_visible()
        expect(self.page.get_by_text("It runs from the first point to the last")).to_be_visible()
        self.assertGreater(self.forms()[1]["water"], 0)
        scene = client_of(self.user).get(f"/api/sites/{self.site.pk}/scene").json()
        (water,) = scene["waters"]
        self.assertEqual((water["number"], len(water["waves"])), (0, 24))
        sheet = client_of(self.user).get(water["url"])
        self.assertEqual(sheet.status_code, 200)
        self.assertGreater(len(sheet.content), 5000)
        self.assertIn(client_of(self.user).get(water["url"].replace("/0?", "/7?")).status_code, (404, 410))


class LightFromWater(BrowserTest):
    """A wall behind a pond, the sun low before both."""

    def test_the_sun_that_water_mirrors_plays_on_a_wall_near_by_as_its_strength_says(self):
        forms = [HOLLOW, Water(centre=(0, 0), level=-0.1)]
        ground = GroundPlan(name="ground", width=24, depth=24, cell=0.25, amount=0.0, forms=forms)
        station = StationPlan(name="wall", position=(0, 1.4, 5.5), target=(0, 0.9, -4.5), lens=40, order=1)
        sun = LightPlan(azimuth=180, elevation=24, cloud=0.1)
        site = site_of(self.user, ground=ground, wall=wall().model_copy(update={"position": (0, 0, -4.6)}),
                       **{"station-1": station, "light": sun})  # fmt: skip
        self.open(site)
        pictures = {}
        for strength in (1.0, 3.0, 0.0):
            item = Item.objects.get(site=site, key="ground")
            now = upgraded(item.plan)
            now["forms"][-1]["patterns"] = strength
            self.assertEqual(change(client_of(self.user), site, ("ground", item.revision, now))[0], 200)
            self.open(site)
            pictures[strength] = self.on_wall()
        lit = pictures[1.0] - pictures[0.0]
        self.assertGreater(lit.mean(), 1.0, "what it mirrors is added")
        self.assertGreater(lit.std(), 0.5, "in patterns")
        self.assertGreater((pictures[3.0] - pictures[0.0]).std(), 1.3 * lit.std(), "the stronger the more of them")

    def on_wall(self):
        rows, columns = self.plate().shape[:2]
        return self.plate()[int(rows * 0.36) : int(rows * 0.52), int(columns * 0.3) : int(columns * 0.7)].mean(axis=2)
