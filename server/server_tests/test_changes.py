"""Changes to a site: undo, conflicts, locked items, plans kept from before."""

from unittest import mock
from uuid import uuid4

from django.test import TestCase

from cenote_core.plan import TouchPlan
from sites.computing import scene_of
from sites.models import Change, Item, Site

from .helpers import change, client_of, grass, moss, person, post, site_of, wall


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

    def test_a_site_deleted_while_a_request_is_on_its_way_is_not_there(self):
        gone = Site(pk=uuid4(), name="gone")
        with mock.patch("sites.api.site_for", return_value=gone):
            for way in ("undo", "redo"):
                self.assertEqual(post(self.client, f"/api/sites/{gone.pk}/{way}", {})[0], 404)
            self.assertEqual(change(self.client, gone, ("g", 0, grass().model_dump(mode="json")))[0], 404)

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
