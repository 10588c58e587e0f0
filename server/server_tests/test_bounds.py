"""No request hangs, holds a connection while it computes, or computes for nobody."""

import io
import threading
import time
from unittest import mock

import trimesh
from django.db import connection
from django.test import TransactionTestCase, override_settings

from cenote_core import view
from cenote_core.base.packet import unpack
from cenote_core.graph.cancellation import asking
from cenote_core.plan import GroundLayer
from kit.reading import read_apart
from sites import asking as askers
from sites.asking import GivenUp, RequestAsker
from sites.computing import cache
from sites.models import Item, Member
from sites.slots import Slots

from .helpers import client_of, grass, person, post, site_of


def ringed():
    """A surface of the ground that lies where a drift stands which stands on it alone."""
    rule = {"measure": "crown", "gate": {"rise_start": 0, "rise_end": 0, "fall_start": 1, "fall_end": 2}}
    site = site_of(person(), g=grass(surfaces=["ground/mould"]))
    ground = Item.objects.get(site=site, key="ground")
    layer = GroundLayer(key="mould", material="soil", rules=[rule]).model_dump(mode="json")
    ground.plan = {**ground.plan, "layers": [layer]}
    ground.save()
    return site, ground.plan


class Rings(TransactionTestCase):
    """What asks for itself is told in words, of saved and of unsaved plans, to many at once."""

    def test_each_address_answers_and_others_go_on(self):
        site, ground = ringed()
        here, client = f"/api/sites/{site.pk}", client_of(person())
        calls = [
            lambda: client_of(person()).get(f"{here}/derived/instances/g"),
            lambda: client_of(person()).get(f"{here}/effects"),
            lambda: client_of(person()).post(
                f"{here}/preview", {"key": "ground", "plan": ground}, content_type="application/json"
            ),
        ]
        found = []

        def ask(k):
            found.append((k % 3, calls[k % 3]()))
            connection.close()

        threads = [threading.Thread(target=ask, args=(k,), daemon=True) for k in range(18)]
        [t.start() for t in threads]
        [t.join(60) for t in threads]
        self.assertEqual(len(found), 18, "some never answered")
        for which, answer in found:
            told = answer.content.decode(errors="replace")
            if which == 0:
                # A part is of the site without the surface that cannot be worked out: nothing stands on it.
                self.assertEqual(answer.status_code, 200, told)
                self.assertEqual(unpack(answer.content)[1]["count"], 0)
                continue
            # What it brings about is told with the reason why not; a plan that is only tried is refused with it.
            self.assertEqual(answer.status_code, (0, 200, 422)[which], told)
            self.assertRegex(told, "ring: .*mould")
        self.assertEqual(client.get(f"{here}/scene").status_code, 200)


class Bounds(TransactionTestCase):
    def setUp(self):
        self.site = site_of(person(), g=grass())
        self.client = client_of(person())
        cache().forget()

    def preview(self, density, tab="", client=None):
        plan = grass(density=density).model_dump(mode="json")
        body = {"key": "g", "plan": plan, "eye": [0, 2, 5], "most": 1000}
        return (client or client_of(person())).post(
            f"/api/sites/{self.site.pk}/preview", body, content_type="application/json", headers={"X-Cenote-Tab": tab}
        )

    def test_no_connection_is_held_while_something_is_computed(self):
        held = []
        before = RequestAsker.slot

        def slot(asker):
            inner = before(asker)

            class Watched:
                def __enter__(self):
                    inner.__enter__()
                    held.append(connection.connection)

                def __exit__(self, *error):
                    held.append(connection.connection)
                    return inner.__exit__(*error)

            return Watched()

        with mock.patch.object(RequestAsker, "slot", slot):
            self.assertEqual(self.preview(2.345).status_code, 200)
        self.assertTrue(held)
        self.assertEqual(set(held), {None})

    def test_when_all_compute_already_the_next_hears_so_in_time_and_reading_goes_on(self):
        none = Slots(1)
        none.acquire("somebody", 1)
        with mock.patch.object(askers, "_slots", none), override_settings(COMPUTING_WAIT_SECONDS=0.3):
            answer = self.preview(2.7)
            self.assertEqual(answer.status_code, 503)
            self.assertIn("computing other things", answer.json()["detail"])
            self.assertEqual(answer["Retry-After"], "2")
            self.assertEqual(self.client.get(f"/api/sites/{self.site.pk}").status_code, 200)
            plan = grass(density=2.8).model_dump(mode="json")
            edit = {"key": "g", "revision": 1, "plan": plan}
            self.assertEqual(
                post(self.client, f"/api/sites/{self.site.pk}/changes", {"label": "l", "edits": [edit]})[0], 200
            )

    def test_one_person_leaves_room_for_another(self):
        slots = Slots(4)
        self.assertEqual([slots.acquire("ada", 0) for _ in range(3)], [True, True, False])
        self.assertEqual([slots.acquire("bo", 0) for _ in range(3)], [True, True, False])
        self.assertFalse(slots.acquire("cy", 0))
        slots.release("ada")
        self.assertTrue(slots.acquire("cy", 0))
        self.assertFalse(slots.acquire("ada", 0))
        # Through the chain: what ada asks for waits for her own, what bo asks for does not.
        full = Slots(2)
        full.acquire(person().pk, 1)
        bo = client_of(person("bo"))
        Member.objects.create(site=self.site, user=person("bo"), role=Member.OWNER)
        with mock.patch.object(askers, "_slots", full), override_settings(COMPUTING_WAIT_SECONDS=0.3):
            self.assertEqual(self.preview(2.9).status_code, 503)
            self.assertEqual(self.preview(2.9, client=bo).status_code, 200)

    def test_one_that_takes_too_long_is_ended_with_a_sentence(self):
        with override_settings(COMPUTING_SECONDS=0):
            answer = self.preview(2.71)
        self.assertEqual(answer.status_code, 503)
        self.assertIn("longer than", answer.json()["detail"])

    def test_of_the_previews_of_one_page_the_newest_wins(self):
        found, under_way, going = {}, threading.Event(), threading.Event()
        made = view.preview

        def slow(*args):
            if args[2].density == 1.0:
                under_way.set()
                going.wait(20)
            return made(*args)

        def ask(density):
            found[density] = self.preview(density, "page").status_code
            connection.close()

        with mock.patch.object(view, "preview", slow):
            first = threading.Thread(target=ask, args=(1.0,))
            first.start()
            under_way.wait(20)
            ask(1.5)
            going.set()
            first.join()
        self.assertEqual(found, {1.0: 409, 1.5: 200})
        self.assertEqual(self.preview(1.6, "another page").status_code, 200)

    def test_an_abandoned_request_stops_at_the_next_value(self):
        asker = RequestAsker()
        steps = []

        def step(k):
            def make():
                steps.append(k)
                if k == 2:
                    asker.abandoned.set()
                time.sleep(0.01)
                return cache().get(f"abandoned {k + 1}", step(k + 1))

            return make

        with asking(asker), self.assertRaises(GivenUp):
            cache().get("abandoned 0", step(0))
        self.assertEqual(steps, [0, 1, 2])

    def test_a_file_is_read_no_further_once_its_page_has_gone(self):
        asker = RequestAsker()
        threading.Timer(0.2, asker.abandoned.set).start()
        with asking(asker), self.assertRaises(GivenUp):
            read_apart("model", io.BytesIO(trimesh.creation.box().export(file_type="glb")), "a.glb")
