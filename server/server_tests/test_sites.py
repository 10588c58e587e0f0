"""Accounts, membership, changes, undo, conflicts, bad input."""

import json
from unittest import mock

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase

from cenote_core.measures.crown import CrownRule
from cenote_core.plan import AssetShare, Gate, GroundLayer, GroundPlan, TouchPlan
from cenote_core.plan.stored import upgraded
from sites.computing import scene_of
from sites.derived import materials_info
from sites.models import Change, Item, Member, Site
from sites.starting import starting_items

from .helpers import change, client_of, grass, instances_in, moss, person, post, site_of, wall


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
        for path in ("", "/scene", "/effects", "/derived/mesh/ground", "/derived/instances/g", "/derived/sky"):
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


class Changes(TestCase):
    def setUp(self):
        self.site = site_of(person(), wall=wall())
        self.client = client_of(person())

    def plan(self, key):
        item = Item.objects.get(site=self.site, key=key)
        return None if item.deleted else item.plan

    def test_create_change_delete_undo_redo(self):
        one = grass().model_dump(mode="json")
        two = {**one, "density": 7.0}
        self.assertEqual(change(self.client, self.site, ("g", 0, one), label="new drift")[0], 200)
        self.assertEqual(change(self.client, self.site, ("g", 1, two), label="density")[0], 200)
        status, body = change(self.client, self.site, ("g", 2, None), label="delete")
        self.assertEqual((status, body["undo"], body["items"][0]["deleted"]), (200, "delete", True))
        undo = f"/api/sites/{self.site.pk}/undo"
        states = []
        for _ in range(4):
            states.append(post(self.client, undo, {})[1]["label"])
        self.assertEqual(states, ["delete", "density", "new drift", ""])
        self.assertIsNone(self.plan("g"))
        redo = f"/api/sites/{self.site.pk}/redo"
        post(self.client, redo, {})
        self.assertEqual(self.plan("g")["density"], 3.0)
        post(self.client, redo, {})
        self.assertEqual(self.plan("g")["density"], 7.0)

    def test_undo_works_over_several_items_at_once(self):
        a, b = grass().model_dump(mode="json"), moss().model_dump(mode="json")
        change(self.client, self.site, ("a", 0, a), ("b", 0, b), label="both")
        post(self.client, f"/api/sites/{self.site.pk}/undo", {})
        self.assertEqual((self.plan("a"), self.plan("b")), (None, None))

    def test_a_new_change_ends_redo(self):
        one = grass().model_dump(mode="json")
        change(self.client, self.site, ("g", 0, one))
        post(self.client, f"/api/sites/{self.site.pk}/undo", {})
        change(self.client, self.site, ("h", 0, one), label="other")
        self.assertEqual(post(self.client, f"/api/sites/{self.site.pk}/redo", {})[1]["label"], "")

    def test_stale_write_is_refused_and_both_versions_kept(self):
        one = grass().model_dump(mode="json")
        change(self.client, self.site, ("g", 0, one))
        self.assertEqual(change(self.client, self.site, ("g", 1, {**one, "density": 5.0}))[0], 200)
        status, body = change(self.client, self.site, ("g", 1, {**one, "density": 9.0}), label="mine")
        self.assertEqual(status, 409)
        self.assertEqual(body["theirs"][0]["plan"]["density"], 5.0)
        self.assertEqual(self.plan("g")["density"], 5.0)
        kept = Change.objects.get(site=self.site, number=body["kept"])
        self.assertEqual((kept.state, kept.entries[0]["after"]["density"]), (Change.REFUSED, 9.0))
        self.assertEqual(
            change(self.client, self.site, ("g", body["theirs"][0]["revision"], {**one, "density": 9.0}))[0], 200
        )

    def test_all_or_nothing(self):
        one = grass().model_dump(mode="json")
        status, _ = change(self.client, self.site, ("g", 0, one), ("wall", 99, wall().model_dump(mode="json")))
        self.assertEqual(status, 409)
        self.assertFalse(Item.objects.filter(site=self.site, key="g").exists())

    def test_ground_and_light_cannot_go(self):
        status, body = change(self.client, self.site, ("ground", 1, None))
        self.assertEqual(status, 422)
        self.assertIn("always", body["detail"])

    def test_an_item_keeps_its_kind(self):
        self.assertEqual(change(self.client, self.site, ("wall", 1, grass().model_dump(mode="json")))[0], 422)


