"""Weathering at the bench: one patina for another, what lies on what, dials and years, why it lies there."""

import re

import numpy as np
from playwright.sync_api import expect

from cenote_core.plan import (
    AssetShare,
    DecalPlan,
    DriftPlan,
    Gate,
    GroundPlan,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    StationPlan,
    rule_of,
)
from cenote_core.weatherings import WEATHERINGS
from sites.models import Item

from .browser import BrowserTest
from .helpers import site_of


def gate(a, b, c, d):
    return Gate(rise_start=a, rise_end=b, fall_start=c, fall_end=d)


WALL = ["wall/stone", "wall/coping"]


def weathered(user):
    """A wall with lichen and moss as their kinds start them, and a crate without anything."""
    station = StationPlan(name="front", position=(0, 1.4, 2.2), target=(0, 0.6, -2.5), lens=30, order=1)
    stain = WEATHERINGS["drip_streaks"].patina("drip_streaks", WALL, 3)
    thick = PatinaPlan(
        name="moss", amount=1.0, pace=10.0, weathering="moss", order=1, uses=[PatinaUse(surface=ref) for ref in WALL]
    )
    return site_of(
        user,
        **{
            "wall": PiecePlan(name="garden wall", asset="wall", position=(0, 0, -2.5)),
            "crate": PiecePlan(name="crate", asset="crate", position=(2.2, 0, 0.5)),
            "m": thick,
            "s": stain,
            "station-1": station,
        },
    )


