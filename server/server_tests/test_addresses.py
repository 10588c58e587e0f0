"""What a site derives: addresses, their lifetimes, histograms, previews."""

import json
from unittest import mock

from django.test import TestCase

from cenote_core.kinds.weather import materials_info
from cenote_core.measures.crown import CrownRule
from cenote_core.plan import AssetShare, Gate, GroundLayer, GroundPlan
from sites.computing import scene_of
from sites.models import Item
from sites.starting import starting_items

from .helpers import change, client_of, grass, instances_in, moss, person, post, site_of, wall


class Rings(TestCase):
    def test_a_ring_through_a_surface_is_answered_at_once_and_the_rest_of_the_site_is_there(self):
        mould = GroundLayer(
            key="mould", rules=[CrownRule(gate=Gate(rise_start=0.1, rise_end=0.3, fall_start=1, fall_end=1))]
        )
        ground = {**dict(starting_items())["ground"], "width": 10, "depth": 10, "cell": 0.5}
        ringed = GroundPlan(**{k: v for k, v in ground.items() if k != "schema"}).model_copy(update={"layers": [mould]})
        trees = grass(name="birches", tier="canopy", assets=[AssetShare(asset="birch_young")])
        site, client = site_of(person(), g=trees, wall=wall()), client_of(person())
        # Saved or only tried, it is answered.
        status = client.post(
            f"/api/sites/{site.pk}/preview",
            json.dumps({"key": "ground", "plan": ringed.model_dump(mode="json")}),
            content_type="application/json",
        )
        self.assertEqual(status.status_code, 422)
        self.assertIn("ring", status.json()["detail"])
        self.assertEqual(change(client, site, ("ground", 1, ringed.model_dump(mode="json")))[0], 200)
        manifest = client.get(f"/api/sites/{site.pk}/scene").json()
        self.assertIn("wall", [owner["owner"] for owner in manifest["owners"]])
        effects = {e["key"]: e for e in client.get(f"/api/sites/{site.pk}/effects").json()}
        self.assertRegex(effects["g"]["reason"], "ring: .*(birches → mould|mould → birches)")
        for address in (manifest["owners"][0]["cover"], manifest["drifts"][0]["url"]):
            # Without what asks for itself all that the plate asks for is there.
            self.assertEqual(client.get(address).status_code, 200)


class MaterialAddresses(TestCase):
    def test_they_carry_the_materials_version_and_only_then_are_kept_for_good(self):
        site, client = site_of(person(), g=grass(), wall=wall()), client_of(person())
        info = client.get(f"/api/sites/{site.pk}/scene").json()["materials"]["moss"]
        for address in (f"{info['url']}/colour.webp", f"{info['url']}/raw"):
            kept = client.get(f"{address}?v={info['v']}&side=64")["Cache-Control"]
            self.assertIn("immutable", kept)
            for other in ("", "?side=64", "?v=000000000000&side=64"):
                self.assertNotIn("immutable", client.get(address + other)["Cache-Control"])

    def test_another_material_under_the_same_name_has_other_addresses_and_maps(self):
        site = site_of(person())
        before = {name: info["v"] for name, info in materials_info(scene_of(site)).items()}
        self.assertTrue(before)
        with mock.patch("cenote_core.graph.derived.code_version", lambda module: "another version of it"):
            for name, info in materials_info(scene_of(site)).items():
                self.assertNotEqual(info["v"], before[name], name)


class Derived(TestCase):
    def test_addresses_change_only_with_what_they_depend_on(self):
        site = site_of(person(), g=grass(), wall=wall(), m=moss())
        client = client_of(person())
        scene = lambda: client.get(f"/api/sites/{site.pk}/scene").json()  # noqa: E731
        before = scene()
        change(client, site, ("g", 1, {**grass().model_dump(mode="json"), "name": "renamed"}))
        self.assertEqual(scene()["drifts"], before["drifts"])
        change(client, site, ("g", 2, {**grass().model_dump(mode="json"), "density": 9.0}))
        after = scene()
        self.assertNotEqual(after["drifts"], before["drifts"])
        self.assertEqual(after["owners"], before["owners"])
        for address in (
            after["drifts"][0]["url"],
            after["owners"][1]["mesh"],
            after["owners"][1]["cover"],
            after["sky"],
        ):
            answer = client.get(address)
            self.assertEqual(answer.status_code, 200)
            self.assertIn("immutable", answer["Cache-Control"])

    def test_histograms_and_preview(self):

        site = site_of(person(), g=grass())
        client = client_of(person())
        plan = grass().model_dump(mode="json")
        plan["rules"] = [
            {"measure": "slope", "gate": {"rise_start": 0, "rise_end": 0, "fall_start": 90, "fall_end": 90}}
        ]
        status, body = post(client, f"/api/sites/{site.pk}/histograms", {"key": "g", "plan": plan})
        self.assertEqual(status, 200)
        self.assertAlmostEqual(body[0]["share"], 1.0, places=5)
        self.assertAlmostEqual(sum(body[0]["areas"]), 100, delta=6)
        answer = client.post(
            f"/api/sites/{site.pk}/preview", json.dumps({"key": "g", "plan": plan}), content_type="application/json"
        )
        self.assertGreater(len(instances_in(answer.content)), 0)
        self.assertEqual(Item.objects.get(site=site, key="g").plan["rules"], [])
