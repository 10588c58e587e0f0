"""Accounts, membership, bad input, a lost database."""

import json

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase

from cenote_core.plan import Finish, GroundLayer
from cenote_core.plan.stored import upgraded
from sites.models import Item, Member, Site

from .helpers import change, client_of, grass, moss, person, post, site_of, wall


class Accounts(TestCase):
    def sign_in(self, client, password):
        return post(client, "/api/accounts/sign-in", {"name": "ada", "password": password})

    def test_in_and_out(self):
        person()
        client = Client()
        self.assertIsNone(client.get("/api/accounts/me").json()["person"])
        self.assertEqual(client.get("/api/sites").status_code, 401)
        status, body = self.sign_in(client, "a long password")
        self.assertEqual((status, body["initials"]), (200, "A"))
        self.assertEqual(client.get("/api/sites").status_code, 200)
        self.assertEqual(post(client, "/api/accounts/sign-out", {})[0], 204)
        self.assertEqual(client.get("/api/sites").status_code, 401)

    def test_guessing_is_slowed(self):
        person()
        client = Client()
        self.assertEqual([self.sign_in(client, f"guess {k}")[0] for k in range(8)], [401] * 6 + [429] * 2)
        status, body = self.sign_in(client, "a long password")
        self.assertEqual(status, 429)
        self.assertIn("Wait", body["detail"])

    def test_writes_need_the_token(self):
        client = Client(enforce_csrf_checks=True)
        client.force_login(person())
        self.assertEqual(post(client, "/api/sites", {"name": "x"})[0], 403)
        self.assertEqual(Site.objects.count(), 0)


class Membership(TestCase):
    def test_a_stranger_finds_nothing(self):
        site = site_of(person(), g=grass())
        stranger = client_of(person("eve"))
        for path in ("", "/scene", "/effects", "/derived/mesh/ground", "/derived/instances/g", "/derived/light/sky"):
            self.assertEqual(stranger.get(f"/api/sites/{site.pk}{path}").status_code, 404, path)
        for path in ("changes", "undo", "preview", "histograms"):
            body = {
                "label": "x",
                "edits": [{"key": "g", "revision": 1, "plan": None}],
                "key": "g",
                "plan": grass().model_dump(mode="json"),
            }
            self.assertEqual(post(stranger, f"/api/sites/{site.pk}/{path}", body)[0], 404, path)
        self.assertEqual(stranger.get("/api/sites").json(), [])

    def test_a_viewer_looks_but_does_not_touch(self):
        site = site_of(person(), role=Member.VIEWER)
        client = client_of(person())
        self.assertEqual(client.get(f"/api/sites/{site.pk}").json()["role"], "viewer")
        status, body = change(client, site, ("g", 0, grass().model_dump(mode="json")))
        self.assertEqual(status, 403)
        self.assertIn("editor", body["detail"])
        self.assertEqual(client.delete(f"/api/sites/{site.pk}").status_code, 403)

    def test_put_away_and_brought_back(self):
        client = client_of(person())
        status, card = post(client, "/api/sites", {"name": "A yard"})
        self.assertEqual((status, card["pieces"], card["size"]), (200, 0, "40 × 40 m"))
        self.assertEqual(client.delete(f"/api/sites/{card['id']}").status_code, 204)
        self.assertEqual(client.get("/api/sites").json(), [])
        self.assertEqual(client.get(f"/api/sites/{card['id']}").status_code, 404)
        self.assertEqual(post(client, f"/api/sites/{card['id']}/restore", {})[0], 200)
        self.assertEqual(len(client.get("/api/sites").json()), 1)


