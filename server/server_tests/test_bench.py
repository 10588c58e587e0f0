"""What an artist does at the bench, done in a browser."""

import re

import numpy as np
from playwright.sync_api import expect

from cenote_core.measures.noise import NoiseRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.plan import Finish, Gate, PatinaPlan, PatinaUse, PiecePlan, StationPlan
from sites.models import Change, Item, Site

from .browser import BrowserTest
from .helpers import grass, site_of


def gate(a, b, c, d):
    return Gate(rise_start=a, rise_end=b, fall_start=c, fall_end=d)


def small(user, **items):
    """A wall and a crate on level ground, grass before them, moss on the wall."""
    rules = [SlopeRule(gate=gate(0, 0, 40, 60))]
    plans = {
        "wall": PiecePlan(name="garden wall", asset="wall", position=(0, 0, -2.5)),
        "crate": PiecePlan(name="crate", asset="crate", position=(2.2, 0, 0.5)),
        "g": grass(density=6, spacing=0.2, rules=rules),
        "m": PatinaPlan(
            name="moss",
            uses=[PatinaUse(surface="wall/stone"), PatinaUse(surface="wall/coping")],
            rules=[NoiseRule(gate=gate(0.3, 0.5, 1, 1))],
        ),
        "station-1": StationPlan(name="front", position=(0, 2.0, 6.5), target=(0, 0.7, -2), lens=30, order=1),
        **items,
    }
    return site_of(user, **plans)


class SitesPage(BrowserTest):
    def test_wrong_password_then_sites_and_a_new_one(self):
        self.page.goto(self.live_server_url)
        self.page.get_by_label("Name").fill("ada")
        self.page.get_by_label("Password").fill("wrong")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("alert")).to_contain_text("do not belong together")
        self.sign_in()
        self.page.get_by_label("Name of a new site").fill("Mill race")
        self.page.get_by_role("button", name="New site").click()
        self.page.wait_for_selector("canvas[data-ready=true]", timeout=90_000)
        self.page.get_by_label("All sites").first.click()
        card = self.page.get_by_role("article", name="Mill race")
        expect(card).to_contain_text("40 × 40 m")
        card.get_by_role("button", name="Put away").click()
        expect(card).to_have_count(0)
        self.page.get_by_role("button", name="Bring it back").click()
        expect(card).to_have_count(1)
        self.assertIsNone(Site.objects.get(name="Mill race").deleted)


class DriftsAtTheBench(BrowserTest):
    def test_drag_a_gate_see_the_picture_undo(self):
        site = small(self.user)
        self.open(site)
        before = self.plate()
        self.choose("grass")
        share = self.page.locator("[data-rule=slope] [data-share]")
        expect(share).to_contain_text("100 %")
        # Pull the whole gate to steep slopes: level ground is no longer let through.
        self.drag("[data-rule=slope] [data-handle=rise_start]", 200, 0)
        self.saved()
        expect(share).to_contain_text("lets 0 %")
        expect(self.page.get_by_role("note")).to_contain_text("slope rule lets nothing through")
        rule = Item.objects.get(site=site, key="g").plan["rules"][0]
        self.assertGreater(rule["gate"]["rise_start"], 30)
        self.settled()
        bare = self.plate()
        # Without grass the ground before the wall shows: the lower half has changed, the sky has not.
        self.assertGreater(np.abs(bare - before)[400:].mean(), 2.0)
        self.assertLess(np.abs(bare - before)[:120, 300:].mean(), 1.0)
        self.page.get_by_role("button", name="Undo").click()
        expect(share).to_contain_text("100 %")
        expect(self.page.get_by_role("note")).to_have_count(0)
        self.page.reload()
        self.page.wait_for_selector("canvas[data-ready=true]", timeout=90_000)
        self.page.get_by_role("button", name="Redo").click()
        self.choose("grass")
        expect(share).to_contain_text("lets 0 %")

    def test_the_cure_cures(self):
        site = small(self.user, g=grass(density=0))
        self.open(site)
        self.choose("grass")
        expect(self.page.get_by_role("note")).to_contain_text("density is 0")
        self.page.get_by_role("button", name="Set 1 per m²").click()
        expect(self.page.get_by_role("note")).to_have_count(0)
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 1.0)

    def test_thin_with_the_brush_and_keep_it_through_a_change_of_density(self):
        site = small(self.user)
        self.open(site)
        self.choose("grass")
        row = self.page.locator("nav button[aria-current=true]")
        count = lambda: int(re.sub(r"\D", "", row.inner_text().split("grass")[-1]) or 0)  # noqa: E731
        self.page.wait_for_function("document.querySelector('nav button[aria-current=true]').innerText.match(/\\d/)")
        first = count()
        self.page.keyboard.press("t")
        x, y = self.on_plate(0.35, 0.75)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        for k in range(8):
            self.page.mouse.move(x + 18 * k, y)
        self.page.mouse.up()
        self.saved()
        touch = Item.objects.get(site=site, kind="touch").plan
        self.assertEqual((touch["action"], touch["target"], touch["owner"]), ("less", "g", "ground"))
        self.assertGreater(len(touch["points"]), 2)
        expect(self.page.get_by_role("region", name="By hand")).to_contain_text("thinned with 1.00 m")
        self.page.wait_for_function(
            f"!document.querySelector('nav button[aria-current=true]').innerText.includes('{first}')"
        )
        self.assertLess(count(), first)
        self.page.keyboard.press("Escape")
        field = self.page.get_by_label("density, per m²")
        field.fill("3")
        field.press("Enter")
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 3.0)
        self.assertEqual(Item.objects.filter(site=site, kind="touch", deleted=False).count(), 1)

    def test_new_drift_with_an_asset_and_a_typed_number_out_of_range(self):
        site = small(self.user)
        self.open(site)
        self.page.get_by_role("button", name="+ drift").click()
        self.page.get_by_role("button", name="+ asset").click()
        self.page.get_by_role("menuitem", name=re.compile("Lady fern, full")).click()
        self.saved()
        plan = Item.objects.exclude(key="g").get(site=site, kind="drift").plan
        self.assertEqual([a["asset"] for a in plan["assets"]], ["grass_mid", "fern_full"])
        field = self.page.get_by_label("density, per m²")
        field.fill("1e9")
        field.press("Enter")
        self.page.wait_for_timeout(300)
        self.assertEqual(Item.objects.exclude(key="g").get(site=site, kind="drift").plan["density"], plan["density"])


