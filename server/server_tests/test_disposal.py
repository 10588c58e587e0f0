"""The plate: late answers and previews never stay, and nothing is left on the graphics card."""

import re

import numpy as np
from playwright.sync_api import expect

from cenote_core.measures.noise import NoiseRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.plan import DecalPlan, Gate, PatinaPlan, PatinaUse
from sites.models import Item

from .browser import BrowserTest
from .helpers import grass, moss, site_of, wall


class LeftBehind(BrowserTest):
    def test_a_site_opened_and_left_five_times_leaves_nothing(self):
        decal = DecalPlan(name="crack", position=(0, 0.8, 0.3), receivers=["wall"])
        site = site_of(self.user, g=grass(), wall=wall(), m=moss(), c=decal)
        self.open(site)
        left = []
        for _ in range(5):
            self.page.evaluate("document.body.dataset.plateLeft = ''")
            self.page.get_by_role("link", name="All sites").first.click()
            self.page.get_by_role("heading", name="Sites").wait_for()
            self.page.wait_for_function("document.body.dataset.plateLeft !== ''")
            left.append([int(n) for n in self.page.evaluate("document.body.dataset.plateLeft").split()])
            self.page.get_by_text("bench test").first.click()
            self.page.wait_for_selector("canvas[data-ready=true]", timeout=90_000)
            self.settled()
        geometries, textures, programs = np.array(left).T
        self.assertLessEqual(geometries.max(), 2, left)
        self.assertLessEqual(textures.max(), 4, left)
        self.assertEqual(np.ptp(geometries[1:]) + np.ptp(textures[1:]) + np.ptp(programs[1:]), 0, left)


class LastWord(BrowserTest):
    """What is shown is what is saved, however it came about."""

    def site(self):
        patina = PatinaPlan(
            name="moss",
            uses=[PatinaUse(surface="wall/stone")],
            rules=[
                SlopeRule(gate=Gate(rise_start=0, rise_end=0, fall_start=80, fall_end=95)),
                NoiseRule(gate=Gate(rise_start=0.3, rise_end=0.5, fall_start=1, fall_end=1)),
            ],
        )
        return site_of(self.user, wall=wall(), m=patina)

    def test_a_handle_dragged_out_and_back_leaves_the_picture_as_it_was(self):
        site = self.site()
        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        self.settled()
        self.settled()
        before = self.plate()
        track = self.page.locator("[data-track='amount']").first
        box = track.bounding_box()
        y = box["y"] + box["height"] / 2
        self.page.mouse.move(box["x"] + box["width"] - 1, y)
        self.page.mouse.down()
        for share in (0.8, 0.5, 0.2, 0.5, 0.8, 1.0):
            self.page.mouse.move(box["x"] + box["width"] * share - 1, y, steps=2)
            self.page.wait_for_timeout(250)
        self.page.mouse.move(box["x"] + box["width"] + 30, y)
        self.page.mouse.up()
        self.saved()
        self.settled()
        self.settled()
        self.assertEqual(Item.objects.get(site=site, key="m").plan["amount"], 1.0)
        # Away from the sentence of help that hangs beside the handle.
        self.page.mouse.move(5, 5)
        self.page.wait_for_timeout(600)
        self.assertLess(np.abs(self.plate() - before).mean(), 0.4)

    def test_a_late_answer_does_not_overwrite_a_newer_one(self):
        site = self.site()
        held = []

        def hold(route):
            # The first covers that are asked for after the change come last.
            held.append(route)
            if len(held) > 1:
                route.continue_()

        self.open(site)
        self.step("Patinas")
        self.choose("moss")
        self.settled()
        self.page.route(re.compile("covers(/|%2F)wall"), hold)
        field = self.page.get_by_label("amount, ×", exact=True)
        field.fill("0")
        field.press("Enter")
        self.saved()
        self.page.wait_for_timeout(600)
        field.fill("0.5")
        field.press("Enter")
        self.saved()
        self.page.wait_for_timeout(1500)
        self.assertGreater(len(held), 1, "the covers were not asked for again")
        shown = self.plate()
        for route in held[:1]:
            route.continue_()
        self.settled()
        self.assertLess(np.abs(self.plate() - shown).mean(), 0.4)

    def test_a_locked_item_says_so_and_stays_as_it_is(self):
        site = site_of(self.user, g=grass(), wall=wall())
        self.open(site)
        self.step("Drifts")
        self.choose("grass")
        self.page.get_by_role("button", name="Lock grass").click()
        self.saved()
        field = self.page.get_by_label("density, per m²")
        field.fill("9")
        field.press("Enter")
        expect(self.page.get_by_text("‘grass’ is locked").first).to_be_visible()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="Delete this drift").click()
        item = Item.objects.get(site=site, key="g")
        self.assertEqual((item.plan["density"], item.deleted), (3.0, False))
        self.page.get_by_role("button", name="Lock grass").click()
        self.saved()
        field.fill("9")
        field.press("Enter")
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 9.0)
