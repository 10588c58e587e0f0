"""Signing in: how often it may be tried, what is not believed, and that each session is a new one."""

import json
import threading

from django.db import connection
from django.test import Client, TransactionTestCase
from django.utils import timezone

from accounts.models import FailedSignIn
from accounts.throttle import LONG_PAUSE, PAUSE, TRIES, TRIES_FOR_ONE, TRIES_FROM_ONE

from .helpers import person

RIGHT = "a long password"


class SigningIn(TransactionTestCase):
    def setUp(self):
        person(password=RIGHT)

    def attempt(self, password="wrong", name="ada", client=None, address="10.0.0.1", **headers):
        client = client or Client()
        body = json.dumps({"name": name, "password": password})
        return client.post(
            "/api/accounts/sign-in", body, content_type="application/json", REMOTE_ADDR=address, headers=headers
        ).status_code

    def test_of_many_tries_at_once_no_more_are_looked_at_than_allowed(self):
        found = []

        def guess():
            found.append(self.attempt())
            connection.close()

        threads = [threading.Thread(target=guess) for _ in range(4 * TRIES)]
        [t.start() for t in threads]
        [t.join() for t in threads]
        self.assertEqual(set(found), {401, 429})
        self.assertLessEqual(found.count(401), TRIES)
        self.assertEqual(self.attempt(RIGHT), 429)

    def test_who_waits_gets_in_and_is_counted_anew(self):
        for _ in range(TRIES):
            self.assertEqual(self.attempt(), 401)
        self.assertEqual(self.attempt(RIGHT), 429)
        FailedSignIn.objects.update(at=timezone.now() - PAUSE)
        self.assertEqual(self.attempt(RIGHT), 200)
        self.assertEqual(FailedSignIn.objects.filter(name="ada").count(), 0)

    def test_no_header_gives_another_address(self):
        found = [
            self.attempt(
                **{"X-Forwarded-For": f"10.9.0.{k}", "X-Real-IP": f"10.9.0.{k}", "Forwarded": f"for=10.9.0.{k}"}
            )
            for k in range(TRIES + 2)
        ]
        self.assertEqual(found, [401] * TRIES + [429] * 2)

    def test_many_names_from_one_address_are_slowed_down_and_others_are_not(self):
        found = [self.attempt(name=f"name {k}") for k in range(TRIES_FROM_ONE + 3)]
        self.assertEqual(found, [401] * TRIES_FROM_ONE + [429] * 3)
        self.assertEqual(self.attempt(RIGHT, address="10.0.0.2"), 200)

    def test_one_name_from_many_addresses(self):
        found = [self.attempt(address=f"10.1.{k // 3}.1") for k in range(TRIES_FOR_ONE + 2)]
        self.assertEqual(found, [401] * TRIES_FOR_ONE + [429] * 2)

    def test_old_rows_go(self):
        self.attempt()
        FailedSignIn.objects.update(at=timezone.now() - LONG_PAUSE * 2)
        self.attempt(name="other")
        self.assertEqual(FailedSignIn.objects.count(), 1)

    def test_without_the_pages_token_nobody_is_signed_in(self):
        client = Client(enforce_csrf_checks=True)
        self.assertEqual(self.attempt(RIGHT, client=client), 403)
        token = client.get("/api/accounts/me").json()["csrf"]
        self.assertEqual(self.attempt(RIGHT, client=client, **{"X-CSRFToken": token}), 200)

    def test_a_second_sign_in_gets_a_new_session_and_ends_the_first(self):
        client = Client()
        keys = []
        for _ in range(2):
            self.assertEqual(self.attempt(RIGHT, client=client), 200)
            keys.append(client.cookies["sessionid"].value)
        self.assertNotEqual(*keys)
        old = Client()
        old.cookies["sessionid"] = keys[0]
        self.assertIsNone(old.get("/api/accounts/me").json()["person"])