class PatinasAtTheBench(BrowserTest):
    def test_mask_turn_down_and_shared_change(self):
        site = small(self.user)
        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        expect(self.page.get_by_text("Shared by 2 surfaces")).to_be_visible()
        lit = self.plate()
        self.page.get_by_role("button", name="Mask alone").click()
        self.settled()
        mask = self.plate()
        wall = mask[300:420, 200:560]
        self.assertGreater(np.ptp(lit[300:420, 200:560], axis=-1).mean(), 6)
        # What carries it is pale where it is bare and dark where it lies; what does not is grey throughout.
        self.assertGreater(wall.max(), 150)
        self.assertLess(wall.min(), 80)
        bare = mask[600:700, 100:600]
        self.assertTrue(60 < bare.mean() < 150 and bare.std() < 25, (bare.mean(), bare.std()))
        self.page.keyboard.press("x")
        field = self.page.get_by_role("textbox", name="garden wall, stone")
        field.fill("0")
        field.press("Enter")
        self.saved()
        self.settled()
        uses = Item.objects.get(site=site, key="m").plan["uses"]
        self.assertEqual({u["surface"]: u["amount"] for u in uses}, {"wall/stone": 0.0, "wall/coping": 1.0})
        self.assertGreater(np.abs(self.plate() - lit)[300:420, 200:560].mean(), 3)

    def test_a_tint_is_one_step_back_and_looking_at_it_is_none(self):
        site = small(self.user)
        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        tint = self.page.get_by_label("tint")
        before = tint.input_value()
        tint.focus()
        tint.blur()
        for colour in ("#7f2010", "#8f3020"):
            tint.fill(colour)
        tint.blur()
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="m").plan["finish"]["tint"], "#8f3020")
        self.assertEqual(Change.objects.filter(site=site).count(), 1)
        self.page.keyboard.press("Control+z")
        expect(tint).to_have_value(before)

    def test_a_material_that_is_gone_is_said_and_another_one_cures_it(self):
        plan = PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")], finish=Finish(material="felt-of-old"))
        site = small(self.user, m=plan)
        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        expect(self.page.get_by_role("alert")).to_contain_text("no longer in the kit")
        self.page.get_by_role("combobox", name="Material of the patina").click()
        self.page.get_by_role("option", name="Cushion moss", exact=True).click()
        self.saved()
        expect(self.page.get_by_role("alert")).to_have_count(0)
        self.assertEqual(Item.objects.get(site=site, key="m").plan["finish"]["material"], "moss")