class WeatheringAtTheBench(BrowserTest):
    def setUp(self):
        super().setUp()
        self.site = weathered(self.user)
        self.open(self.site)
        self.step("Patinas")

    def uses(self, key):
        plan = Item.objects.get(site=self.site, key=key).plan
        return sorted(use["surface"] for use in plan.get("uses", []))

    def test_a_mossy_wall_made_sandy_in_three_clicks_and_back(self):
        before = self.plate()
        self.choose("moss")
        self.page.get_by_role("button", name="Exchange for…").click()
        self.page.get_by_role("menuitem", name="new: blown sand").click()
        expect(self.page.get_by_role("region", name="Blown sand")).to_be_visible()
        self.saved()
        self.settled()
        sand = Item.objects.get(site=self.site, kind="patina", plan__name="blown sand")
        self.assertEqual((self.uses(sand.key), self.uses("m")), (sorted(WALL), []))
        self.assertGreater(np.abs(self.plate() - before).mean(), 2.0, "the moss is gone from the picture")
        self.page.get_by_role("button", name="Undo").click()
        self.saved()
        self.assertEqual(self.uses("m"), sorted(WALL))
        self.assertFalse(Item.objects.filter(site=self.site, key=sand.key, deleted=False).exists())

    def test_what_lies_on_what_is_set_by_clicks_and_a_stack_is_copied(self):
        self.page.get_by_role("button", name="What lies on what").click()
        table = self.page.get_by_role("dialog")
        square = table.get_by_role("checkbox", name="moss on crate, timber")
        expect(square).not_to_be_checked()
        square.click()
        expect(square).to_be_checked()
        square.click()
        expect(square).not_to_be_checked()
        table.get_by_role("button", name="Copy the stack of garden wall, coping").click()
        row = table.locator("tr", has_text="crate, timber")
        row.get_by_role("button", name="lay the copied stack here").click()
        expect(square).to_be_checked()
        table.get_by_role("button", name="Done").click()
        self.saved()
        self.assertEqual(self.uses("m"), sorted([*WALL, "crate/timber"]))
        self.assertEqual(self.uses("s"), sorted([*WALL, "crate/timber"]))

    def test_a_ticked_surface_goes_its_own_way(self):
        self.choose("moss")
        self.page.get_by_label("Tick garden wall, coping").check()
        self.page.get_by_role("button", name="Only on these").click()
        self.saved()
        copy = Item.objects.get(site=self.site, kind="patina", plan__name="moss, copy")
        self.assertEqual((self.uses("m"), self.uses(copy.key)), (["wall/stone"], ["wall/coping"]))

    def test_one_surface_has_a_rule_of_its_own_and_gates_count_what_is_in_view(self):
        self.choose("moss")
        tick = self.page.get_by_label("Tick garden wall, coping")
        tick.check()
        own = self.page.get_by_role("region", name="Only on garden wall, coping")
        own.get_by_role("button", name="+ rule").click()
        self.page.get_by_role("menuitem", name="height").first.click()
        self.saved()
        uses = {use["surface"]: use["rules"] for use in Item.objects.get(site=self.site, key="m").plan["uses"]}
        self.assertEqual([rule["measure"] for rule in uses["wall/coping"]], ["height"])
        self.assertEqual(uses["wall/stone"], [])
        share = own.locator("[data-share]")
        expect(share).to_have_text(re.compile(r"lets \d+ % through"))
        with self.page.expect_request(
            lambda r: r.url.endswith("/histograms") and bool((r.post_data_json or {}).get("sight"))
        ) as asked:
            own.get_by_role("button", name="what is in view").click()
        self.assertEqual(asked.value.post_data_json["sight"]["lens"], 30)
        self.assertEqual(asked.value.response().status, 200)
        tick.uncheck()
        expect(own).to_have_count(0)

    def test_a_row_is_dragged_to_another_place_of_the_stack(self):
        def order():
            orders = {i.key: i.plan["order"] for i in Item.objects.filter(site=self.site, kind="patina")}
            return sorted(orders, key=lambda key: -orders[key])

        before = order()
        course = self.page.get_by_role("navigation", name="Course")
        names = {"m": "moss", "s": "drip streaks"}
        rows = [course.get_by_role("button", name=names[key]).first for key in before]
        rows[1].drag_to(rows[0])
        self.saved()
        self.assertEqual(order(), before[::-1])
        self.page.get_by_role("button", name="Undo").click()
        self.saved()
        self.assertEqual(order(), before)

    def test_a_dial_turns_what_it_means_and_the_years_of_the_place_take_it_back_to_new(self):
        self.choose("drip streaks")
        field = self.page.get_by_label("runs on for, m")
        field.fill("5")
        field.press("Enter")
        self.saved()
        rules = Item.objects.get(site=self.site, key="s").plan["rules"]
        self.assertEqual(next(r for r in rules if r["measure"] == "runoff")["dry"], 5)
        before = self.plate()
        self.step("Air")
        years = self.page.get_by_label("years it has stood, years")
        years.fill("0")
        years.press("Enter")
        self.saved()
        self.settled()
        new = self.plate()
        self.assertGreater(np.abs(new - before).mean(), 2.0, "nothing has grown yet")
        self.step("Patinas")
        self.choose("moss")
        expect(self.page.get_by_text("0 years old")).to_be_visible()

    def test_a_measure_alone_and_the_plate_without_it_as_long_as_they_are_held(self):
        self.choose("moss")
        self.settled()
        before = self.plate()
        without = self.page.get_by_role("button", name="Hold: without it")
        self.held(without, lambda: self.assertGreater(np.abs(self.plate() - before).mean(), 2.0))
        self.assertLess(np.abs(self.plate() - before).mean(), 0.5, "as it was")
        self.choose("drip streaks")
        # One that is not the first of them: while it is held the sheet stays as it is.
        see, mask = self.page.get_by_label("See noise alone"), self.page.get_by_role("radio", name="mask")

        def looked_at():
            expect(mask).to_be_checked()
            expect(self.page.get_by_label("See runoff alone")).to_have_count(1)

        self.held(see, looked_at)
        expect(self.page.get_by_role("radio", name="lit")).to_be_checked()
        self.assertEqual(len(Item.objects.get(site=self.site, key="s").plan["rules"]), 3)

    def held(self, button, look):
        """Hold a button down and look meanwhile."""
        button.scroll_into_view_if_needed()
        button.hover()
        self.page.mouse.down()
        # What is held is a draft, whose picture follows at once but does not settle.
        self.page.wait_for_timeout(2500)
        look()
        self.page.mouse.up()
        self.settled()

    def test_why_it_lies_here(self):
        self.choose("moss")
        canvas = self.page.locator("canvas[aria-label='Picture of the site']")
        box = canvas.bounding_box()
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.55)
        self.page.keyboard.down("w")
        card = self.page.get_by_label("Why here")
        expect(card).to_contain_text("moss")
        expect(card).to_contain_text("years bring it to")


