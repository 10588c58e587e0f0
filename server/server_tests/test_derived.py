"""What the plate is sent: exact where it has to be, addresses that change with what they depend on and nothing else."""

from __future__ import annotations

import json
from unittest import TestCase as Plain

import numpy as np
from django.test import TestCase

from cenote_core.base.packet import unpack
from cenote_core.drifts.recipes import RECIPES
from cenote_core.graph.store import Cache
from cenote_core.kinds.light import sky_of, sky_packet
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.light.sky import make_sky
from cenote_core.mesh.mesh import make_mesh
from cenote_core.mesh.packed import mesh_packet
from cenote_core.plan import Cut, DecalPlan, GroundLayer, GroundPlan, LightPlan
from cenote_core.plan.site import SitePlan
from cenote_core.plan.stored import upgraded
from cenote_core.scene.scene import Scene
from sites.models import Item

from .helpers import change, client_of, grass, instances_in, moss, person, post, site_of, wall

OPEN = {"rise_start": -9000, "rise_end": -9000, "fall_start": 9000, "fall_end": 9000}
RNG = np.random.Generator(np.random.Philox(77))


class Packed(Plain):
    def test_the_sky_is_sent_as_the_card_reads_it(self):
        plan = LightPlan(azimuth=250, elevation=30)
        arrays, info = unpack(sky_packet(make_sky(plan)))
        sky = make_sky(plan)
        words = arrays["sky image"]
        self.assertEqual((words.dtype, words.shape), (np.uint32, sky.image.shape[:2]))
        height, width = words.shape
        # Straight up is the last row; north, the first column of the sky, a quarter from the left.
        for row, col, azimuth in (
            (5, width // 4, 0),
            (height // 3, width // 2, width // 4),
            (30, 7, 3 * width // 4 + 7),
        ):
            word = int(words[height - 1 - row, col])
            seen = np.array([word >> 9 * c & 511 for c in range(3)]) * 2.0 ** ((word >> 27) - 24)
            np.testing.assert_allclose(seen, sky.image[row, azimuth], atol=sky.image[row, azimuth].max() / 500)
        self.assertEqual(np.shape(info["ambient"]), (9, 3))

    def test_faces_come_in_runs_by_slot_and_none_is_lost(self):
        slots = RNG.integers(0, 3, 50)
        faces = RNG.permutation(150).reshape(50, 3)
        mesh = make_mesh(RNG.random((150, 3)), faces, slots, ("a", "b", "c"))
        arrays, info = unpack(mesh_packet(mesh))
        self.assertEqual(info["counts"], np.bincount(slots, minlength=3).tolist())
        index = arrays["index"].reshape(-1, 3)
        start = 0
        for slot, count in enumerate(info["counts"]):
            run = {tuple(f) for f in index[start : start + count].tolist()}
            self.assertEqual(run, {tuple(f) for f in faces[slots == slot].tolist()})
            start += count

    def test_nothing_is_said_to_be_nothing(self):
        arrays, info = unpack(mesh_packet(None, {"lifts": {}}))
        self.assertEqual((arrays, info), ({}, {"empty": True, "lifts": {}}))

    def test_the_sky_does_not_depend_on_exposure_or_names(self):
        def key(**changed):
            site = SitePlan().with_item("light", LightPlan(**changed))
            return sky_of.ref(Scene(site, BuiltinKit(Cache()), Cache())).key

        for same in ({"exposure": 2.0}, {"name": "dusk"}, {"note": "n"}):
            self.assertEqual(key(), key(**same))
        for other in ({"azimuth": 10.0}, {"cloud": 0.9}, {"seed": 5}, {"haze": 0.0}):
            self.assertNotEqual(key(), key(**other))


class Addresses(TestCase):
    def setUp(self):
        decal = DecalPlan(name="crack", position=(0, 0.8, 0.3), receivers=["wall"])
        self.site = site_of(person(), g=grass(), wall=wall(), m=moss(), c=decal)
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"

    def addresses(self) -> dict[str, str]:
        scene = self.client.get(f"{self.root}/scene").json()
        found = {"sky": scene["sky"]}
        for owner in scene["owners"]:
            found[f"mesh {owner['owner']}"], found[f"cover {owner['owner']}"] = owner["mesh"], owner["cover"]
        for kind in ("drifts", "decals"):
            found.update({f"{kind} {entry['key']}": entry["url"] for entry in scene[kind]})
        return found

    def moved(self, key: str, **settings) -> set[str]:
        """What has another address after a change of some settings of an item."""
        before = self.addresses()
        item = Item.objects.get(site=self.site, key=key)
        status, body = change(self.client, self.site, (key, item.revision, {**upgraded(item.plan), **settings}))
        self.assertEqual(status, 200, body)
        after = self.addresses()
        return {name for name in before | after if before.get(name) != after.get(name)}

    def test_only_what_depends_on_a_change_moves(self):
        self.assertEqual(self.moved("g", note="said"), set())
        self.assertEqual(self.moved("g", density=4.0), {"drifts g"})
        self.assertEqual(self.moved("light", azimuth=12.0), {"sky"})
        self.assertEqual(self.moved("m", amount=0.4), {"cover wall"})
        self.assertEqual(self.moved("c", turn=15.0), {"decals c"})
        # The wall's own mesh stays; where it stands decides what grows, what is sheltered and where the crack falls.
        moved = self.moved("wall", position=(0.5, 0, 0))
        self.assertIn("drifts g", moved)
        self.assertNotIn("mesh wall", moved)
        self.assertNotIn("mesh ground", moved)
        self.assertIn("mesh ground", self.moved("ground", amount=0.9))

    def test_every_address_answers_with_a_packet(self):
        for name, url in self.addresses().items():
            if url:
                answer = self.client.get(url)
                self.assertEqual(answer.status_code, 200, name)
                unpack(answer.content)
                self.assertIn("immutable", answer["Cache-Control"], name)

    def test_hidden_things_are_not_listed(self):
        self.assertEqual(self.moved("g", visible=False), {"drifts g"})
        self.assertNotIn("drifts g", self.addresses())
        self.assertEqual(self.moved("c", visible=False), {"decals c"})


class PathsOverTheApi(TestCase):
    def setUp(self):
        ground = GroundPlan(width=12, depth=12, cell=0.3, amount=0, forms=[Cut(line=[(-6, 0), (6, 0)], width=2)])
        self.site = site_of(person(), g=grass(headroom=0), ground=ground)
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"

    def standing(self) -> np.ndarray:
        scene = self.client.get(f"{self.root}/scene").json()
        return instances_in(self.client.get(scene["drifts"][0]["url"]).content).position

    def test_a_keep_out_of_paths_clears_them_and_follows_when_they_are_moved(self):
        self.assertLess(np.abs(self.standing()[:, 2]).min(), 0.5)
        keep = [{"of": "paths", "clearance": 0.2, "reach": 1}]
        plan = {**Item.objects.get(site=self.site, key="g").plan, "keep_outs": keep}
        self.assertEqual(change(self.client, self.site, ("g", 1, plan))[0], 200)
        self.assertGreater(np.abs(self.standing()[:, 2]).min(), 1.2)
        ground = Item.objects.get(site=self.site, key="ground")
        moved = {**ground.plan, "forms": [{**ground.plan["forms"][0], "line": [[-6, 3], [6, 3]]}]}
        self.assertEqual(change(self.client, self.site, ("ground", 1, moved))[0], 200)
        self.assertGreater(np.abs(self.standing()[:, 2] - 3).min(), 1.2)
        self.assertLess(np.abs(self.standing()[:, 2]).min(), 0.5)

    def test_the_rule_has_its_histogram_and_its_value_under_the_pointer(self):
        on_it = {"measure": "path", "gate": {**OPEN, "fall_start": 0, "fall_end": 0}}
        plan = grass(rules=[on_it]).model_dump(mode="json")
        status, body = post(self.client, f"{self.root}/histograms", {"key": "g", "plan": plan})
        self.assertEqual(status, 200)
        # Two of twelve metres are floor.
        self.assertAlmostEqual(body[0]["share"], 2 / 12, delta=0.02)
        spot = {"owner": "ground", "point": [1, 0, 4]}
        status, body = post(self.client, f"{self.root}/values", {"key": "g", "plan": plan, "spot": spot})
        self.assertEqual(status, 200)
        self.assertAlmostEqual(body[0], 3.0, places=3)

    def test_gravel_on_the_path_takes_the_grass_from_it(self):
        layer = GroundLayer(
            key="gravel", blend=0, rules=[{"measure": "path", "gate": {**OPEN, "fall_start": 0, "fall_end": 0}}]
        )
        ground = Item.objects.get(site=self.site, key="ground").plan
        laid = {**ground, "layers": [layer.model_dump(mode="json")]}
        self.assertEqual(change(self.client, self.site, ("ground", 1, laid))[0], 200)
        off = np.abs(self.standing()[:, 2])
        self.assertLess((off < 0.9).mean(), 0.01)
        self.assertGreater((off > 1.1).mean(), 0.9)

    def test_every_recipe_can_be_added_as_it_comes(self):
        for number, recipe in enumerate(RECIPES):
            asked = {"recipe": recipe, "surfaces": ["ground/ground"], "seed": 3 + number}
            status, drifts = post(self.client, f"{self.root}/recipe", asked)
            self.assertEqual(status, 200, recipe)
            edits = [(f"{recipe}-{k}", 0, plan) for k, plan in enumerate(drifts)]
            self.assertEqual(change(self.client, self.site, *edits)[0], 200, recipe)
        effects = self.client.get(f"{self.root}/effects").json()
        self.assertTrue(all(e["amount"] > 0 or e["reason"] for e in effects), json.dumps(effects)[:400])
