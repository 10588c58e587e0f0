"""Views of the plate: what each shows, looked at in pixels."""

import re

import numpy as np
from playwright.sync_api import expect

from cenote_core.measures.line import LineRule
from cenote_core.plan import Gate, StationPlan

from .browser import BrowserTest
from .helpers import grass, site_of, wall


class Views(BrowserTest):
    def setUp(self):
        super().setUp()
        # Grass grows within two metres of the ground's left rim, looked at from above.
        rule = LineRule(line=[(-5, -5), (-5, 5)], gate=Gate(rise_start=0, rise_end=0, fall_start=2, fall_end=2))
        above = StationPlan(name="above", position=(0, 14, 0.1), target=(0, 0, 0), lens=35, order=-1)
        self.site = site_of(self.user, g=grass(rules=[rule], density=8.0, headroom=0), above=above)
        self.open(self.site)

    def show(self, name):
        self.page.get_by_role("radio", name=name, exact=True).click()
        self.settled()
        return self.plate()

    def sides(self, picture):
        """The strip where grass grows, and as wide a strip at the other rim."""
        height, width, _ = picture.shape
        metre = width / (14 * 36 / 35)
        left, middle = int(width / 2 - 4.6 * metre), int(height / 2)
        rows = slice(int(middle - 2 * metre), int(middle + 2 * metre))
        strip = int(2.2 * metre)
        return picture[rows, left : left + strip], picture[rows, width - left - strip : width - left]

    def test_density_is_printed_as_dots_where_things_stand_and_says_how_many(self):
        picture = self.show("density")
        grown, bare = self.sides(picture)
        paper = bare.mean(axis=(0, 1))
        self.assertTrue((paper > 150).all(), paper)
        self.assertLess(bare.std(axis=(0, 1)).max(), 12)
        dark = grown.min(axis=2) < 110
        self.assertTrue(0.08 < dark.mean() < 0.9, dark.mean())
        # Dots, not a flat tone: darks and lights lie side by side many times along a row.
        changes = np.abs(np.diff(dark.astype(int), axis=1)).sum(axis=1)
        self.assertGreater(np.median(changes), 3)
        told = self.page.get_by_role("status").filter(has_text="per m²")
        expect(told).to_contain_text("all drifts")
        full = float(re.search(r"at ([\d.]+)", told.inner_text().replace("\u2009", "")).group(1))
        self.assertTrue(4 < full < 16, full)
        self.step("Drifts")
        self.choose("grass")
        expect(told).to_contain_text("grass: full dots")

    def test_each_view_is_another_picture_and_lit_is_as_it_was_before(self):
        seen = {name: self.show(name) for name in ("lit", "colour", "clay", "density")}
        names = list(seen)
        for k, one in enumerate(names):
            for other in names[k + 1 :]:
                self.assertGreater(np.abs(seen[one] - seen[other]).mean(), 2, (one, other))
        self.assertLess(np.abs(self.show("lit") - seen["lit"]).mean(), 0.5)


class WithoutLight(BrowserTest):
    def test_plants_have_no_light_in_the_view_of_colours(self):
        """The same grass under a high and a low sun has one colour."""
        close = StationPlan(name="close", position=(0, 0.5, 1.2), target=(0, 0.05, 0), lens=35, order=-1)
        site = site_of(self.user, g=grass(density=300.0, spacing=0.05, headroom=0), close=close, wall=wall())
        self.open(site)
        self.page.get_by_role("radio", name="colour").click()
        self.settled()
        high = self.plate()
        self.step("Air")
        field = self.page.get_by_label("above the horizon, °")
        field.fill("4")
        field.press("Enter")
        self.saved()
        self.settled()
        low = self.plate()
        middle = np.s_[300:600, 200:500]
        self.assertLess(np.abs(high[middle] - low[middle]).mean(), 3)
