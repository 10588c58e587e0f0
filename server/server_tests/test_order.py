"""Stations, groups of pieces, and what was put away, at the bench."""

import io
import re

import numpy as np
from django.core.files.base import ContentFile
from PIL import Image
from playwright.sync_api import expect

from cenote_core.plan import DecalPlan, PiecePlan, StationPlan
from kit.models import ImportedPicture
from sites.models import Item

from .browser import BrowserTest
from .test_bench import small


class Stations(BrowserTest):
    def plans(self, site):
        rows = Item.objects.filter(site=site, kind="station", deleted=False)
        return sorted((row.plan for row in rows), key=lambda plan: plan["order"])

    def test_renamed_aimed_given_a_lens_reordered_and_deleted(self):
        more = {
            f"s{k}": StationPlan(name=f"view {k}", position=(k, 2, 6), target=(0, 0.7, -2), order=k)
            for k in range(2, 13)
        }
        site = small(self.user, **more)
        self.open(site)
        row = self.page.get_by_role("group", name="Stations")
        # A dozen of them is one row, and each can be reached.
        self.assertEqual(row.get_by_role("button").count(), 12)
        self.assertLess(row.bounding_box()["height"], 40)
        row.get_by_role("button", name="12 · view 12").click()
        expect(row.get_by_role("button", name="12 · view 12")).to_be_in_viewport()
        self.page.get_by_label("Settings of this station").click()
        name = self.page.get_by_label("Name", exact=True)
        name.fill("from the gate")
        name.press("Enter")
        self.saved()
        self.page.get_by_role("button", name="Earlier").click()
        self.saved()
        self.assertEqual([p["name"] for p in self.plans(site)][-2:], ["from the gate", "view 11"])
        lens = self.page.get_by_label(re.compile("focal length")).first
        lens.fill("80")
        lens.press("Enter")
        self.saved()
        self.assertEqual(self.plans(site)[-2]["lens"], 80)
        before = self.plans(site)[-2]["position"]
        x, y = self.on_plate(0.5, 0.5)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 120, y, steps=6)
        self.page.mouse.up()
        self.page.get_by_role("button", name="Aim it as the plate looks now").click()
        self.saved()
        self.assertGreater(np.linalg.norm(np.subtract(self.plans(site)[-2]["position"], before)), 0.2)
        self.page.get_by_role("button", name="Delete this station").click()
        self.saved()
        self.assertEqual(len(self.plans(site)), 11)
        expect(row.get_by_role("button")).to_have_count(11)
        self.page.get_by_role("button", name="Undo").click()
        expect(row.get_by_role("button", name=re.compile("from the gate"))).to_be_visible()


class Groups(BrowserTest):
    def test_they_are_listed_hidden_locked_and_moved_as_one(self):
        crates = {
            f"c{k}": PiecePlan(name=f"crate {k}", asset="crate", position=(k, 0, 1), group="goods") for k in range(2)
        }
        site = small(self.user, **crates)
        self.open(site)
        self.step("Pieces")
        plans = lambda: [Item.objects.get(site=site, key=f"c{k}").plan for k in range(2)]  # noqa: E731
        self.page.get_by_role("button", name="Group goods").click()
        self.page.wait_for_timeout(300)
        self.page.locator("[data-grip=move]").first.focus()
        for _ in range(3):
            self.page.keyboard.press("ArrowRight")
        self.saved()
        self.page.wait_for_timeout(600)
        moved = [np.subtract(plan["position"], (k, 0, 1)) for k, plan in enumerate(plans())]
        self.assertGreater(np.linalg.norm(moved[0]), 0.05)
        np.testing.assert_allclose(moved[0], moved[1], atol=0.002)
        row = self.page.get_by_role("button", name="Group goods").locator("..")
        row.get_by_role("button", name="hide").click()
        self.saved()
        self.assertEqual([plan["visible"] for plan in plans()], [False, False])
        row.get_by_role("button", name="lock").click()
        self.saved()
        self.assertEqual([plan["locked"] for plan in plans()], [True, True])
        # One step each: undo takes the whole group back.
        self.page.get_by_role("button", name="Undo").click()
        expect(self.page.get_by_text("Undone: ")).to_be_visible()
        self.page.wait_for_timeout(400)
        self.assertEqual([plan["locked"] for plan in plans()], [False, False])


class Decals(BrowserTest):
    def test_the_last_receiver_taken_away_leaves_none_and_says_so(self):
        decal = DecalPlan(
            name="leak", picture="leak", position=(0, 0.8, -2.3), receivers=["wall"], width=0.9, height=0.9
        )
        site = small(self.user, c=decal)
        self.open(site)
        self.step("Decals")
        self.choose("leak")
        self.page.get_by_label("garden wall").uncheck()
        self.saved()
        plan = Item.objects.get(site=site, key="c").plan
        self.assertEqual((plan["receivers"], plan["only"]), ([], True))
        expect(self.page.get_by_text("0: Nothing is chosen to receive it.")).to_be_visible(timeout=20_000)
        self.page.get_by_role("button", name="Everything in its box").click()
        self.saved()
        self.page.get_by_role("button", name="Keep the picture’s proportions").click()
        self.saved()
        plan = Item.objects.get(site=site, key="c").plan
        self.assertFalse(plan["only"])
        self.assertAlmostEqual(plan["width"] / plan["height"], 0.75, places=3)


class PutAway(BrowserTest):
    def test_sites_are_brought_back_after_a_reload(self):
        site = small(self.user)
        self.sign_in()
        card = self.page.get_by_role("article", name=site.name)
        card.get_by_role("button", name="Put away").click()
        expect(card).to_have_count(0)
        self.page.reload()
        away = self.page.get_by_role("region", name="Put away")
        away.get_by_role("button", name="Bring back").click()
        expect(card).to_be_visible()
        expect(away).to_have_count(0)

    def test_an_image_comes_in_by_a_rule_and_is_taken_out_and_put_back(self):
        site = small(self.user)
        row = ImportedPicture(id=ImportedPicture.new_id(), site=site, title="mask", filename="m.png", width=4, height=4)
        drawn = io.BytesIO()
        Image.new("L", (4, 4), 128).save(drawn, "PNG")
        row.original.save("m.png", ContentFile(drawn.getvalue()))
        self.open(site)
        self.step("Ground")
        self.page.get_by_text("Height image").first.click()
        self.page.get_by_role("combobox", name="Height image").click()
        self.page.get_by_role("option", name="mask").click()
        self.page.get_by_role("button", name="Take out of the site").click()
        expect(self.page.get_by_text("‘mask’ was taken out.")).to_be_visible()
        row.refresh_from_db()
        self.assertIsNotNone(row.deleted)
        self.page.get_by_role("button", name="Put it back").click()
        expect(self.page.get_by_text("‘mask’ was taken out.")).to_have_count(0)
        row.refresh_from_db()
        self.assertIsNone(row.deleted)