class OnWhatIsScattered(BrowserTest):
    def test_the_trunks_of_a_drift_are_among_what_may_carry_it(self):
        birch = DriftPlan(
            name="birches",
            assets=[AssetShare(asset="birch_young")],
            surfaces=["ground/ground"],
            density=0.02,
            spacing=3,
        )
        site = site_of(self.user, t=birch, m=PatinaPlan(name="moss"))
        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        self.page.get_by_role("button", name="+ surface").click()
        self.page.get_by_role("menuitemcheckbox", name="birches, trunk").click()
        self.page.keyboard.press("Escape")
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="m").plan["uses"][0]["surface"], "t/trunk")
        expect(self.page.get_by_text("proofs show each by itself")).to_be_visible()


class CloseBy(BrowserTest):
    def test_a_thin_line_along_a_foot_is_sharp_once_the_eye_rests(self):
        station = StationPlan(name="low", position=(0.2, 0.7, -0.9), target=(0.2, 0.0, -2.0), lens=35, order=1)
        thin = rule_of("near", pieces=["wall"], gate=gate(0, 0, 0.012, 0.014))
        line = PatinaPlan(name="line", amount=1.0, rules=[thin], uses=[PatinaUse(surface="ground/ground")])
        wall = PiecePlan(name="garden wall", asset="wall", position=(0, 0, -2.5), foot_width=0.0)
        ground = GroundPlan(width=60, depth=60, cell=1.0, amount=0.0)
        site = site_of(self.user, ground=ground, wall=wall, m=line, **{"station-1": station})
        self.open(site)
        self.step("Patinas")
        self.choose("line")
        self.page.get_by_role("button", name="Mask alone").click()
        self.settled()
        self.assertIn("ground", self.page.locator("canvas[data-pages]").get_attribute("data-pages").split())
        # The covers of the whole ground have 6 cm a texel: a line of 1.2 cm would be a fifth of its ink, pale grey.
        self.assertLess(np.percentile(self.plate().mean(axis=2), 0.2), 90)


class MasksOfOthers(BrowserTest):
    def shares(self):
        """How much of the picture is pale paper and how much is ink."""
        seen = self.plate().astype(int)
        pale = (seen.min(axis=2) > 175).mean()
        ink = ((seen[..., 2] > seen[..., 0] + 30) & (seen.max(axis=2) < 150)).mean()
        return pale, ink

    def test_of_a_drift_and_of_a_decal(self):
        station = StationPlan(name="front", position=(0, 2.4, 5), target=(0, 0.3, -1), lens=30, order=1)
        rule = rule_of("near", gate=gate(-1, -1, 1.5, 1.6))
        grass = DriftPlan(
            name="grass at the wall", assets=[AssetShare(asset="grass_low")], surfaces=["ground/ground"],
            density=4, spacing=0.3, headroom=0, rules=[rule],
        )  # fmt: skip
        crack = DecalPlan(
            name="crack", picture="crack", position=(0, 0.6, -2.1), facing=(0, 0, 1), width=1.5, height=1.5, depth=1.0
        )
        wall = PiecePlan(name="garden wall", asset="wall", position=(0, 0, -2.5))
        self.open(site_of(self.user, wall=wall, d=grass, c=crack, **{"station-1": station}))
        self.step("Drifts")
        self.choose("grass at the wall")
        button = self.page.get_by_role("button", name="Mask alone")
        button.click()
        self.settled()
        self.settled()
        pale, ink = self.shares()
        self.assertGreater(pale, 0.1, "ground where none may stand")
        self.assertGreater(ink, 0.02, "and where it may")
        self.step("Decals")
        self.choose("crack")
        self.settled()
        now, cracked = self.shares()
        self.assertLess(now, pale, "only the decal's own box is pale")
        self.assertGreater(now, 0.005)
        self.assertGreater(cracked, 0.0002)
        button.click()
        expect(self.page.get_by_role("radio", name="lit")).to_be_checked()
