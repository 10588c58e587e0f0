"""Shaping ground and working on drifts at the bench, done in a browser as a person does it."""

import io
import re
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from cenote_core.drifts.instancing import build_instances
from cenote_core.ground.terrain import height_at
from cenote_core.plan import StationPlan
from cenote_core.scene import land
from sites.computing import scene_of
from sites.models import Item

from .browser import BrowserTest
from .helpers import grass
from .test_bench import small


def count(site):
    scene = scene_of(site)
    return len(build_instances(scene, "g", scene.site.drifts["g"]))


class Ground(BrowserTest):
    def height(self, site, x, z):
        scene = scene_of(site)
        return float(height_at(scene.site.ground, land.heights(scene), np.array([[x, z]]))[0])

    def test_raise_with_the_brush_see_it_at_once_and_leave_one_stroke_out(self):
        site = small(self.user)
        self.open(site)
        self.step("Ground")
        before = self.plate()
        self.page.get_by_role("button", name="Raise").click()
        x, y = self.on_plate(0.5, 0.75)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 40, y, steps=4)
        self.page.wait_for_function("document.body.dataset.preview !== undefined")
        self.page.mouse.up()
        self.saved()
        touch = Item.objects.get(site=site, kind="touch")
        self.assertEqual((touch.plan["target"], touch.plan["action"]), ("ground", "raise"))
        at = touch.plan["points"][0]
        self.assertGreater(self.height(site, at[0], at[2]), 0.15)
        self.settled()
        self.assertGreater(np.abs(self.plate() - before)[350:].mean(), 1.5)
        hand = self.page.get_by_role("region", name="By hand")
        expect(hand).to_contain_text("raised with 1.00 m")
        hand.get_by_role("button", name=re.compile("Leave out")).click()
        self.saved()
        self.assertLess(abs(self.height(site, at[0], at[2])), 0.4)
        self.assertFalse(Item.objects.get(pk=touch.pk).plan["visible"])

    def test_a_path_is_drawn_by_clicks_and_its_mark_dragged(self):
        site = small(self.user)
        self.open(site)
        self.step("Ground")
        self.page.get_by_role("button", name="+ path or ditch").click()
        for share in (0.2, 0.5, 0.8):
            x, y = self.on_plate(share, 0.78)
            self.page.mouse.move(x, y)
            self.page.mouse.click(x, y)
        self.page.keyboard.press("Enter")
        self.saved()
        form = Item.objects.get(site=site, key="ground").plan["forms"][0]
        self.assertEqual((form["form"], len(form["line"])), ("cut", 3))
        mark = self.page.locator("[data-mark='cut 1 ·2']")
        mark.wait_for()
        # The mark comes down with the ground into which the path is pressed; it is taken when it lies still.
        self.settled()
        self.page.wait_for_timeout(500)
        self.drag("[data-mark='cut 1 ·2']", 0, 50)
        self.saved()
        moved = Item.objects.get(site=site, key="ground").plan["forms"][0]
        self.assertGreater(moved["line"][1][1], form["line"][1][1] + 0.2)
        self.assertEqual(moved["line"][0], form["line"][0])

    def test_height_image_and_a_painted_surface(self):
        site = small(self.user)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "slope.png"
            ramp = np.linspace(65535, 0, 64)[:, None].repeat(64, axis=1).astype(np.uint16)
            out = io.BytesIO()
            Image.fromarray(ramp).save(out, "PNG")
            path.write_bytes(out.getvalue())
            self.open(site)
            self.step("Ground")
            self.page.get_by_label("Height image file").set_input_files(str(path))
            self.saved()
            self.page.get_by_text("64 × 64 px").wait_for()
            self.saved()
        self.assertGreater(self.height(site, 0, -4) - self.height(site, 0, 4), 3)
        self.settled()
        self.page.get_by_label("Add a surface").locator("..").click()
        self.page.get_by_role("option", name="Ballast and gravel").click()
        self.saved()
        self.page.get_by_role("button", name="Paint", exact=True).click()
        x, y = self.on_plate(0.5, 0.8)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 60, y, steps=4)
        self.page.mouse.up()
        self.saved()
        touch = Item.objects.get(site=site, kind="touch").plan
        self.assertEqual((touch["target"], touch["action"]), ("ground.gravel", "more"))
        self.step("Drifts")
        self.choose("grass")
        self.page.get_by_role("button", name="+ surface").click()
        expect(self.page.get_by_role("menuitemcheckbox", name="ground, gravel")).to_be_visible()


