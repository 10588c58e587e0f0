"""Bringing models in, taking the scene out, and losing nothing on the way, done in a browser."""

import re
import tempfile
from pathlib import Path
from unittest import mock

import numpy as np
import trimesh
from playwright.sync_api import expect

from cenote_core.plan.stored import upgraded
from sites.models import Item

from .browser import BrowserTest, run_in_thread
from .helpers import change, client_of, person
from .test_bench import small


class InAndOut(BrowserTest):
    def test_foreign_model_dressed_rendered_and_handed_over(self):
        site = small(self.user)
        mesh = trimesh.creation.icosphere(subdivisions=3, radius=70)
        with mock.patch("work.api.ask", run_in_thread), tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "round_thing.stl"
            mesh.export(path)
            self.open(site)
            self.page.get_by_label("Model file").set_input_files(str(path))
            expect(self.page.locator("[data-size]")).to_contain_text("1.4 × 1.4 × 1.4 m")
            # The model's silhouette stands beside the person: dark, where a ball of 1.4 m would be.
            canvas = self.page.get_by_label("The model beside a person 1.75 m tall")
            self.page.wait_for_timeout(800)
            drawn = canvas.evaluate("c => Array.from(c.getContext('2d').getImageData(0, 0, 800, 640).data)")
            pixels = np.asarray(drawn, float).reshape(640, 800, 4)
            self.assertGreater((pixels[:, 180:, 3] > 150).mean(), 0.15)
            self.page.get_by_role("button", name="Put it into the kit").click()
            expect(self.page.get_by_role("button", name=re.compile(r"round_thing \d"))).to_be_visible()
            x, y = self.on_plate(0.35, 0.7)
            self.page.mouse.move(x, y)
            self.page.mouse.click(x, y)
            self.saved()
            piece = Item.objects.get(site=site, kind="piece", plan__asset__startswith="import-")
            self.page.keyboard.press("Escape")
            self.step("Patinas")
            self.choose("moss")
            self.page.get_by_role("button", name="+ surface").click()
            self.page.get_by_role("menuitemcheckbox", name=re.compile("round_thing")).click()
            self.page.keyboard.press("Escape")
            self.saved()
            self.assertIn(
                f"{piece.key}/body", [u["surface"] for u in Item.objects.get(site=site, key="m").plan["uses"]]
            )
            self.step("Proofs")
            self.page.get_by_label("Size").locator("..").click()
            self.page.get_by_role("option", name="640 × 400 px").click()
            self.page.get_by_role("button", name="Rough, in seconds").click()
            self.page.get_by_role("button", name=re.compile("Show rough proof")).wait_for(timeout=240_000)
            self.page.get_by_role("button", name="Hand over", exact=True).click()
            self.page.get_by_role("link", name="site.glb").wait_for(timeout=240_000)
            self.page.get_by_role("button", name=re.compile("Show rough proof")).click()
            picture = self.page.get_by_role("img", name="Proof", exact=True)
            expect(picture).to_be_visible()
            self.page.wait_for_function("document.querySelector('img[alt=Proof]').naturalWidth === 640")

    def test_a_broken_file_is_refused_in_words(self):
        site = small(self.user)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "half.glb"
            path.write_bytes(trimesh.creation.box().export(file_type="glb")[:300])
            self.open(site)
            self.page.get_by_label("Model file").set_input_files(str(path))
            expect(self.page.get_by_role("alert")).to_contain_text("cut short")


class NothingIsLost(BrowserTest):
    def test_two_people_change_one_item(self):
        site = small(self.user)
        self.open(site)
        self.choose("grass")
        item = Item.objects.get(site=site, key="g")
        item.plan["density"], item.revision = 2.0, item.revision + 1
        item.save()
        field = self.page.get_by_label("density, per m²")
        field.fill("9")
        field.press("Enter")
        expect(self.page.get_by_role("alert")).to_contain_text("Somebody changed ‘grass’")
        self.assertEqual(Item.objects.get(pk=item.pk).plan["density"], 2.0)
        self.page.get_by_role("button", name="Take mine").click()
        self.saved()
        self.page.wait_for_timeout(500)
        self.assertEqual(Item.objects.get(pk=item.pk).plan["density"], 9.0)

    def test_undo_names_what_another_person_did_since_and_offers_to_take_it_back(self):
        site = small(self.user)
        bo = person("bo")
        site.members.create(user=bo, role="editor")
        self.open(site)
        self.choose("grass")
        field = self.page.get_by_label("density, per m²")
        field.fill("9")
        field.press("Enter")
        self.saved()
        item = Item.objects.get(site=site, key="g")
        theirs = {**upgraded(item.plan), "density": 2.0}
        self.assertEqual(change(client_of(bo), site, ("g", item.revision, theirs), label="far thinner")[0], 200)
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="Undo").click()
        alert = self.page.get_by_role("alert")
        expect(alert).to_contain_text("bo has changed the same since: “far thinner”")
        self.assertEqual(Item.objects.get(pk=item.pk).plan["density"], 2.0)
        alert.get_by_role("button", name="Leave both").click()
        expect(alert).to_have_count(0)
        self.page.get_by_role("button", name="Undo").click()
        alert.get_by_role("button", name="Take back bo’s step too").click()
        expect(self.page.get_by_text("Undone: ")).to_be_visible()
        self.page.wait_for_timeout(500)
        self.assertEqual(Item.objects.get(pk=item.pk).plan["density"], 6.0)

    def test_edits_made_without_a_connection_are_sent_later(self):
        site = small(self.user)
        self.open(site)
        self.choose("grass")
        self.context.set_offline(True)
        field = self.page.get_by_label("density, per m²")
        field.fill("8")
        field.press("Enter")
        expect(self.page.get_by_label("Saving")).to_contain_text("not sent yet")
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 6.0)
        self.context.set_offline(False)
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 8.0)
