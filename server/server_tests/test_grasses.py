"""Grasses of one's own: through the API, at the bench, and what happens when they are taken away."""

import numpy as np
from django.test import TestCase
from playwright.sync_api import expect

from cenote_core.base.packet import unpack
from cenote_core.measures.slope import SlopeRule
from cenote_core.plan import AssetShare, GrassPlan
from sites.models import Item, Member

from .browser import BrowserTest
from .helpers import change, client_of, grass, instances_in, person, post, site_of
from .test_bench import gate, small

OWN = [AssetShare(asset=f"own-q.{n}") for n in (1, 2, 3)]


class GrassesThroughTheApi(TestCase):
    def setUp(self):
        self.site = site_of(person(), q=GrassPlan(name="quaking grass"), d=grass(assets=OWN))
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"

    def listed(self):
        listed = self.client.get(f"/api/kit/assets?site={self.site.pk}").json()
        return {asset["id"]: asset for asset in listed if asset["id"].startswith("own-")}

    def test_its_tufts_are_in_the_kit_of_their_site_alone(self):
        listed = self.listed()
        self.assertEqual(sorted(listed), ["own-q.1", "own-q.2", "own-q.3"])
        self.assertEqual(self.client.get(f"{self.root}/scene").json()["own"], list(listed.values()))
        self.assertNotIn("own-q.1", [a["id"] for a in self.client.get("/api/kit/assets").json()])
        self.assertEqual(listed["own-q.1"]["materials"], {"blade": "blade"})
        for number, address in enumerate(listed["own-q.2"]["lods"]):
            answer = self.client.get(address)
            self.assertIn("immutable", answer["Cache-Control"])
            arrays, info = unpack(answer.content)
            self.assertEqual(info["slots"], ["blade"])
            self.assertEqual(len(arrays["index"]) // 3, listed["own-q.2"]["triangles"][number])
        self.assertEqual(self.client.get(f"{self.root}/derived/own/own-q.2/7").status_code, 404)
        self.assertEqual(self.client.get(f"{self.root}/derived/own/grass_low/0").status_code, 404)
        self.assertEqual(client_of(person("eve")).get(listed["own-q.1"]["lods"][0]).status_code, 404)

    def test_a_change_gives_new_addresses_and_another_size(self):
        before, drift = self.listed(), self.client.get(f"{self.root}/scene").json()["drifts"][0]["url"]
        longer = GrassPlan(name="quaking grass", length=0.9).model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("q", 1, longer))[0], 200)
        after = self.listed()
        self.assertGreater(after["own-q.1"]["size"][1], 1.8 * before["own-q.1"]["size"][1])
        self.assertNotEqual(after["own-q.1"]["lods"], before["own-q.1"]["lods"])
        self.assertNotEqual(self.client.get(f"{self.root}/scene").json()["drifts"][0]["url"], drift)
        # Somebody else's change on top of the first version is kept and answered, not lost.
        self.assertEqual(change(self.client, self.site, ("q", 1, longer))[0], 409)

    def test_a_preview_holds_all_tufts_as_they_would_be_and_saves_nothing(self):
        plan = GrassPlan(name="quaking grass", length=1.2, bend=0).model_dump(mode="json")
        body = {"key": "q", "plan": plan}
        answer = self.client.post(f"{self.root}/preview", body, content_type="application/json")
        arrays, info = unpack(answer.content)
        self.assertEqual(info["own"], ["own-q.1", "own-q.2", "own-q.3"])
        self.assertEqual(sorted(arrays), [f"own-q.{n}/{level}" for n in (1, 2, 3) for level in (0, 1, 2)])
        tops = [unpack(arrays[f"own-q.{n}/0"].tobytes())[0]["position"][:, 1].max() for n in (1, 2, 3)]
        self.assertGreater(min(tops), 1.0)
        self.assertLess(self.listed()["own-q.1"]["size"][1], 0.6)

    def test_every_grass_of_the_kit_can_be_a_beginning(self):
        listed = {g["asset"]: g["plan"] for g in self.client.get("/api/kit/grasses").json()}
        self.assertLessEqual({"grass_tall", "tussock", "rush", "sedge"}, set(listed))
        self.assertEqual(change(self.client, self.site, ("r", 0, {**listed["rush"], "name": "rush, own"}))[0], 200)
        self.assertIn("own-r.1", self.listed())

    def test_taken_away_its_drift_says_why_it_is_empty_and_undo_brings_both_back(self):
        stood = len(
            instances_in(self.client.get(self.client.get(f"{self.root}/scene").json()["drifts"][0]["url"]).content)
        )
        self.assertEqual(change(self.client, self.site, ("q", 1, None))[0], 200)
        effect = self.client.get(f"{self.root}/effects").json()[0]
        self.assertEqual(effect["amount"], 0)
        self.assertIn("no longer in the kit", effect["reason"])
        self.assertEqual(self.client.get(f"{self.root}/scene").status_code, 200)
        self.assertEqual(post(self.client, f"{self.root}/undo", {})[0], 200)
        again = instances_in(self.client.get(self.client.get(f"{self.root}/scene").json()["drifts"][0]["url"]).content)
        self.assertEqual(len(again), stood)

    def test_absurd_settings_are_refused_with_their_name(self):
        good = GrassPlan(name="g").model_dump(mode="json")
        for name, value in (
            ("length", 0), ("length", 1e9), ("blades", 100_000), ("bend", -1), ("dry", 1.1), ("tip_colour", "green"),
            ("root_width", "NaN"), ("thorns", 3),
        ):  # fmt: skip
            status, answer = change(self.client, self.site, ("n", 0, {**good, name: value}))
            self.assertEqual(status, 422, name)
            self.assertIn(name, str(answer))
        self.assertFalse(Item.objects.filter(site=self.site, key="n").exists())

    def test_a_viewer_sees_it_and_may_not_change_it(self):
        viewer = person("vera")
        Member.objects.create(site=self.site, user=viewer, role=Member.VIEWER)
        client = client_of(viewer)
        self.assertEqual(client.get(self.listed()["own-q.1"]["lods"][0]).status_code, 200)
        plan = GrassPlan(name="hers").model_dump(mode="json")
        self.assertEqual(change(client, self.site, ("q", 1, plan))[0], 403)