class BadInput(TestCase):
    def setUp(self):
        self.site = site_of(person(), g=grass(), wall=wall(), m=moss())
        self.client = client_of(person())

    def test_each_gets_a_sentence_and_changes_nothing(self):
        good = grass().model_dump(mode="json")
        before = Item.objects.get(site=self.site, key="g").plan
        bad = [
            {**good, "density": 1e12},
            {**good, "density": "lots"},
            {**good, "surprise": 1},
            {**good, "name": ""},
            {**good, "name": "x" * 999},
            {**good, "assets": [{"asset": "a/../b", "weight": 1}]},
            {**good, "assets": [{"asset": "fern", "weight": -1}]},
            {**good, "surfaces": ["nonsense"]},
            {**good, "kind": "spaceship"},
            {**good, "variety": {"size_min": 5, "size_max": 1}},
            {
                **good,
                "rules": [
                    {"measure": "slope", "gate": {"rise_start": 9, "rise_end": 1, "fall_start": 2, "fall_end": 3}}
                ],
            },
            {**good, "rules": [{"measure": "luck", "gate": {}}]},
            {**good, "rules": [{}] * 99},
        ]
        for plan in bad:
            status, body = change(self.client, self.site, ("g", 1, plan))
            self.assertEqual(status, 422, plan)
            self.assertGreater(len(body["detail"]), 8)
        self.assertEqual(Item.objects.get(site=self.site, key="g").plan, before)

    def test_nan_infinity_and_broken_json(self):
        good = json.dumps(
            {"label": "x", "edits": [{"key": "g", "revision": 1, "plan": grass().model_dump(mode="json")}]}
        )
        path = f"/api/sites/{self.site.pk}/changes"
        for text in (
            good.replace("3.0", "NaN", 1),
            good.replace("3.0", "Infinity", 1),
            good.replace("3.0", "1e999", 1),
            good[:40],
            "",
            "[]",
            "\x00",
        ):
            status, body = post(self.client, path, text)
            self.assertIn(status, (400, 422), text[:60])
            self.assertTrue(body["detail"])

    def test_ground_too_fine(self):
        plan = {
            **upgraded(Item.objects.get(site=self.site, key="ground").plan),
            "width": 2000,
            "depth": 2000,
            "cell": 0.02,
        }
        status, body = change(self.client, self.site, ("ground", 1, plan))
        self.assertEqual(status, 422)
        self.assertIn("Make the cell larger", body["detail"])

    def test_asset_no_longer_in_the_kit_is_said_not_fatal(self):
        plan = wall().model_copy(update={"asset": "import-gone"}).model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("wall", 1, plan))[0], 200)
        drift = grass().model_dump(mode="json")
        drift["assets"] = [{"asset": "import-gone", "weight": 1}]
        self.assertEqual(change(self.client, self.site, ("g", 1, drift))[0], 200)
        scene = self.client.get(f"/api/sites/{self.site.pk}/scene")
        self.assertEqual(scene.status_code, 200)
        self.assertEqual([o["owner"] for o in scene.json()["owners"]], ["ground"])
        effects = {e["key"]: e for e in self.client.get(f"/api/sites/{self.site.pk}/effects").json()}
        self.assertIn("no longer in the kit", effects["g"]["reason"])
        self.assertIn("no longer on the site", effects["m"]["reason"])

    def test_material_no_longer_in_the_kit_is_said_not_fatal(self):
        def put(key, plan):
            self.assertEqual(change(self.client, self.site, (key, 1, plan))[0], 200)

        ground = Item.objects.get(site=self.site, key="ground").plan
        layer = GroundLayer(key="grit", material="gone-grit").model_dump(mode="json")
        put("ground", {**ground, "material": "gone-ground", "layers": [layer]})
        finish = Finish(material="gone-moss")
        put("m", moss().model_copy(update={"finish": finish}).model_dump(mode="json"))
        scene = self.client.get(f"/api/sites/{self.site.pk}/scene")
        self.assertEqual(scene.status_code, 200)
        materials = scene.json()["materials"]
        for key in ("gone-ground", "gone-grit", "gone-moss"):
            self.assertEqual(materials[key]["kind"], "gone")
            self.assertIn(f"{key}, no longer in the kit", materials[key]["title"])
            self.assertEqual(self.client.get(f"{materials[key]['url']}/colour.webp?side=32").status_code, 200)
        self.assertNotIn("gone", [m["kind"] for k, m in materials.items() if not k.startswith("gone-")])
        self.assertEqual(self.client.get(f"/api/sites/{self.site.pk}/effects").status_code, 200)

    def test_unknown_addresses(self):
        for path in (
            "/api/nowhere",
            f"/api/sites/{self.site.pk}/derived/mesh/none",
            f"/api/sites/{self.site.pk}/derived/decal/x",
            "/api/kit/assets/none/lod/0",
            "/api/kit/assets/wall/lod/9",
        ):
            self.assertEqual(self.client.get(path).status_code, 404, path)
        self.assertEqual(self.client.get("/api/kit/materials/none/colour.webp").status_code, 422)
        self.assertEqual(self.client.get("/api/kit/materials/moss/colour.webp?side=99999").status_code, 422)

    def test_spacing_too_fine_is_refused_in_words(self):
        plan = grass(spacing=0.005).model_dump(mode="json")
        big = {**upgraded(Item.objects.get(site=self.site, key="ground").plan), "width": 400, "depth": 400, "cell": 2}
        change(self.client, self.site, ("ground", 1, big))
        status, body = post(self.client, f"/api/sites/{self.site.pk}/preview", {"key": "g", "plan": plan})
        self.assertEqual(status, 422)
        self.assertIn("wider spacing", body["detail"])


class LostDatabase(TransactionTestCase):
    def test_a_cut_connection_costs_one_answer_at_most(self):
        site = site_of(person())
        client = client_of(person())
        self.assertEqual(client.get(f"/api/sites/{site.pk}").status_code, 200)
        with connection.cursor() as cursor:
            cursor.execute("select pg_backend_pid()")
            pid = cursor.fetchone()[0]
        import psycopg

        settings = connection.get_connection_params()
        keep = {k: settings[k] for k in ("host", "port", "user", "password", "dbname")}
        with psycopg.connect(**keep, autocommit=True) as other:
            other.execute("select pg_terminate_backend(%s)", (pid,))
        answers = [client.get(f"/api/sites/{site.pk}") for _ in range(3)]
        self.assertNotIn(500, [a.status_code for a in answers])
        first = answers[0]
        if first.status_code == 503:
            self.assertIn("database", first.json()["detail"])
        self.assertEqual(answers[-1].status_code, 200)
