"""Images, hand edits, ground and weather through the API; why here, section, snags, recipes, values; bad input to each."""

import io
import json
import tempfile
from pathlib import Path

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from PIL import Image

from cenote_core.base.packet import unpack
from cenote_core.measures.stems import StemsRule
from cenote_core.plan import (
    EditPlan,
    GroundLayer,
    GroundPlan,
    KeepOut,
    LinePlan,
    PiecePlan,
    PlacedPlan,
    PlacedThing,
    TouchPlan,
    WeatherPlan,
)
from kit.models import ImportedPicture
from sites.models import Item, Member

from .helpers import change, client_of, grass, instances_in, moss, person, post, site_of, wall

OPEN = {"rise_start": 0, "rise_end": 0, "fall_start": 99, "fall_end": 99}


def png16(width=24, height=16):
    ramp = np.linspace(0, 65535, width)[None, :].repeat(height, axis=0).astype(np.uint16)
    out = io.BytesIO()
    Image.fromarray(ramp).save(out, "PNG")
    return out.getvalue()


class Pictures(TestCase):
    def setUp(self):
        self.site = site_of(person(), g=grass())
        self.client = client_of(person())

    def bring(self, data, name="hill.png", client=None):
        file = SimpleUploadedFile(name, data)
        answer = (client or self.client).post(f"/api/kit/pictures?site={self.site.pk}", {"file": file})
        return answer.status_code, answer.json()

    def test_a_height_image_shapes_the_ground(self):
        status, body = self.bring(png16())
        self.assertEqual((status, body["width"], body["height"], body["title"]), (200, 24, 16, "hill"))
        ground = Item.objects.get(site=self.site, key="ground").plan
        plan = {**ground, "amount": 0, "image": body["id"], "image_height": 6.0}
        self.assertEqual(change(self.client, self.site, ("ground", 1, plan))[0], 200)
        mesh = self.client.get(f"/api/sites/{self.site.pk}/derived/mesh/ground")
        arrays, _ = unpack(mesh.content)
        low, high = arrays["position"][:, 1].min(), arrays["position"][:, 1].max()
        self.assertAlmostEqual(float(low), 0.0, delta=0.01)
        self.assertAlmostEqual(float(high), 6.0, delta=0.01)
        self.assertEqual(self.client.get(f"/api/kit/pictures/{body['id']}/small.png").status_code, 200)
        self.assertEqual(len(self.client.get(f"/api/kit/pictures?site={self.site.pk}").json()), 1)

    def test_float_tiff_and_exr_are_read_by_their_range(self):
        plane = np.linspace(-3, 9, 12 * 8).reshape(8, 12).astype(np.float32)
        out = io.BytesIO()
        Image.fromarray(plane).save(out, "TIFF")
        self.assertEqual(self.bring(out.getvalue(), "h.tif")[0], 200)
        import OpenEXR

        with tempfile.NamedTemporaryFile(suffix=".exr") as file:
            OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, {"Y": plane}).write(
                file.name
            )
            status, body = self.bring(Path(file.name).read_bytes(), "h.exr")
        self.assertEqual((status, body["width"]), (200, 12))

    def test_broken_ones_are_refused_in_words_and_leave_nothing(self):
        good = png16()
        out = io.BytesIO()
        Image.new("RGB", (8, 8)).save(out, "JPEG")
        tall = io.BytesIO()
        Image.new("L", (1, 400)).save(tall, "PNG")
        gaps = io.BytesIO()
        Image.fromarray(np.full((4, 4), np.nan, np.float32)).save(gaps, "TIFF")
        for data, name in (
            (good[: len(good) // 2], "half.png"),
            (b"", "none.png"),
            (b"not an image at all", "text.png"),
            (out.getvalue(), "photo.png"),
            (good, "hill.bmp"),
            (b"v/1\x01nonsense", "x.exr"),
            (tall.getvalue(), "line.png"),
            (gaps.getvalue(), "gaps.tif"),
        ):
            status, body = self.bring(data, name)
            self.assertEqual(status, 422, (name, body))
            self.assertGreater(len(body["detail"]), 15)
        self.assertEqual(ImportedPicture.objects.count(), 0)

    def test_a_missing_image_is_said_and_nothing_breaks(self):
        _, body = self.bring(png16())
        ground = Item.objects.get(site=self.site, key="ground").plan
        change(self.client, self.site, ("ground", 1, {**ground, "image": body["id"]}))
        self.assertEqual(self.client.delete(f"/api/kit/pictures/{body['id']}").status_code, 204)
        rule = {"measure": "image", "image": body["id"], "gate": {**OPEN, "rise_start": 0.5, "rise_end": 0.6}}
        change(self.client, self.site, ("g", 1, grass(rules=[rule]).model_dump(mode="json")))
        self.assertEqual(self.client.get(f"/api/sites/{self.site.pk}/scene").status_code, 200)
        mesh, _ = unpack(self.client.get(f"/api/sites/{self.site.pk}/derived/mesh/ground").content)
        self.assertLess(np.ptp(mesh["position"][:, 1]), 2.0)
        effects = {e["key"]: e for e in self.client.get(f"/api/sites/{self.site.pk}/effects").json()}
        self.assertIn("image rule lets nothing through", effects["g"]["reason"])

    def test_strangers_and_viewers(self):
        _, body = self.bring(png16())
        stranger = client_of(person("eve"))
        self.assertEqual(self.bring(png16(), client=stranger)[0], 404)
        self.assertEqual(stranger.get(f"/api/kit/pictures/{body['id']}/small.png").status_code, 404)
        viewer = person("vic")
        Member.objects.create(site=self.site, user=viewer, role=Member.VIEWER)
        self.assertEqual(self.bring(png16(), client=client_of(viewer))[0], 403)
        self.assertEqual(client_of(viewer).get(f"/api/kit/pictures/{body['id']}/small.png").status_code, 200)


class Explained(TestCase):
    def setUp(self):
        self.site = site_of(person(), g=grass(), wall=wall(), m=moss())
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"

    def test_why(self):
        status, body = post(self.client, f"{self.root}/why", {"owner": "ground", "point": [2, 0, 2]})
        self.assertEqual((status, body[0]["name"]), (200, "grass"))
        self.assertTrue(body[0]["summary"])
        for bad in (
            {"owner": "gone", "point": [0, 0, 0]},
            {"owner": "ground", "point": [1e12, 0, 0]},
            {"owner": "ground"},
        ):
            status, body = post(self.client, f"{self.root}/why", bad)
            self.assertEqual(status, 422)
            self.assertTrue(body["detail"])

    def test_values_under_the_pointer(self):
        plan = grass(rules=[{"measure": "slope", "gate": OPEN}, {"measure": "water", "gate": OPEN}]).model_dump(
            mode="json"
        )
        spot = {"owner": "ground", "point": [2, 0, 2]}
        status, body = post(self.client, f"{self.root}/values", {"key": "g", "plan": plan, "spot": spot})
        self.assertEqual(status, 200)
        self.assertTrue(0 <= body[0] < 60)
        self.assertIsNone(body[1])
        status, _ = post(
            self.client, f"{self.root}/values", {"key": "wall", "plan": wall().model_dump(mode="json"), "spot": spot}
        )
        self.assertEqual(status, 422)

    def test_section(self):
        body = {"start": [-4, 1], "end": [4, 1], "width": 1.5}
        answer = self.client.post(f"{self.root}/section", json.dumps(body), content_type="application/json")
        arrays, info = unpack(answer.content)
        self.assertAlmostEqual(info["length"], 8.0)
        self.assertEqual(arrays["ground"].shape[1], 2)
        self.assertIn("drift g", arrays)
        for bad in ({**body, "width": -1}, {"start": [0, 0]}, {**body, "end": ["x", 0]}):
            self.assertEqual(post(self.client, f"{self.root}/section", bad)[0], 422)

    def test_snags_and_their_cure(self):
        plan = grass(density=30, spacing=0.12, headroom=0.02).model_dump(mode="json")
        change(self.client, self.site, ("g", 1, plan))
        snags = self.client.get(f"{self.root}/snags").json()
        poking = next(s for s in snags if s["kind"] == "poking through")
        self.assertEqual(change(self.client, self.site, ("g", 2, poking["plan"]), label=poking["cure"])[0], 200)
        left = [s["kind"] for s in self.client.get(f"{self.root}/snags").json()]
        self.assertNotIn("poking through", left)

    def test_recipes_are_listed_and_made(self):
        listed = self.client.get("/api/sites/recipes").json()
        self.assertGreaterEqual(len(listed), 4)
        status, plans = post(
            self.client, f"{self.root}/recipe", {"recipe": listed[0]["key"], "surfaces": ["ground/ground"]}
        )
        self.assertEqual(status, 200)
        edits = [(f"r{k}", 0, plan) for k, plan in enumerate(plans)]
        self.assertEqual(change(self.client, self.site, *edits)[0], 200)
        self.assertEqual(
            post(self.client, f"{self.root}/recipe", {"recipe": "none", "surfaces": ["ground/ground"]})[0], 404
        )
        self.assertEqual(post(self.client, f"{self.root}/recipe", {"recipe": listed[0]["key"], "surfaces": []})[0], 422)

    def test_a_stranger_is_told_nothing(self):
        stranger = client_of(person("eve"))
        spot = {"owner": "ground", "point": [0, 0, 0]}
        bodies = {
            "why": spot,
            "section": {"start": [0, 0], "end": [1, 1]},
            "recipe": {"recipe": "meadow", "surfaces": ["ground/ground"]},
            "values": {"key": "g", "plan": grass().model_dump(mode="json"), "spot": spot},
        }
        for path, body in bodies.items():
            self.assertEqual(post(stranger, f"{self.root}/{path}", body)[0], 404, path)
        self.assertEqual(stranger.get(f"{self.root}/snags").status_code, 404)


class HandAndGround(TestCase):
    def setUp(self):
        self.site = site_of(person(), g=grass(headroom=0.0))
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"

    def instances(self):
        scene = self.client.get(f"{self.root}/scene").json()
        answer = self.client.get(next(d["url"] for d in scene["drifts"] if d["key"] == "g"))
        return instances_in(answer.content)

    def previewed(self, key, plan):
        body = json.dumps({"key": key, "plan": plan.model_dump(mode="json")})
        answer = self.client.post(f"{self.root}/preview", body, content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return answer.content

    def preview(self, key, plan):
        return unpack(self.previewed(key, plan))

    def test_hand_edits_are_previewed_kept_and_undone(self):
        before = self.instances()
        identity = f"{before.identity[0]:016x}"
        edit = EditPlan(
            target="g", identities=[identity], places=[tuple(map(float, before.position[0]))], action="remove"
        )
        self.assertEqual(len(instances_in(self.previewed("e", edit))), len(before) - 1)
        self.assertEqual(len(self.instances()), len(before))
        change(self.client, self.site, ("e", 0, edit.model_dump(mode="json")), label="take away 1")
        self.assertEqual(len(self.instances()), len(before) - 1)
        post(self.client, f"{self.root}/undo", {})
        self.assertEqual(len(self.instances()), len(before))

    def test_things_set_down_and_lines(self):
        before = len(self.instances())
        placed = PlacedPlan(
            target="g",
            things=[PlacedThing(asset="grass_low", point=(1, 0, 1)), PlacedThing(asset="gone", point=(1, 0, 1))],
        )
        line = LinePlan(target="g", points=[(-3, 0, 0), (3, 0, 0)], count=7)
        change(self.client, self.site, ("p", 0, placed.model_dump(mode="json")), ("l", 0, line.model_dump(mode="json")))
        self.assertEqual(len(self.instances()), before + 1 + 7)

    def test_a_stroke_on_the_ground_is_previewed_with_the_pieces_that_ride_on_it(self):
        crate = PiecePlan(name="c", asset="crate", position=(1, 0, 1), ground_at=0.0)
        change(self.client, self.site, ("c", 0, crate.model_dump(mode="json")))

        def lift():
            owners = self.client.get(f"{self.root}/scene").json()["owners"]
            return next(o["lift"] for o in owners if o["owner"] == "c")

        base = lift()
        stroke = TouchPlan(
            target="ground", action="raise", points=[(1, 0, 1)], radius=2, strength=1, falloff=0, amount=1.5
        )
        arrays, info = self.preview("t", stroke)
        self.assertAlmostEqual(info["lifts"]["c"], base + 1.5, places=3)
        self.assertGreater(arrays["position"][:, 1].max(), 1.4)
        change(self.client, self.site, ("t", 0, stroke.model_dump(mode="json")))
        self.assertAlmostEqual(lift(), base + 1.5, places=3)

    def test_a_ground_of_four_million_points_is_drawn_and_shaped_with_fewer(self):
        plan = Item.objects.get(site=self.site, key="ground").plan
        large = {**plan, "width": 200, "depth": 100, "cell": 0.1, "amount": 3}
        self.assertEqual(change(self.client, self.site, ("ground", 1, large))[0], 200)
        scene = self.client.get(f"{self.root}/scene").json()
        url = next(o["mesh"] for o in scene["owners"] if o["owner"] == "ground")
        arrays, info = unpack(self.client.get(url).content)
        self.assertEqual(info["grid"], [513, 1025])
        np.testing.assert_allclose(np.ptp(arrays["position"], axis=0)[[0, 2]], [200, 100], rtol=1e-5)
        stroke = TouchPlan(target="ground", action="raise", points=[(40, 0, 20)], radius=4, strength=1, amount=2.0)
        arrays, info = self.preview("t", stroke)
        self.assertEqual(info["grid"], [257, 513])
        self.assertEqual(len(arrays["position"]), 257 * 513)

    def test_surfaces_of_the_ground_are_listed_and_previewed(self):
        ground = GroundPlan.model_validate(Item.objects.get(site=self.site, key="ground").plan)
        layered = ground.model_copy(update={"layers": [GroundLayer(key="gravel", material="gravel")]})
        arrays, info = self.preview("ground", layered)
        self.assertIn("ground", arrays)
        self.assertIn("ground.gravel", info["layers"])
        change(self.client, self.site, ("ground", 1, layered.model_dump(mode="json")))
        scene = self.client.get(f"{self.root}/scene").json()
        self.assertEqual([s["ref"] for s in scene["owners"][0]["surfaces"]], ["ground/ground", "ground/gravel"])
        self.assertEqual(scene["owners"][0]["patinas"], ["ground.gravel"])
        painted = TouchPlan(target="ground.gravel", action="less", points=[(0, 0, 0)], radius=3, strength=1, falloff=0)
        arrays, _ = self.preview("t", painted)
        self.assertEqual(int(arrays["ground"].min()), 0)

    def test_season_changes_the_addresses_of_leaves_and_grass(self):
        scene = lambda: self.client.get(f"{self.root}/scene").json()  # noqa: E731
        before = scene()
        _, info = self.preview("weather", WeatherPlan(season=1.0))
        self.assertTrue(info["materials"]["birch_spray"]["url"].endswith("birch_spray.h2"))
        change(self.client, self.site, ("weather", 0, WeatherPlan(season=1.0).model_dump(mode="json")))
        after = scene()
        self.assertNotEqual(before["drifts"], after["drifts"])
        self.assertNotEqual(before["materials"]["birch_spray"]["url"], after["materials"]["birch_spray"]["url"])
        self.assertEqual(before["materials"]["gravel"]["url"], after["materials"]["gravel"]["url"])
        self.assertEqual(
            self.client.get(f"{after['materials']['birch_spray']['url']}/colour.webp?side=64").status_code, 200
        )
        self.assertEqual(self.client.get("/api/kit/materials/far.birch_mid.h2/colour.webp?side=64").status_code, 200)
        self.assertEqual(change(self.client, self.site, ("weather", 1, None))[0], 422)

    def test_drifts_that_ask_for_each_other_are_refused_and_nothing_of_them_is_kept(self):
        ring = {
            key: grass(name=key, rules=[StemsRule(gate=OPEN, drifts=[other])], keep_outs=[KeepOut(of="pieces")])
            for key, other in (("a", "b"), ("b", "a"))
        }
        both = [(key, 0, plan.model_dump(mode="json")) for key, plan in ring.items()]
        status, body = change(self.client, self.site, *both)
        self.assertEqual(status, 422)
        self.assertRegex(str(body), "ring: (a → b → a|b → a → b)")
        self.assertFalse(Item.objects.filter(site=self.site, key__in="ab").exists())
        self.assertEqual(change(self.client, self.site, both[0])[0], 200)
        self.assertEqual(self.client.get(f"{self.root}/derived/instances/a").status_code, 200)
        self.assertEqual(change(self.client, self.site, both[1])[0], 422)

    def test_absurd_plans_are_refused(self):
        good = LinePlan(target="g", points=[(0, 0, 0), (1, 0, 0)]).model_dump(mode="json")
        edit = EditPlan(target="g", identities=["0" * 16]).model_dump(mode="json")
        ground = Item.objects.get(site=self.site, key="ground").plan
        for key, plan in (
            ("x", {**good, "spacing": 0}),
            ("x", {**good, "points": [[0, 0, 0]]}),
            ("x", {**edit, "identities": ["xyz"]}),
            ("x", {**edit, "size": 0}),
            ("x", {**edit, "action": "explode"}),
            ("ground", {**ground, "layers": [{"key": "a b"}]}),
            ("ground", {**ground, "layers": [{"key": "a"}, {"key": "a"}]}),
            ("ground", {**ground, "image_crop": [0.5, 0, 0.5, 1]}),
            ("ground", {**ground, "forms": [{"form": "volcano"}]}),
            ("ground", {**ground, "forms": [{"form": "basin", "centre": [0, 0], "radius": -1}]}),
            ("weather", {"kind": "weather", "season": 13}),
        ):
            revision = 1 if key == "ground" else 0
            status, body = change(self.client, self.site, (key, revision, plan))
            self.assertEqual(status, 422, plan)
            self.assertGreater(len(body["detail"]), 8)


class Weatherings(TestCase):
    def test_kinds_are_listed_and_made_on_the_chosen_surfaces(self):
        user = person()
        client, site = client_of(user), site_of(user, wall=wall())
        listed = client.get("/api/sites/weatherings").json()
        self.assertIn("lichen", [entry["key"] for entry in listed])
        body = {"recipe": "lichen", "surfaces": ["wall/stone", "wall/coping", "wall/stone"], "seed": 5}
        status, plan = post(client, f"/api/sites/{site.pk}/weathering", body)
        self.assertEqual((status, plan["kind"]), (200, "patina"))
        self.assertEqual([use["surface"] for use in plan["uses"]], ["wall/stone", "wall/coping"])
        self.assertEqual(change(client, site, ("p", 0, plan))[0], 200)

    def test_an_unknown_kind_or_somebody_elses_site_is_refused(self):
        user = person()
        client, site = client_of(user), site_of(user, wall=wall())
        body = {"recipe": "none", "surfaces": ["wall/stone"]}
        self.assertEqual(post(client, f"/api/sites/{site.pk}/weathering", body)[0], 404)
        self.assertEqual(post(client, f"/api/sites/{site.pk}/weathering", {**body, "surfaces": []})[0], 422)
        stranger = client_of(person("bob"))
        body["recipe"] = "moss"
        self.assertEqual(post(stranger, f"/api/sites/{site.pk}/weathering", body)[0], 404)
