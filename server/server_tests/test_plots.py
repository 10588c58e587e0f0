"""Large drifts through the API: in plots, the nearest first, saved and while they are being changed."""

import json

import numpy as np
from django.test import TestCase

from cenote_core.base.packet import unpack
from cenote_core.drifts.plots import unpacked
from cenote_core.plan import TouchPlan

from .helpers import change, client_of, grass, person, site_of


class Plots(TestCase):
    """A large drift travels in plots, the nearest first."""

    def setUp(self):
        self.site = site_of(person(), g=grass(density=10_000, spacing=0.02))
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"

    def index(self):
        scene = self.client.get(f"{self.root}/scene").json()
        address = next(d["url"] for d in scene["drifts"] if d["key"] == "g")
        return address, unpack(self.client.get(address).content)

    def plot(self, address, entry, version=None):
        return self.client.get(
            f"{address.split('?')[0].replace('/instances/', '/plots/')}/{entry['cell']}?v={version or entry['v']}"
        )

    def test_a_large_drift_says_what_its_plots_are_and_each_can_be_had(self):
        address, (arrays, info) = self.index()
        self.assertEqual(arrays, {})
        self.assertGreater(len(info["plots"]), 1)
        self.assertEqual(sum(entry["count"] for entry in info["plots"]), info["count"])
        for entry in info["plots"]:
            answer = self.plot(address, entry)
            self.assertIn("immutable", answer["Cache-Control"])
            found = unpacked(answer.content)
            self.assertEqual(len(found), entry["count"])
            self.assertTrue((found.position >= np.array(entry["low"]) - 1e-3).all())
            self.assertTrue((found.position <= np.array(entry["high"]) + 1e-3).all())

    def test_a_stroke_changes_only_the_plots_it_reaches(self):
        _, (_, before) = self.index()
        stroke = TouchPlan(target="g", action="erase", points=[(4.5, 0, 4.5)], radius=0.4, strength=1, falloff=0)
        change(self.client, self.site, ("t", 0, stroke.model_dump(mode="json")))
        _, (_, after) = self.index()
        known = {entry["cell"]: entry["v"] for entry in before["plots"]}
        other = [entry for entry in after["plots"] if known[entry["cell"]] != entry["v"]]
        self.assertEqual(len(other), 1)
        self.assertTrue(other[0]["low"][0] > -0.1 and other[0]["low"][2] > -0.1)

    def test_what_an_address_no_longer_names_is_not_kept(self):
        address, (_, info) = self.index()
        self.assertEqual(self.plot(address, info["plots"][0], "of-before")["Cache-Control"], "no-store")
        old = self.client.get(f"{self.root}/derived/mesh/ground?v=of-before")
        self.assertEqual(old["Cache-Control"], "no-store")

    def test_a_plot_or_drift_that_is_not_there(self):
        address, _ = self.index()
        for gone in ("all", "8_99_99", "..%2F..", "8_0"):
            answer = self.client.get(f"{address.split('?')[0].replace('/instances/', '/plots/')}/{gone}")
            self.assertEqual(answer.status_code, 404)
        self.assertEqual(self.client.get(f"{self.root}/derived/plots/none/all").status_code, 404)

    def test_a_preview_brings_the_plots_the_eye_is_near(self):
        plan = grass(density=10_000, spacing=0.01).model_dump(mode="json")
        body = json.dumps({"key": "g", "plan": plan, "eye": [4, 1, 4]})
        answer = self.client.post(f"{self.root}/preview", body, content_type="application/json")
        arrays, info = unpack(answer.content)
        come = [entry for entry in info["plots"] if entry["cell"] in arrays]
        self.assertGreater(info["count"], 120_000)
        self.assertTrue(0 < sum(entry["count"] for entry in come) <= 120_000)
        self.assertTrue(all(min(entry["low"][0], entry["low"][2]) > -0.1 for entry in come))
        body = json.dumps({"key": "g", "plan": plan, "eye": [4, 1, 4], "most": 30_000})
        fewer, told = unpack(self.client.post(f"{self.root}/preview", body, content_type="application/json").content)
        self.assertEqual(told["count"], info["count"])
        self.assertTrue(set(fewer) < set(arrays))
        self.assertLessEqual(sum(entry["count"] for entry in told["plots"] if entry["cell"] in fewer), 30_000)
        wrong = [{"eye": eye} for eye in ([1, 2], [1, 2, None], ["a", 0, 0])]
        for one in [*wrong, {"most": 0}, {"most": 10**9}, {"most": "many"}]:
            body = json.dumps({"key": "g", "plan": plan, **one})
            answer = self.client.post(f"{self.root}/preview", body, content_type="application/json")
            self.assertEqual(answer.status_code, 422)