class Hand(BrowserTest):
    def site(self):
        station = StationPlan(name="down", position=(0, 4, 5), target=(0, 0, 0.5), lens=30, order=1)
        plan = grass(density=1.2, spacing=0.7, assets=[{"asset": "fern_full"}, {"asset": "fern_young"}])
        return small(self.user, **{"station-1": station, "g": plan})

    def test_set_down_one_turned_and_sized_before(self):
        site = self.site()
        before = count(site)
        self.open(site)
        self.choose("grass")
        self.page.keyboard.press("o")
        x, y = self.on_plate(0.5, 0.6)
        self.page.mouse.move(x, y)
        self.page.keyboard.press(".")
        self.page.keyboard.press("=")
        self.page.mouse.click(x, y)
        self.saved()
        self.page.mouse.click(x + 60, y)
        self.saved()
        placed = Item.objects.filter(site=site, kind="placed").order_by("id")
        things = [p.plan["things"][0] for p in placed]
        self.assertEqual([t["asset"] for t in things], ["fern_full", "fern_young"])
        self.assertEqual((things[0]["turn"], things[0]["size"]), (15, 1.1))
        self.assertEqual(count(site), before + 2)

    def test_pick_move_and_take_away(self):
        site = self.site()
        before = count(site)
        self.open(site)
        self.choose("grass")
        self.page.get_by_role("button", name="Pick", exact=True).click()
        (ax, ay), (bx, by) = self.on_plate(0.3, 0.45), self.on_plate(0.7, 0.8)
        self.page.mouse.move(ax, ay)
        self.page.mouse.down()
        self.page.mouse.move(bx, by, steps=5)
        self.page.mouse.up()
        panel = self.page.get_by_role("region", name="Picked")
        expect(panel).to_contain_text("picked")
        picked = int(re.match(r"\d+", panel.inner_text())[0])
        self.assertGreater(picked, 2)
        self.assertEqual(self.page.locator("[data-picked]").count(), picked)
        panel.get_by_role("button", name=re.compile("Larger")).click()
        self.saved()
        edit = Item.objects.get(site=site, kind="edit").plan
        self.assertEqual((len(edit["identities"]), edit["size"]), (picked, 1.1))
        self.page.keyboard.press("Delete")
        self.saved()
        self.assertEqual(count(site), before - picked)
        self.assertEqual(Item.objects.get(site=site, plan__action="remove").plan["target"], "g")
        self.page.keyboard.press("Control+z")
        self.page.wait_for_timeout(500)
        self.assertEqual(count(site), before)

    def test_along_a_line(self):
        site = self.site()
        before = count(site)
        self.open(site)
        self.choose("grass")
        self.page.keyboard.press("l")
        for share in (0.25, 0.75):
            x, y = self.on_plate(share, 0.7)
            self.page.mouse.move(x, y)
            self.page.mouse.click(x, y)
            self.page.wait_for_timeout(450)
        self.page.keyboard.press("Enter")
        self.saved()
        line = Item.objects.get(site=site, kind="line").plan
        self.assertEqual(len(line["points"]), 2)
        self.assertGreater(count(site), before + 2)
        field = self.page.get_by_label("number, 0 by spacing")
        field.fill("4")
        field.press("Enter")
        self.saved()
        self.assertEqual(count(site), before + 4)


