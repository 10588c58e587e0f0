"""Requests with an id of their own are done once, however often they are sent."""

import threading
from unittest import mock
from uuid import uuid4

from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from accounts import once
from accounts.models import AnsweredOnce
from sites.models import Change, Item, Site
from work.models import Job

from .helpers import client_of, grass, person, post, site_of


def send(client, path, body, name):
    answer = client.post(path, body, content_type="application/json", headers={once.HEADER: str(name)})
    return answer.status_code, answer.json()


class Once(TestCase):
    def setUp(self):
        self.site = site_of(person())
        self.client = client_of(person())
        self.root = f"/api/sites/{self.site.pk}"

    def body(self, *edits, label="change"):
        return {"label": label, "edits": [{"key": k, "revision": r, "plan": p} for k, r, p in edits]}

    def twice(self, path, body, name=None):
        name = name or uuid4()
        first, second = send(self.client, path, body, name), send(self.client, path, body, name)
        self.assertEqual(first, second)
        return first

    def test_create_change_and_delete(self):
        plan = grass().model_dump(mode="json")
        for revision, after in ((0, plan), (1, {**plan, "density": 7.0}), (2, None)):
            status, body = self.twice(f"{self.root}/changes", self.body(("g", revision, after)))
            self.assertEqual((status, body["items"][0]["revision"]), (200, revision + 1))
        self.assertEqual(Change.objects.filter(site=self.site).count(), 3)

    def test_an_undo_goes_back_one_step(self):
        plan = grass().model_dump(mode="json")
        for revision in range(3):
            send(
                self.client,
                f"{self.root}/changes",
                self.body(("g", revision, {**plan, "density": 1.0 + revision})),
                uuid4(),
            )
        self.twice(f"{self.root}/undo", {})
        self.assertEqual(Item.objects.get(site=self.site, key="g").plan["density"], 2.0)
        self.twice(f"{self.root}/redo", {})
        self.assertEqual(Item.objects.get(site=self.site, key="g").plan["density"], 3.0)

    def test_a_site_and_a_proof_are_made_once(self):
        before = Site.objects.count()
        self.assertEqual(self.twice("/api/sites", {"name": "new"})[0], 200)
        self.assertEqual(Site.objects.count(), before + 1)
        wanted = {"station": "station-1", "quality": "rough", "width": 96, "height": 64}
        with mock.patch("work.api.ask"):
            self.assertEqual(self.twice(f"/api/work/sites/{self.site.pk}/proofs", wanted)[0], 200)
            self.assertEqual(self.twice(f"/api/work/sites/{self.site.pk}/handovers", {})[0], 200)
        self.assertEqual(Job.objects.filter(site=self.site).count(), 2)

    def test_a_conflict_is_told_again_and_logged_once(self):
        plan = grass().model_dump(mode="json")
        send(self.client, f"{self.root}/changes", self.body(("g", 0, plan)), uuid4())
        self.assertEqual(self.twice(f"{self.root}/changes", self.body(("g", 9, plan)))[0], 409)
        self.assertEqual(Change.objects.filter(site=self.site, state=Change.REFUSED).count(), 1)

    def test_what_was_refused_may_go_well_under_the_same_id(self):
        name, plan = uuid4(), grass().model_dump(mode="json")
        status, _ = send(self.client, f"{self.root}/changes", self.body(("g", 0, {**plan, "density": -4})), name)
        self.assertEqual(status, 422)
        self.assertEqual(send(self.client, f"{self.root}/changes", self.body(("g", 0, plan)), name)[0], 200)

    def test_what_failed_leaves_nothing_and_may_be_sent_again(self):
        name, body = uuid4(), self.body(("g", 0, grass().model_dump(mode="json")))
        with mock.patch("sites.api.history_state", side_effect=RuntimeError("a bug")):
            self.client.raise_request_exception = False
            self.assertEqual(send(self.client, f"{self.root}/changes", body, name)[0], 500)
        self.assertFalse(Item.objects.filter(site=self.site, key="g").exists())
        self.assertEqual(send(self.client, f"{self.root}/changes", body, name)[0], 200)

    def test_an_id_belongs_to_one_person_and_one_address(self):
        name, body = uuid4(), self.body(("g", 0, grass().model_dump(mode="json")))
        self.assertEqual(send(self.client, f"{self.root}/changes", body, name)[0], 200)
        self.assertEqual(send(self.client, f"{self.root}/undo", {}, name)[0], 422)
        stranger = client_of(person("bo"))
        self.assertEqual(send(stranger, f"{self.root}/changes", body, name)[0], 404)
        self.assertEqual(send(self.client, f"{self.root}/changes", body, "not an id")[0], 422)

    def test_answers_are_forgotten_in_time(self):
        self.twice("/api/sites", {"name": "new"})
        once.forget_old()
        self.assertEqual(AnsweredOnce.objects.count(), 1)
        AnsweredOnce.objects.update(at=timezone.now() - 2 * once.KEPT)
        once.forget_old()
        self.assertEqual(AnsweredOnce.objects.count(), 0)


class AtTheSameTime(TransactionTestCase):
    def test_two_of_one_id_are_one(self):
        site, client = site_of(person()), client_of(person())
        name, body = (
            uuid4(),
            {"label": "new", "edits": [{"key": "g", "revision": 0, "plan": grass().model_dump(mode="json")}]},
        )
        found = []

        def go():
            found.append(send(client, f"/api/sites/{site.pk}/changes", body, name))
            connection.close()

        threads = [threading.Thread(target=go) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual([found[0]] * 4, found)
        self.assertEqual(found[0][0], 200)
        self.assertEqual(Change.objects.filter(site=site).count(), 1)


class OthersSince(TestCase):
    """What somebody else set, even to the same value, is not taken back by who set it first."""

    def test_the_same_value_set_by_another(self):
        site = site_of(person())
        site.members.create(user=person("bo"), role="editor")
        ada, bo = client_of(person()), client_of(person("bo"))
        plan = grass(density=7.0).model_dump(mode="json")
        root = f"/api/sites/{site.pk}"
        edit = lambda revision: {"label": "density", "edits": [{"key": "g", "revision": revision, "plan": plan}]}  # noqa: E731
        self.assertEqual(post(ada, f"{root}/changes", edit(0))[0], 200)
        self.assertEqual(post(bo, f"{root}/changes", edit(1))[0], 200)
        status, body = post(ada, f"{root}/undo", {})
        self.assertEqual((status, body["whose"]), (409, "bo"))
        self.assertEqual(post(ada, f"{root}/undo?of={body['number']}", {})[0], 200)
        self.assertEqual(post(ada, f"{root}/undo", {})[0], 200)
        self.assertTrue(Item.objects.get(site=site, key="g").deleted)