class DecalsAndPieces(BrowserTest):
    def test_place_a_decal_by_clicking_then_drag_its_handles(self):
        site = small(self.user)
        self.open(site)
        self.step("Decals")
        self.page.get_by_role("button", name="Branching crack").click()
        x, y = self.on_plate(0.5, 0.53)
        self.page.mouse.click(x, y)
        self.saved()
        plan = Item.objects.get(site=site, kind="decal").plan
        self.assertEqual(plan["receivers"], ["wall"])
        self.assertGreater(plan["facing"][2], 0.9)
        self.page.locator("[data-grip=size]").wait_for()
        self.drag("[data-grip=size]", 60, 40)
        self.saved()
        sized = Item.objects.get(site=site, kind="decal").plan
        self.assertGreater(sized["width"], plan["width"] * 1.1)
        self.drag("[data-grip=move]", -120, 0)
        self.saved()
        moved = Item.objects.get(site=site, kind="decal").plan
        self.assertLess(moved["position"][0], sized["position"][0] - 0.3)
        self.drag("[data-grip=turn]", 60, 60)
        self.saved()
        self.assertLess(Item.objects.get(site=site, kind="decal").plan["turn"], -10)

    def test_place_move_turn_and_delete_a_piece(self):
        site = small(self.user)
        self.open(site)
        self.step("Pieces")
        self.page.get_by_role("button", name="+ piece").click()
        self.page.get_by_role("button", name=re.compile("Milk churn")).click()
        self.page.keyboard.press(".")
        x, y = self.on_plate(0.4, 0.72)
        self.page.mouse.move(x, y)
        self.page.mouse.click(x, y)
        self.saved()
        item = Item.objects.get(site=site, kind="piece", plan__asset="churn")
        self.assertEqual((item.plan["name"], item.plan["turn"]), ("milk churn", 15))
        self.page.keyboard.press("Escape")
        self.choose("milk churn")
        self.page.locator("[data-grip=move]").wait_for()
        self.page.wait_for_timeout(500)
        self.drag("[data-grip=move]", 80, 0)
        self.saved()
        moved = Item.objects.get(pk=item.pk)
        self.assertGreater(moved.plan["position"][0], item.plan["position"][0] + 0.2)
        self.assertAlmostEqual(moved.plan["position"][1], item.plan["position"][1], delta=0.3)
        self.page.keyboard.press("d")
        self.saved()
        names = Item.objects.filter(site=site, kind="piece", plan__asset="churn").values_list("plan__name", flat=True)
        self.assertEqual(sorted(names), ["milk churn", "milk churn 2"])
        self.page.keyboard.press("h")
        self.saved()
        self.assertFalse(Item.objects.get(site=site, plan__name="milk churn 2").plan["visible"])
        self.page.locator("nav button[aria-current]", has_text=re.compile("milk churn$")).click()
        self.page.get_by_role("button", name="Delete this piece").click()
        self.saved()
        self.assertTrue(Item.objects.get(pk=item.pk).deleted)
        self.page.get_by_role("button", name="Undo").click()
        expect(self.page.locator("nav button", has_text="churn").first).to_be_visible()

    def test_stations(self):
        site = small(self.user)
        self.open(site)
        first = self.plate()
        x, y = self.on_plate(0.5, 0.3)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 150, y + 10, steps=4)
        self.page.mouse.up()
        self.page.get_by_role("button", name="Save station").click()
        self.saved()
        self.assertEqual(Item.objects.filter(site=site, kind="station").count(), 2)
        self.settled()
        self.assertGreater(np.abs(self.plate() - first).mean(), 4)
        self.page.get_by_role("button", name="1 · front").click()
        self.settled()
        self.assertLess(np.abs(self.plate() - first)[:, :].mean(), 2.5)


class GroundAndAir(BrowserTest):
    def test_raising_the_ground_carries_what_stands_on_it(self):
        site = small(self.user)
        self.open(site)
        before = self.plate()
        self.step("Ground")
        self.page.get_by_role("button", name="+ mound").click()
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="ground").plan["forms"][0]["form"], "mound")
        self.settled()
        self.assertGreater(np.abs(self.plate() - before)[350:].mean(), 3)
        from cenote_core.drifts.instancing import build_instances
        from sites.computing import scene_of

        scene = scene_of(site)
        found = build_instances(scene, "g", scene.site.drifts["g"])
        middle = np.hypot(found.position[:, 0], found.position[:, 2]) < 1.0
        self.assertGreater(found.position[middle, 1].mean(), 0.7)

    def test_dragging_the_sun_changes_the_light_at_once_and_is_undone(self):
        site = small(self.user)
        self.open(site)
        noon = self.plate()
        self.step("Air")
        track = self.page.locator("[data-track='above the horizon']")
        box = track.bounding_box()
        self.page.mouse.move(box["x"] + box["width"] * 0.35, box["y"] + 6)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + 4, box["y"] + 6, steps=4)
        self.page.wait_for_function("document.body.dataset.preview !== undefined")
        self.page.mouse.up()
        self.saved()
        self.settled()
        self.assertLess(Item.objects.get(site=site, key="light").plan["elevation"], 5)
        self.assertLess(self.plate()[450:].mean(), noon[450:].mean() * 0.9)
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_role("textbox", name="above the horizon, °")).to_have_value("32")

    def test_views_keys_and_folding(self):
        site = small(self.user)
        self.open(site)
        self.page.get_by_role("radio", name="clay").click()
        self.settled()
        self.assertLess(np.ptp(self.plate(), axis=-1)[300:].mean(), 30)
        self.page.get_by_role("button", name="All keys").click()
        expect(self.page.get_by_role("dialog")).to_contain_text("undo")
        self.page.keyboard.press("Escape")
        # A key that has nothing to work on says so.
        self.page.keyboard.press("p")
        expect(self.page.get_by_text("Choose a drift or a patina in the course first")).to_be_visible()
        wide = self.page.locator("canvas[aria-label='Picture of the site']").bounding_box()["width"]
        self.page.get_by_role("button", name="Fold the sheet").click()
        self.page.wait_for_timeout(500)
        self.assertGreater(
            self.page.locator("canvas[aria-label='Picture of the site']").bounding_box()["width"], wide + 250
        )
