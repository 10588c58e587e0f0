"""Spells at the bench: shown by a click, changed along with the weather they are, and all that lies between two."""

import numpy as np
from playwright.sync_api import expect

from cenote_core.plan import PiecePlan, SpellPlan, StationPlan, WeatherPlan
from sites.models import Item

from .browser import BrowserTest
from .helpers import site_of


class SpellsAtTheBench(BrowserTest):
    def setUp(self):
        super().setUp()
        station = StationPlan(name="front", position=(0, 1.4, 2.2), target=(0, 0.6, -2.5), lens=30, order=1)
        self.site = site_of(
            self.user,
            wall=PiecePlan(name="garden wall", asset="wall", position=(0, 0, -2.5)),
            weather=WeatherPlan(spell="a", wetness=0.0),
            a=SpellPlan(name="dry summer", order=1, wetness=0.0),
            b=SpellPlan(name="after rain", order=2, wetness=1.0, wind=9.0),
            c=SpellPlan(name="first snow", order=3, snow=8.0, snowfall=2.0),
            d=SpellPlan(name="flood", order=4, standing=90.0),
            **{"station-1": station},
        )
        self.said = []
        self.page.on("console", lambda m: self.said.append(m.text) if m.type == "error" else None)
        self.open(self.site)

    def plan(self, key):
        return Item.objects.get(site=self.site, key=key).plan

    def test_one_click_shows_another_and_one_step_back_undoes_it(self):
        dry = self.plate()
        now = self.page.get_by_role("radio", name="dry summer")
        expect(now).to_be_checked()
        self.page.get_by_role("radio", name="after rain").click()
        self.saved()
        self.settled()
        weather = self.plan("weather")
        self.assertEqual((weather["spell"], weather["wetness"], weather["wind"]), ("b", 1.0, 9.0))
        self.assertLess(self.plate().mean(), dry.mean() - 3, "what is wet is darker")
        self.page.get_by_role("button", name="Undo").click()
        self.saved()
        expect(now).to_be_checked()
        self.assertEqual(self.plan("weather")["wetness"], 0.0)

    def test_snow_whitens_what_is_level_and_leaves_a_wall_as_it_is(self):
        bare = self.plate()
        self.page.get_by_role("radio", name="first snow").click()
        self.saved()
        self.settled()
        white = self.plate()
        ground, wall = np.s_[-120:-20, 100:-100], self.part_of(0.5, 0.53)
        self.assertGreater(white[ground].mean(), bare[ground].mean() + 60)
        self.assertLess(np.abs(white[wall].mean() - bare[wall].mean()), 25)

    def part_of(self, x, y):
        """A square of the picture round a place of it."""
        rows, columns = self.plate().shape[:2]
        return np.s_[int(rows * y) - 15 : int(rows * y) + 15, int(columns * x) - 15 : int(columns * x) + 15]

    def test_what_is_changed_under_air_is_changed_in_the_spell_that_shows(self):
        self.step("Air")
        field = self.page.get_by_label("wetness in the open")
        field.first.fill("0.4")
        field.first.press("Enter")
        self.saved()
        self.assertEqual((self.plan("weather")["wetness"], self.plan("a")["wetness"]), (0.4, 0.4))
        self.assertEqual(self.plan("b")["wetness"], 1.0)

    def test_a_new_one_is_the_weather_as_it_is_and_half_way_to_another_can_be_held(self):
        self.step("Water")
        self.page.get_by_role("button", name="+ spell").click()
        self.saved()
        new = Item.objects.get(site=self.site, kind="spell", plan__name="new spell")
        self.assertEqual((new.plan["wetness"], new.plan["order"]), (0.0, 5))
        self.choose("dry summer")
        slider = self.page.get_by_role("slider", name="Share of the way to after rain")
        slider.focus()
        self.page.keyboard.press("End")
        self.saved()
        self.settled()
        weather = self.plan("weather")
        self.assertAlmostEqual(weather["wetness"], 1.0)
        self.assertEqual(self.plan("a")["wetness"], 0.0, "the spell itself stays as it is")
        np.testing.assert_allclose(weather["wind"], 9.0)

    def test_two_stand_side_by_side_with_a_divider_that_is_dragged(self):
        dry = self.plate()
        self.page.get_by_role("button", name="Side by side").click()
        self.page.get_by_role("menuitem", name="first snow").click()
        self.page.locator("[data-beside=c]").wait_for(timeout=60_000)
        self.settled()
        both = self.plate()
        rows, half = np.s_[-180:-120], both.shape[1] // 2
        self.assertGreater(both[rows, 40 : half - 60].mean(), dry[rows, 40 : half - 60].mean() + 40, "snow to the left")
        self.assertLess(
            np.abs(both[rows, half + 60 : -160] - dry[rows, half + 60 : -160]).mean(), 12, "dry to the right"
        )
        self.drag("[role=separator]", -half * 0.6, 0)
        moved = self.plate()
        between = np.s_[-180:-120, int(half * 0.55) : half - 60]
        self.assertLess(np.abs(moved[between] - dry[between]).mean(), 12)
        self.assertEqual(self.plan("weather")["spell"], "a", "looking at another changes nothing")
        self.page.get_by_role("button", name="One alone").click()
        expect(self.page.get_by_role("separator", name="Divider between two spells")).to_have_count(0)

    def test_what_does_not_respond_says_why_and_is_cured_in_one_step(self):
        self.step("Pieces")
        self.choose("garden wall")
        self.page.get_by_role("button", name="Keep it free of snow").click()
        self.saved()
        self.page.get_by_role("radio", name="first snow").click()
        self.saved()
        self.step("Water")
        self.choose("first snow")
        sheet = self.page.get_by_text("It is kept free of snow.")
        sheet.wait_for(timeout=60_000)
        self.page.get_by_role("button", name="Let snow lie on it").click()
        self.saved()
        expect(sheet).to_have_count(0, timeout=60_000)
        self.assertTrue(self.plan("wall")["takes_snow"])

    def test_rain_falls_in_the_picture_and_the_spell_keeps_it(self):
        self.step("Air")
        before = self.plate()
        for label, amount in (("rain falling", "30"), ("exposure", "0.5")):
            field = self.page.get_by_label(label).first
            field.fill(amount)
            field.press("Enter")
            self.saved()
        self.settled()
        after = self.plate()
        self.assertGreater(after.mean(), before.mean() + 4, "exposed longer")
        fine = lambda picture: np.abs(np.diff(picture.mean(axis=2), axis=1))[60:200, 60:-60].mean()  # noqa: E731
        self.assertGreater(fine(after), fine(before) * 1.15, "streaks before the sky")
        self.assertEqual(self.plan("a")["rain"], 30.0)

    def test_standing_water_mirrors_the_sky_and_wets_what_lies_round_it(self):
        dry = self.plate()
        self.page.get_by_role("radio", name="flood").click()
        self.saved()
        self.settled()
        flooded = self.plate()
        ground = np.s_[-260:-60, 60:-200]
        self.assertGreater((np.abs(flooded - dry)[ground].mean(axis=2) > 3).mean(), 0.02, "pools are seen")
        self.page.get_by_role("button", name="channel").click()
        self.page.get_by_role("menuitem").filter(has_text="wet").click()
        self.settled()
        wet = self.plate()[ground].mean(axis=2)
        self.assertTrue(0.02 < (wet > 200).mean() < 0.6 and (wet < 10).mean() > 0.3, "soaked here and dry there")
        self.assertFalse([said for said in self.said if "shader" in said.lower()])

    def test_a_piece_is_kept_free_of_snow_and_frost_and_soaks_in_its_own_way(self):
        self.step("Pieces")
        self.choose("garden wall")
        snow = self.page.get_by_role("button", name="Keep it free of snow")
        snow.click()
        self.saved()
        self.assertEqual((self.plan("wall")["takes_snow"], self.plan("wall")["soaks"]), (False, None))
        expect(self.page.get_by_text("no snow", exact=False).first).to_be_visible()
        self.page.get_by_role("button", name="Its own way to soak").click()
        self.saved()
        field = self.page.get_by_label("takes water up").first
        field.fill("1")
        field.press("Enter")
        self.saved()
        self.assertEqual(self.plan("wall")["soaks"], 1.0)
        self.page.get_by_role("radio", name="after rain").click()
        self.saved()
        self.settled()
        soaked = self.plate()[self.part_of(0.5, 0.53)].mean()
        field.fill("0")
        field.press("Enter")
        self.saved()
        self.settled()
        self.assertGreater(
            self.plate()[self.part_of(0.5, 0.53)].mean(), soaked + 4, "what takes no water up stays light"
        )
