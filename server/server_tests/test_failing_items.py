"""An item that cannot be worked out takes nothing down with it: every address answers, the course says why, it can be deleted."""

import json
from dataclasses import replace
from unittest import mock

from django.test import TestCase

from cenote_core.kinds import KINDS, PARTS
from cenote_core.measures.crown import CrownRule
from cenote_core.plan import DecalPlan, Gate, GrassPlan, PiecePlan, WeatherPlan
from sites import computing
from sites.models import Item
from work import job_runner
from work.keeping import folder
from work.kinds import KINDS as JOBS
from work.models import Job

from .helpers import change, client_of, grass, moss, person, post, site_of, wall

_OURS = "unforeseen"


class FailingItems(TestCase):
    def setUp(self):
        decal = DecalPlan(name="crack", position=(0, 0.8, 0.3), facing=(0, 0, 1), receivers=["wall"])
        self.site = site_of(person(), g=grass(), wall=wall(), m=moss(), c=decal)
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"
        computing._sound._found.clear()

    def all_addresses(self):
        """Status of everything the plate, the course and the sheets ask for, by address."""
        out = {}
        answer = self.client.get(f"{self.root}/scene")
        out["scene"] = answer.status_code
        manifest = json.loads(answer.content)
        urls = [o[k] for o in manifest["owners"] for k in ("mesh", "cover", "exposure")] + [manifest["sky"]]
        urls += [d["url"] for d in manifest["drifts"] + manifest["decals"]]
        for url in filter(None, urls):
            out[url] = self.client.get(url).status_code
        for name in ("effects", "snags", "responses"):
            out[name] = self.client.get(f"{self.root}/{name}").status_code
        spot = {"owner": "ground", "point": [2, 0, 2]}
        out["why"] = post(self.client, f"{self.root}/why", spot)[0]
        cut = {"start": [-4, 0], "end": [4, 0], "width": 2}
        body = json.dumps(cut)
        out["section"] = self.client.post(f"{self.root}/section", body, content_type="application/json").status_code
        return out

    def effects(self):
        return {e["key"]: e for e in json.loads(self.client.get(f"{self.root}/effects").content)}

    def broken(self, kind, key):
        """Every way to the item's values raises what only a mistake of ours does."""
        whole = KINDS[kind]

        def trial(scene, other, plan):
            if other == key:
                raise IndexError("index 240 is out of bounds")
            return whole.trial(scene, other, plan)

        def stumbling(make):
            def of(scene, name):
                if name.split("/")[0].split("~")[0] == key or (
                    kind in ("patina", "piece") and key in scene.site.items[kind]
                ):
                    raise IndexError("index 240 is out of bounds")
                return make(scene, name)

            return of

        names = {"drift": ["instances"], "decal": ["decal"], "patina": ["covers"], "piece": ["mesh"]}[kind]
        parts = {name: replace(PARTS[name], make=stumbling(PARTS[name].make)) for name in names}
        effect = {"effect": stumbling_effect(whole, key)} if whole.effect else {}
        return mock.patch.dict(KINDS, {kind: replace(whole, trial=trial, **effect)}), mock.patch.dict(PARTS, parts)

    def test_each_kind_of_item(self):
        for kind, key in (("drift", "g"), ("decal", "c"), ("patina", "m"), ("piece", "wall")):
            with self.subTest(kind=kind):
                computing._sound._found.clear()
                kinds, parts = self.broken(kind, key)
                with kinds, parts, self.assertLogs(level="ERROR"):
                    first = self.all_addresses()
                    # A page that knew the site as it was is told to ask anew; nothing else is refused.
                    self.assertLessEqual(set(first.values()), {200, 409}, first)
                    again = self.all_addresses()
                    self.assertEqual(set(again.values()), {200}, again)
                    effect = self.effects()[key]
                    self.assertEqual(effect["amount"], 0)
                    self.assertIn("left out", effect["reason"])
                    self.assertIn(_OURS, effect["reason"])
                    item = Item.objects.get(site=self.site, key=key)
                    status, body = change(self.client, self.site, (key, item.revision, None))
                    self.assertEqual(status, 200, body)
                    self.assertEqual(set(self.all_addresses().values()), {200})
                post(self.client, f"{self.root}/undo", {})

    def test_preview_proof_and_hand_over_go_on_without_it_and_say_so(self):
        with mock.patch("cenote_core.decals.project.project", side_effect=IndexError), self.assertLogs(level="ERROR"):
            wanted = {"station": "station-1", "quality": "rough", "width": 96, "height": 64}
            for address, asked in (("proofs", wanted), ("handovers", {})):
                status, asked_for = post(self.client, f"/api/work/sites/{self.site.pk}/{address}", asked)
                self.assertEqual(status, 200, asked_for)
                job_runner.run(asked_for["id"], JOBS)
                job = Job.objects.get(pk=asked_for["id"])
                self.assertEqual(job.state, Job.DONE, job.message)
                told = job.result["left_out"]
                self.assertEqual([(one["item"], one["name"]) for one in told], [("c", "crack")])
                self.assertIn(_OURS, told[0]["reason"])
                self.assertTrue(any(folder(job.pk).iterdir()))
            plan = grass(density=3).model_dump(mode="json")
            body = json.dumps({"key": "g", "plan": plan, "most": 100})
            answer = self.client.post(f"{self.root}/preview", body, content_type="application/json")
            self.assertEqual(answer.status_code, 200)

    def test_a_deleted_grass_is_told_and_all_else_answers(self):
        made = GrassPlan(name="own").model_dump(mode="json")
        mix = grass(assets=[{"asset": "own-o.1"}]).model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("o", 0, made), ("own", 0, mix))[0], 200)
        self.assertEqual(change(self.client, self.site, ("o", 1, None))[0], 200)
        self.assertEqual(set(self.all_addresses().values()), {200})
        self.assertIn("no longer", self.effects()["own"]["reason"])

    def test_a_ring_of_before_is_told_at_its_items(self):
        """Two that were stored before rings were refused."""
        gate = Gate(rise_start=0, rise_end=0.1, fall_start=9, fall_end=9)
        for key, other in (("a", "b"), ("b", "a")):
            plan = grass(name=key, rules=[CrownRule(gate=gate, drifts=[other])]).model_dump(mode="json")
            Item.objects.create(site=self.site, key=key, kind="drift", plan=plan)
        first = self.all_addresses()
        self.assertLessEqual(set(first.values()), {200, 409, 422}, first)
        self.assertEqual(set(self.all_addresses().values()), {200})
        told = [self.effects()[key]["reason"] for key in "ab"]
        # Without the one the other asks for nothing that asks for it.
        self.assertRegex(" ".join(told), "left out.*ring: (a → b → a|b → a → b)")

    def test_a_new_ring_is_refused_and_named(self):
        gate = Gate(rise_start=0, rise_end=0.1, fall_start=9, fall_end=9)
        one = grass(name="one", rules=[CrownRule(gate=gate, drifts=["b"])]).model_dump(mode="json")
        two = grass(name="two", rules=[CrownRule(gate=gate, drifts=["a"])]).model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("a", 0, one))[0], 200)
        status, body = change(self.client, self.site, ("b", 0, two))
        self.assertEqual(status, 422)
        self.assertIn("two → one → two", body["detail"])
        self.assertFalse(Item.objects.filter(site=self.site, key="b").exists())

    def test_a_piece_of_an_asset_that_is_not_there_says_so(self):
        plan = PiecePlan(name="lost", asset="import-000000000000").model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("lost", 0, plan))[0], 200)
        self.assertEqual(set(self.all_addresses().values()), {200})
        self.assertIn("no asset", self.effects()["lost"]["reason"])

    def test_snow_beside_the_ground(self):
        """A piece off the edge of the ground, near it and far from it, whatever was asked for first."""
        weather = WeatherPlan(snow=3.0).model_dump(mode="json")
        plans = [
            PiecePlan(name=n, asset="crate", position=(x, 0, 0)).model_dump(mode="json")
            for n, x in (("far", 60), ("near", 5.2))
        ]
        edits = [("weather", 0, weather), ("far", 0, plans[0]), ("near", 0, plans[1])]
        self.assertEqual(change(self.client, self.site, *edits)[0], 200)
        for owner in ("near", "far", "ground", "wall"):
            self.assertEqual(self.client.get(f"{self.root}/derived/snow/{owner}").status_code, 200, owner)


def stumbling_effect(whole, key):
    def effect(scene, other, plan):
        if other == key:
            raise IndexError("index 240 is out of bounds")
        return whole.effect(scene, other, plan)

    return effect
