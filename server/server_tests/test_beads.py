"""Droplets at the bench: put on a thing, made larger, kept to a region, wiped away, undone."""

import numpy as np
from playwright.sync_api import expect

from cenote_core.plan import BeadsPlan, PatinaUse, PiecePlan, StationPlan
from cenote_core.plan.stored import upgraded
from sites.models import Item

from .browser import BrowserTest
from .helpers import change, client_of, site_of


class BeadsAtTheBench(BrowserTest):
    def setUp(self):
        super().setUp()
        self.site = site_of(
            self.user,
            bucket=PiecePlan(name="bucket", asset="bucket", position=(0, 0, 0), foot_width=0.0),
            **{"station-1": StationPlan(name="near", position=(0, 0.2, 0.4), target=(0, 0.12, 0), lens=40, order=1)},
        )
        self.open(self.site)

    def kept(self):
        return Item.objects.get(site=self.site, kind="beads").plan

    def middle(self):
        rows, columns = self.plate().shape[:2]
        return self.plate()[int(rows * 0.4) : int(rows * 0.6), int(columns * 0.4) : int(columns * 0.6)].astype(float)

    def changed(self, before, enough=lambda found: found > 0.3):
        """How far the picture is from what it was, once that is enough, or after a quarter of a minute."""
        for _ in range(30):
            self.page.wait_for_timeout(500)
            self.settled()
            found = float(np.abs(self.middle() - before).mean())
            if enough(found):
                break
        return found

    def back(self, before, most):
        """The same, once it is as good as back."""
        return self.changed(before, lambda found: found < most)

    def test_they_form_on_a_surface_follow_the_handle_and_are_undone(self):
        dry = self.middle()
        self.step("Water")
        self.page.get_by_role("button", name="+ beads").click()
        self.saved()
        expect(self.page.get_by_text("No surface is chosen for them to form on").first).to_be_visible()
        self.page.get_by_role("button", name="+ surface").click()
        self.page.get_by_role("menuitemcheckbox", name="zinc").click()
        self.page.keyboard.press("Escape")
        self.saved()
        expect(self.page.get_by_text("droplets", exact=False).first).to_be_visible(timeout=60_000)
        self.assertEqual([use["surface"] for use in self.kept()["uses"]], ["bucket/zinc"])
        wet = self.changed(dry)
        self.assertGreater(wet, 1.2, "droplets are seen on the bucket")
        small = self.middle()
        field = self.page.get_by_label("larger ones").first
        field.fill("5")
        field.press("Enter")
        self.saved()
        self.assertEqual(self.kept()["size"], 5.0)
        self.assertGreater(self.changed(small), 1.0, "they are larger")
        undo = self.page.get_by_role("button", name="Undo")
        for _ in range(3):
            undo.click()
            self.saved()
        self.assertFalse(Item.objects.filter(site=self.site, kind="beads", deleted=False).exists())
        self.assertLess(self.back(dry, 0.3 * wet), 0.3 * wet, "and none is left")

    def test_a_region_with_none_in_it_says_so_and_offers_the_cure(self):
        self.step("Water")
        self.page.get_by_role("button", name="+ beads").click()
        self.page.get_by_role("button", name="+ surface").click()
        self.page.get_by_role("menuitemcheckbox", name="zinc").click()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="+ region in the middle of the view").click()
        across = self.page.get_by_label("across").first
        across.fill("0.01")
        across.press("Enter")
        self.saved()
        expect(self.page.get_by_text("lies inside the region").first).to_be_visible(timeout=60_000)
        self.page.get_by_role("button", name="let them be anywhere").click()
        self.saved()
        self.assertEqual(self.kept()["regions"], [])

    def test_they_are_drawn_instead_and_shaped_again(self):
        self.step("Water")
        self.page.get_by_role("button", name="+ beads").click()
        self.page.get_by_role("button", name="+ surface").click()
        self.page.get_by_role("menuitemcheckbox", name="zinc").click()
        self.page.keyboard.press("Escape")
        self.saved()
        expect(self.page.get_by_text("droplets", exact=False).first).to_be_visible(timeout=60_000)
        self.settled()
        shaped = self.middle()
        self.page.get_by_role("button", name="Drawn", exact=True).click()
        self.saved()
        expect(self.page.get_by_text("drawn on", exact=False).first).to_be_visible(timeout=60_000)
        expect(self.page.get_by_label("pool at its foot")).to_have_count(0)
        self.assertTrue(self.kept()["drawn"])
        self.assertGreater(self.changed(shaped), 1.0)
        drawn = self.middle()
        self.page.get_by_role("button", name="Shaped", exact=True).click()
        self.saved()
        self.assertGreater(self.changed(drawn), 1.0)
        self.assertLess(self.back(shaped, 0.5), 0.5)

    def test_time_is_scrubbed_and_let_run(self):
        self.step("Water")
        self.page.get_by_role("button", name="+ beads").click()
        self.page.get_by_role("button", name="+ surface").click()
        self.page.get_by_role("menuitemcheckbox", name="zinc").click()
        self.page.keyboard.press("Escape")
        size = self.page.get_by_label("larger ones").first
        size.fill("5")
        size.press("Enter")
        self.saved()
        self.settled()
        before = self.middle()
        bar = self.page.get_by_label("Moment of the run, s")
        bar.focus()
        for _ in range(20):
            self.page.keyboard.press("ArrowRight")
        self.saved()
        self.assertAlmostEqual(self.kept()["runs"], 2.0, places=5)
        self.assertGreater(self.changed(before), 0.4, "the heavy ones have run down")
        expect(self.page.get_by_label("trail dries in").first).to_be_visible()
        self.page.get_by_role("button", name="Let run").click()
        self.page.wait_for_timeout(2500)
        self.page.get_by_role("button", name="Stop").click()
        self.saved()
        self.assertGreater(self.kept()["runs"], 2.4)


class FromAfar(BrowserTest):
    """Droplets with bodies that are less than a pixel from the station."""

    def test_they_are_drawn_as_a_film_on_what_carries_them(self):
        beads = BeadsPlan(name="dew", uses=[PatinaUse(surface="bucket/zinc")], size=2.0, crowded=0.8)
        bucket = PiecePlan(name="bucket", asset="bucket", position=(0, 0, 0), foot_width=0.0, size=6.0)
        far = StationPlan(name="far", position=(0, 1.2, 11), target=(0, 0.9, 0), lens=60, order=1)
        site = site_of(self.user, bucket=bucket, dew=beads, **{"station-1": far})
        self.open(site)
        wet = self.plate()
        scene = client_of(self.user).get(f"/api/sites/{site.pk}/scene").json()
        self.assertIn("afar.dew", next(o for o in scene["owners"] if o["owner"] == "bucket")["patinas"])
        item = Item.objects.get(site=site, key="dew")
        hidden = {**upgraded(item.plan), "visible": False}
        self.assertEqual(change(client_of(self.user), site, ("dew", item.revision, hidden))[0], 200)
        self.open(site)
        dry = self.plate()
        rows, columns = dry.shape[:2]
        on_it = np.s_[int(rows * 0.4) : int(rows * 0.6), int(columns * 0.45) : int(columns * 0.55)]
        self.assertGreater(np.abs(wet[on_it] - dry[on_it]).mean(), 1.0)
        beside = np.s_[: int(rows * 0.2)]
        self.assertLess(np.abs(wet[beside] - dry[beside]).mean(), 0.5)
