"""Many answers in one: the same bytes, the same rights, and a sentence for what cannot be."""

import json
import struct
from unittest import mock
from urllib.parse import urlencode

from django.test import TestCase

from served import parts

from .helpers import change, client_of, grass, moss, person, site_of, wall


def split(answer) -> list[tuple[int, bytes]]:
    """(status, bytes) of each part."""
    data = answer.getvalue()
    out, at = [], 0
    while at < len(data):
        status, length = struct.unpack_from("<II", data, at)
        out.append((status, data[at + 8 : at + 8 + length]))
        at += 8 + length
    return out


class Parts(TestCase):
    def setUp(self):
        self.client = client_of(person())
        self.site = site_of(person(), g=grass(), wall=wall(), m=moss())

    def ask(self, *addresses, client=None):
        return (client or self.client).get("/api/parts?" + urlencode([("of", a) for a in addresses]))

    def addresses(self):
        scene = self.client.get(f"/api/sites/{self.site.pk}/scene").json()
        return [
            *(owner["mesh"] for owner in scene["owners"]),
            *(owner["cover"] for owner in scene["owners"] if owner["cover"]),
            *(drift["url"] for drift in scene["drifts"]),
            scene["sky"],
            "/api/kit/materials/moss/colour.webp?side=64",
        ]

    def test_each_part_is_what_its_own_address_answers(self):
        addresses = self.addresses()
        self.assertGreater(len(addresses), 5)
        found = split(self.ask(*addresses))
        self.assertEqual(len(found), len(addresses))
        for address, (status, data) in zip(addresses, found, strict=True):
            alone = self.client.get(address)
            self.assertEqual((status, data), (alone.status_code, alone.content), address)

    def test_the_query_of_each_part_is_its_own(self):
        small, large = "/api/kit/materials/moss/raw?side=16", "/api/kit/materials/moss/raw?side=32"
        (_, first), (_, second) = split(self.ask(small, large))
        self.assertLess(len(first), len(second))

    def test_kept_for_ever_only_if_every_part_is(self):
        lasting = [a for a in self.addresses() if "?v=" in a]
        self.assertIn("immutable", self.ask(*lasting)["Cache-Control"])
        self.assertEqual(self.ask(*lasting, f"/api/sites/{self.site.pk}/scene")["Cache-Control"], "no-store")
        self.assertEqual(
            self.ask(*lasting, f"/api/sites/{self.site.pk}/derived/mesh/none")["Cache-Control"], "no-store"
        )

    def test_a_change_shows_in_the_next_answer(self):
        address = f"/api/sites/{self.site.pk}/derived/instances/g"
        before = split(self.ask(address))
        denser = grass(density=6).model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("g", 1, denser))[0], 200)
        after = split(self.ask(address))
        self.assertGreater(len(after[0][1]), len(before[0][1]))

    def test_what_is_missing_says_so_in_its_own_part(self):
        there, gone = f"/api/sites/{self.site.pk}/derived/mesh/ground", f"/api/sites/{self.site.pk}/derived/mesh/none"
        (status, _), (missing, data) = split(self.ask(there, gone))
        self.assertEqual((status, missing), (200, 404))
        self.assertIn("nothing here", json.loads(data)["detail"])

    def test_a_stranger_gets_nothing_of_a_site(self):
        stranger = client_of(person("eve"))
        answer = self.ask(f"/api/sites/{self.site.pk}/derived/mesh/ground", "/api/kit/assets", client=stranger)
        (hidden, data), (listed, _) = split(answer)
        self.assertEqual((hidden, listed), (404, 200))
        self.assertNotIn(b"position", data)

    def test_nobody_signed_in_gets_nothing(self):
        from django.test import Client

        self.assertEqual(self.ask("/api/kit/assets", client=Client()).status_code, 401)

    def test_addresses_that_are_not_parts_are_refused_with_a_sentence(self):
        for address in (
            "/",
            "https://elsewhere.example/api/kit/assets",
            "//elsewhere.example/api/x",
            "/api/parts?of=/api/kit/assets",
            "",
            "api/kit/assets",
        ):
            answer = self.ask(address)
            self.assertEqual(answer.status_code, 422, address)
            self.assertIn("under /api", answer.json()["detail"])

    def test_the_same_twice_is_refused(self):
        answer = self.ask("/api/kit/assets", "/api/kit/materials", "/api/kit/assets")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("once", answer.json()["detail"])

    def test_what_is_too_much_to_travel_together_is_to_be_asked_for_alone(self):
        addresses = ["/api/kit/materials/moss/raw?side=16", "/api/kit/materials/moss/raw?side=64", "/api/kit/assets"]
        small, large, last = (len(self.client.get(a).content) for a in addresses)
        self.assertGreater(large, last)
        with mock.patch.object(parts, "MOST_BYTES", small + last):
            answer = self.ask(*addresses)
        found = split(answer)
        self.assertEqual([(status, len(data)) for status, data in found], [(200, small), (413, 0), (200, last)])
        self.assertEqual(answer["Cache-Control"], "no-store")

    def test_too_many_or_none_are_refused(self):
        for addresses in ([], ["/api/kit/assets"] * 65):
            answer = self.ask(*addresses)
            self.assertEqual(answer.status_code, 422)
            self.assertIn("1 to 64", answer.json()["detail"])

    def test_a_part_can_only_be_read(self):
        path = f"/api/sites/{self.site.pk}/changes"
        before = self.client.get(f"/api/sites/{self.site.pk}").json()["revision"]
        ((status, _),) = split(self.ask(path))
        self.assertEqual(status, 405)
        self.assertEqual(self.client.get(f"/api/sites/{self.site.pk}").json()["revision"], before)