class GrassesAtTheBench(BrowserTest):
    def test_shaping_the_grass_of_a_drift(self):
        rules = [SlopeRule(gate=gate(0, 0, 40, 60))]
        site = small(
            self.user, g=grass(assets=[AssetShare(asset="grass_low", weight=2)], density=9, spacing=0.2, rules=rules)
        )
        self.open(site)
        self.choose("grass")
        self.page.get_by_role("button", name="Shape Short grass").click()
        expect(self.page.get_by_role("textbox", name="Name")).to_have_value("short grass, own")
        self.saved()
        item = Item.objects.get(site=site, kind="grass")
        mix = Item.objects.get(site=site, key="g").plan["assets"]
        self.assertEqual([a["asset"] for a in mix], [f"own-{item.key}.{n}" for n in (1, 2, 3)])
        self.assertAlmostEqual(sum(a["weight"] for a in mix), 2.0)
        self.rested()
        before = self.plate()
        # Much longer, and it is seen while it is dragged.
        box = self.page.locator("[data-track=length]").bounding_box()
        self.page.mouse.move(box["x"] + 0.25 * box["width"], box["y"] + 6)
        self.page.mouse.down()
        for k in range(6):
            self.page.mouse.move(box["x"] + (0.25 + 0.09 * k) * box["width"], box["y"] + 6)
            self.page.wait_for_timeout(150)
        self.page.wait_for_timeout(1500)
        band = np.s_[420:700, 60:700]
        dragged = self.plate()
        self.assertGreater(np.abs(dragged - before)[band].mean(), 5)
        self.assertEqual(Item.objects.get(pk=item.pk).plan["length"], item.plan["length"])
        self.page.mouse.up()
        self.saved()
        self.assertGreater(Item.objects.get(pk=item.pk).plan["length"], 0.5)
        self.rested()
        tall = self.plate()
        self.assertGreater(np.abs(tall - before)[band].mean(), 5)
        # Red from foot to tip.
        for label in ("at the foot", "at the tip"):
            self.page.get_by_label(label, exact=True).fill("#c02010")
            self.page.get_by_label(label, exact=True).blur()
            self.saved()
        self.rested()
        redness = lambda image: (image[band][..., 0] - image[band][..., 1]).mean()  # noqa: E731
        self.assertGreater(redness(self.plate()), redness(tall) + 15)
        undo = self.page.get_by_role("button", name="Undo")
        for _ in range(4):
            undo.click()
            self.saved()
        expect(undo).to_be_disabled()
        self.rested()
        self.assertFalse(Item.objects.filter(site=site, kind="grass", deleted=False).exists())
        self.assertEqual([a["asset"] for a in Item.objects.get(site=site, key="g").plan["assets"]], ["grass_low"])

    def test_a_new_one_listed_sown_and_taken_away_again(self):
        site = small(self.user)
        self.open(site)
        self.page.get_by_role("button", name="+ grass").click()
        expect(self.page.get_by_text("In no drift yet")).to_be_visible()
        self.page.get_by_role("button", name="begin as…").click()
        self.page.get_by_role("menuitem", name="Soft rush").click()
        self.saved()
        item = Item.objects.get(site=site, kind="grass")
        self.assertEqual((item.plan["length"], item.plan["name"]), (0.75, "own grass"))
        self.page.get_by_role("button", name="+ into a drift").click()
        self.page.get_by_role("menuitem", name="grass").click()
        self.saved()
        self.assertIn(f"own-{item.key}.3", [a["asset"] for a in Item.objects.get(site=site, key="g").plan["assets"]])
        self.page.get_by_role("button", name="← grass").click()
        expect(self.page.get_by_role("region", name="What")).to_contain_text("own grass")
        self.page.get_by_role("button", name="Shape own grass").click()
        self.page.get_by_role("button", name="Delete this grass, out of its drift too").click()
        self.saved()
        self.assertEqual([a["asset"] for a in Item.objects.get(site=site, key="g").plan["assets"]], ["grass_low"])
        self.assertTrue(Item.objects.get(pk=item.pk).deleted)

    def rested(self):
        self.settled()