class Explained(BrowserTest):
    def test_hold_w_for_why_here_and_a_marker_on_the_gate(self):
        site = small(self.user)
        self.open(site)
        self.choose("grass")
        x, y = self.on_plate(0.3, 0.75)
        self.page.mouse.move(x - 5, y)
        self.page.mouse.move(x, y)
        self.page.locator("[data-rule=slope] [data-marker]").wait_for()
        self.page.keyboard.down("w")
        card = self.page.get_by_label("Why here")
        expect(card).to_contain_text("grass")
        expect(card).to_contain_text("slope")
        expect(card).to_contain_text(re.compile(r"lets all through|stands|nearest"))
        self.page.keyboard.up("w")
        expect(card).to_have_count(0)

    def test_section_is_drawn_and_a_silhouette_selects_its_drift(self):
        site = small(self.user)
        self.open(site)
        self.page.get_by_role("button", name="Section", exact=True).click()
        strip = self.page.get_by_label(re.compile("Cut through the site"))
        self.page.wait_for_selector("canvas[data-drawn=true]")
        self.page.wait_for_timeout(1200)
        drawn = np.asarray(Image.open(io.BytesIO(strip.screenshot())).convert("L"), float)
        dark = np.argwhere(drawn < 150)
        self.assertGreater(len(dark), 300)
        # The ground is one dark line from side to side.
        self.assertGreater(len(np.unique(dark[:, 1])), 0.8 * drawn.shape[1])
        box = strip.bounding_box()
        selected = self.page.locator("nav button[aria-current=true]")
        for row, column in dark[:: max(1, len(dark) // 60)]:
            self.page.mouse.click(box["x"] + float(column), box["y"] + float(row))
            if selected.count():
                break
        expect(selected).to_contain_text("grass")
        self.drag("[data-mark='section start']", 60, 0)

    def test_recipe_then_a_snag_cured(self):
        site = small(self.user, g=grass(density=20, spacing=0.14, headroom=0.02))
        self.open(site)
        self.page.get_by_role("button", name="Add Gravel yard").click()
        expect(self.page.locator("nav")).to_contain_text("weeds by the walls")
        self.saved()
        self.assertEqual(Item.objects.filter(site=site, kind="drift", deleted=False).count(), 4)
        self.page.get_by_role("button", name="Look for snags").click()
        cure = self.page.get_by_role("button", name="Keep it out of all pieces").first
        cure.wait_for()
        self.page.get_by_role("button", name="Show where").first.click()
        self.page.locator("[data-snag]").first.wait_for()
        cure.click()
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["keep_outs"][0]["of"], "pieces")

    def test_more_find_room_when_they_push_each_other_apart(self):
        site = small(self.user, g=grass(density=200, spacing=0.3, headroom=0.0))
        self.open(site)
        self.choose("grass")
        count = self.page.get_by_text(re.compile(r"^[\d\s]+ stand$")).first
        standing = lambda: int(re.sub(r"\D", "", count.inner_text()))  # noqa: E731
        before = standing()
        self.page.locator("summary", has_text="How it lies").click()
        self.page.get_by_label("push each other apart").check()
        self.saved()
        self.assertTrue(Item.objects.get(site=site, key="g").plan["arrangement"]["even"])
        expect(count).not_to_have_text(re.compile(rf"^{before} stand$"), timeout=60_000)
        self.settled()
        self.assertGreater(standing(), 1.1 * before)
        self.page.get_by_role("button", name="Undo").click()
        expect(count).to_have_text(f"{before} stand")

    def test_keep_out_rule_menu_and_season(self):
        site = small(self.user)
        self.open(site)
        self.choose("grass")
        self.page.get_by_role("button", name="+ keep-out").click()
        self.page.get_by_role("menuitem", name=re.compile("camera corridors")).click()
        self.saved()
        self.page.get_by_role("button", name="+ rule").click()
        self.page.get_by_role("menuitem", name=re.compile("^near pieces")).click()
        self.saved()
        plan = Item.objects.get(site=site, key="g").plan
        self.assertEqual(([k["of"] for k in plan["keep_outs"]], plan["rules"][-1]["measure"]), (["stations"], "near"))
        self.step("Air")
        field = self.page.get_by_role("textbox", name="time of the year, month")
        field.fill("1")
        field.press("Enter")
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="weather").plan["season"], 1.0)
        frames = "Number(document.querySelector('canvas[data-ready]').dataset.frames)"
        self.page.get_by_role("button", name="Let it blow").click()
        before = self.page.evaluate(frames)
        self.page.wait_for_function(f"{frames} > {before + 2}")
        self.page.get_by_role("button", name="Hold it still").click()