class Locks(TestCase):
    def setUp(self):
        self.site = site_of(person(), g=grass(), wall=wall())
        self.client = client_of(person())
        self.locked = grass(locked=True).model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("g", 1, self.locked))[0], 200)

    def refused(self, *edit):
        status, body = change(self.client, self.site, edit)
        self.assertEqual(status, 422, body)
        self.assertIn("‘grass’ is locked", body["detail"])

    def test_a_locked_item_is_changed_and_deleted_by_nobody(self):
        self.refused("g", 2, {**self.locked, "density": 9.0})
        self.refused("g", 2, {**self.locked, "density": 9.0, "locked": False})
        self.refused("g", 2, None)
        self.assertEqual(Item.objects.get(site=self.site, key="g").plan["density"], 3.0)

    def test_nothing_is_done_on_it_by_hand(self):
        stroke = TouchPlan(target="g", points=[(0, 0, 0)]).model_dump(mode="json")
        self.refused("t", 0, stroke)
        self.assertFalse(Item.objects.filter(site=self.site, key="t").exists())

    def test_it_is_hidden_and_unlocked_and_then_changed(self):
        self.assertEqual(change(self.client, self.site, ("g", 2, {**self.locked, "visible": False}))[0], 200)
        self.assertEqual(change(self.client, self.site, ("g", 3, {**self.locked, "locked": False}))[0], 200)
        self.assertEqual(
            change(self.client, self.site, ("g", 4, {**self.locked, "locked": False, "density": 9.0}))[0], 200
        )
        for _ in range(3):
            self.assertEqual(post(self.client, f"/api/sites/{self.site.pk}/undo", {})[0], 200)
        self.assertEqual(Item.objects.get(site=self.site, key="g").plan["density"], 3.0)


class StoredPlans(TestCase):
    """Plans of an older schema, in rows and in the history."""

    def setUp(self):
        def steeper(plan):
            plan = dict(plan)
            if "thickness" in plan:
                plan["density"] = plan.pop("thickness")
            return plan

        self.site = site_of(person(), g=grass())
        self.client = client_of(person())
        item = Item.objects.get(site=self.site, key="g")
        item.plan = {**item.plan, "schema": 1}
        item.plan["thickness"] = item.plan.pop("density")
        item.save()
        steps = mock.patch.multiple("cenote_core.plan.stored", STEPS=(steeper,), SCHEMA=2)
        steps.start()
        self.addCleanup(steps.stop)

    def test_they_are_shown_computed_and_written_under_todays_schema(self):
        shown = next(i for i in self.client.get(f"/api/sites/{self.site.pk}").json()["items"] if i["key"] == "g")
        self.assertEqual(shown["plan"]["density"], 3.0)
        self.assertNotIn("schema", shown["plan"])
        self.assertEqual(scene_of(self.site).site.drifts["g"].density, 3.0)
        status, _ = change(self.client, self.site, ("g", 1, {**shown["plan"], "density": 5.0}))
        self.assertEqual(status, 200)
        self.assertEqual(Item.objects.get(site=self.site, key="g").plan["schema"], 2)
        # What the history holds is old, what undo writes is not.
        self.assertEqual(post(self.client, f"/api/sites/{self.site.pk}/undo", {})[0], 200)
        plan = Item.objects.get(site=self.site, key="g").plan
        self.assertEqual((plan["schema"], plan["density"]), (2, 3.0))
        self.assertNotIn("thickness", plan)

    def test_one_that_cannot_be_read_is_said_in_words(self):
        Item.objects.filter(site=self.site, key="g").update(plan={"schema": 9, "kind": "drift", "name": "g"})
        for address in ("", "/scene"):
            answer = self.client.get(f"/api/sites/{self.site.pk}{address}")
            self.assertEqual(answer.status_code, 422)
            self.assertIn("newer version", answer.json()["detail"])


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
            answer = client.get(address)
            self.assertEqual(answer.status_code, 422)
            self.assertIn("ring", answer.json()["detail"])


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
        site = site_of(person(), g=grass(), wall=wall(), m=moss())
        before = materials_info(scene_of(site))["moss"]["v"]
        with mock.patch("cenote_core.kit.builtin.MATERIALS_REVISION", 10_000):
            self.assertNotEqual(materials_info(scene_of(site))["moss"]["v"], before)


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
