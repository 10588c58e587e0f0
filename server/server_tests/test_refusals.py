"""What is hostile or broken gets a sentence and a status below 500, as JSON, and changes nothing."""

import io
import json
import struct
import subprocess
import sys
import zipfile
from unittest import mock
from urllib.parse import quote
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase, override_settings

from served.api import api
from sites.models import Change, Item, Site
from work.keeping import folder
from work.models import Job

from .helpers import change, client_of, grass, person, post, site_of, wall

NUL, HALF = "a\x00b", "a\\ud800b"


def told(test, answer, *statuses):
    """The sentence of a refusal."""
    test.assertIn(answer.status_code, statuses, answer.content[:300])
    test.assertEqual(answer["Content-Type"].split(";")[0], "application/json")
    detail = json.loads(answer.content)["detail"]
    test.assertGreater(len(detail), 8)
    return detail


class Texts(TestCase):
    """NUL signs and halves of characters, in everything that is text."""

    def setUp(self):
        self.site = site_of(person(), g=grass())
        self.client = client_of(person())

    def send(self, path, body):
        text = json.dumps(body).replace(json.dumps(HALF), f'"{HALF}"')
        return self.client.post(path, text, content_type="application/json")

    def test_in_names_notes_labels_plans_and_keys(self):
        plan, here = grass().model_dump(mode="json"), f"/api/sites/{self.site.pk}"
        edit = lambda **more: {"label": "l", "edits": [{"key": "n", "revision": 0, "plan": plan} | more]}  # noqa: E731
        for bad in (NUL, HALF):
            for path, body in (
                ("/api/sites", {"name": bad}),
                ("/api/sites", {"name": "fine", "note": bad}),
                (f"{here}/changes", edit() | {"label": bad}),
                (f"{here}/changes", edit(key=bad)),
                (f"{here}/changes", edit(plan=plan | {"name": bad})),
                (f"{here}/changes", edit(plan=plan | {"note": bad})),
                (f"{here}/preview", {"key": bad, "plan": plan}),
                (f"{here}/preview", {"key": "g", "plan": plan | {"note": bad}}),
                (f"{here}/why", {"owner": bad, "point": [0, 0, 0]}),
                (f"/api/work/sites/{self.site.pk}/proofs", {"station": bad}),
                (f"{here}/recipe", {"recipe": bad, "surfaces": ["ground/ground"]}),
                ("/api/accounts/sign-in", {"name": bad, "password": "x"}),
                ("/api/accounts/sign-in", {"name": "ada", "password": bad}),
            ):
                told(self, self.send(path, body), 422)
        self.assertEqual(Site.objects.count(), 1)
        self.assertEqual(Change.objects.count(), 0)

    def test_in_addresses(self):
        here, key = f"/api/sites/{self.site.pk}", "%00"
        for path in (
            f"/api/sites/{key}", f"{here}/derived/instances/{key}", f"{here}/derived/{key}/x", f"/api/kit/assets/{key}/lod/0",
            f"/api/kit/materials/{key}/raw", f"/api/kit/imports/{key}/raw", f"/api/kit/pictures/{key}/small.png",
            f"/api/work/{uuid4()}/files/{key}", f"/api/kit/imports/{key}/lod/0", f"/api/{key}",
        ):  # fmt: skip
            told(self, self.client.get(path), 404, 422)
        for path in (f"{here}/scene?spell=%00", f"{here}/derived/instances/g?spell=%00&v=%00"):
            self.assertLess(self.client.get(path).status_code, 500)

    def test_a_way_of_asking_an_address_does_not_know(self):
        for method in ("put", "delete", "patch", "options"):
            answer = getattr(self.client, method)(f"/api/sites/{self.site.pk}/changes")
            self.assertIn(method.upper(), told(self, answer, 405))
            self.assertIn("POST", answer["Allow"])

    def test_bodies_that_are_no_json_or_nested_without_end(self):
        for body in (b"", b"{", b"\xff\xfe", b"[" * 100_000, b'{"a":' * 5000, b"NaN", b"[]", b"null", b'"x"'):
            answer = self.client.post(f"/api/sites/{self.site.pk}/changes", body, content_type="application/json")
            told(self, answer, 400, 422)

    def test_an_unforeseen_error_is_json_as_well(self):
        surprised = mock.patch("sites.api._card", side_effect=RuntimeError("surprise"))
        with self.assertLogs("cenote", "ERROR"), surprised:
            answer = self.client.get("/api/sites")
        self.assertNotIn("surprise", told(self, answer, 500))


class Parts(TestCase):
    def setUp(self):
        self.site = site_of(person())
        self.client = client_of(person())

    def of(self, *addresses):
        return self.client.get("/api/parts?" + "&".join(f"of={quote(a, safe='')}" for a in addresses))

    def test_addresses_that_are_none(self):
        for address in (
            "",
            "x",
            "//api/x",
            "http://[",
            "/api/\x00",
            "/api/parts?of=/api/parts",
            "/api/%00",
        ):
            told(self, self.of(address), 422)
        self.assertEqual(struct.unpack_from("<I", self.of("/api/nothing").getvalue()), (404,))

    def test_an_answer_that_comes_as_a_stream(self):
        job = Job.objects.create(
            site=self.site, kind="proof", title="t", state=Job.DONE, result={"files": {"a.png": ""}}
        )
        (folder(job.pk) / "a.png").write_bytes(b"pixels")
        answer = self.of(f"/api/work/{job.pk}/files/a.png")
        self.assertEqual(answer.status_code, 200)
        content = answer.getvalue()
        self.assertEqual(struct.unpack_from("<II", content), (200, 6))
        self.assertEqual(content[8:], b"pixels")


def archive(**entries):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in entries.items():
            packed.writestr(name.replace("_", "."), data)
    return out.getvalue()


TRIANGLE = b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n" + b"# padding that packs to something\n" * 9


def flipped(data):
    """A byte in the middle of the first entry's packed data is another one."""
    at = 30 + len("a.obj") + 12
    return data[:at] + bytes([data[at] ^ 0xFF]) + data[at + 1 :]


def patched(data, local, central, value, size=2):
    """A field of the first entry's headers is another one, in both places."""
    out = bytearray(data)
    start = data.index(b"PK\x01\x02")
    out[local : local + size] = value.to_bytes(size, "little")
    out[start + central : start + central + size] = value.to_bytes(size, "little")
    return bytes(out)


class Archives(TestCase):
    """Damaged ZIPs, table by table."""

    def setUp(self):
        self.site = site_of(person())
        self.client = client_of(person())

    def bring(self, data, name="a.zip"):
        file = SimpleUploadedFile(name, data)
        return self.client.post(f"/api/kit/imports?site={self.site.pk}", {"file": file})

    def test_each_is_refused_in_words(self):
        whole = archive(a_obj=TRIANGLE)
        for data, word in (
            (flipped(whole), "damaged"),
            (patched(whole, 6, 8, 1), "password"),
            (patched(whole, 8, 10, 97), "packed in a way"),
            (patched(whole, 22, 24, 5_000_000, 4), "times its size"),
            (patched(whole, 22, 24, 200, 4), "damaged"),
            (whole[: len(whole) // 2], "damaged"),
            (archive(a_obj=b"v 0 0 0\n" * 400_000), "times its size"),
        ):
            self.assertIn(word, told(self, self.bring(data), 422))
        self.assertEqual(self.bring(whole).status_code, 200)

    def test_an_odd_name_does_no_harm(self):
        for name in (
            "../../x.obj",
            "a\x00.obj",
            "\ud83d.obj".encode("utf-16", "surrogatepass").decode("utf-16", "replace"),
            "." * 300,
        ):
            self.assertLess(self.bring(TRIANGLE, name).status_code, 500)

    def test_pictures_left_out_of_a_gltf_are_named(self):
        document = {
            "asset": {"version": "2.0"}, "images": [{"uri": "bark%20one.png"}, {"uri": "data:image/png;base64,AAAA"}],
            "buffers": [{"uri": "data:;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAA", "byteLength": 36}],
            "bufferViews": [{"buffer": 0, "byteLength": 36}],
            "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3", "max": [1, 1, 0], "min": [0, 0, 0]}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}], "nodes": [{"mesh": 0}], "scenes": [{"nodes": [0]}],
        }  # fmt: skip
        answer = self.bring(json.dumps(document).encode(), "a.gltf")
        self.assertEqual(answer.status_code, 200, answer.content)
        said = " ".join(answer.json()["warnings"])
        self.assertIn("'bark%20one.png' is not in the file", said)
        self.assertIn("'number 2' cannot be read", said)

    def test_a_reader_that_asks_for_too_much_memory_or_time_is_ended_and_the_next_file_read(self):
        with override_settings(IMPORT_BYTES=64 * 1024**2):
            self.assertIn("memory", told(self, self.bring(TRIANGLE, "a.obj"), 422))
        with override_settings(IMPORT_SECONDS=0.05):
            self.assertIn("longer", told(self, self.bring(TRIANGLE, "a.obj"), 422))
        self.assertEqual(self.bring(TRIANGLE, "a.obj").status_code, 200)


class Headers(TestCase):
    def test_no_page_is_framed_or_fed_from_elsewhere(self):
        for path in ("/", "/api/accounts/me", "/api/nothing"):
            answer = Client().get(path)
            self.assertEqual(answer["X-Frame-Options"], "DENY", path)
            policy = answer["Content-Security-Policy"]
            for part in ("default-src 'self'", "frame-ancestors 'none'", "object-src 'none'"):
                self.assertIn(part, policy)
            self.assertNotIn("unsafe-eval", policy)
            self.assertEqual(answer["X-Content-Type-Options"], "nosniff")

    def test_a_host_that_is_not_ours(self):
        for path in ("/", "/api/accounts/me", "/sites/x"):
            self.assertIn("name", told(self, Client().get(path, headers={"host": "evil.test"}), 400))

    def with_settings(self, **environment):
        names = ["SESSION_COOKIE_SECURE", "CSRF_COOKIE_SECURE", "SECURE_HSTS_SECONDS", "SECURE_SSL_REDIRECT"]
        code = f"from cenote import settings as s; print([getattr(s, n) for n in {names}])"
        kept = {"PATH": "/usr/bin", "PYTHONPATH": ":".join(sys.path)}
        return subprocess.run([sys.executable, "-c", code], env=kept | environment, capture_output=True, text=True)

    def test_behind_tls_cookies_are_secure_and_browsers_told_so(self):
        self.assertEqual(self.with_settings(CENOTE_SECRET_KEY="k").stdout.strip(), "[False, False, 0, False]")
        self.assertEqual(
            self.with_settings(CENOTE_SECRET_KEY="k", CENOTE_TLS="1").stdout.strip(), "[True, True, 31536000, True]"
        )

    def test_without_a_secret_it_does_not_start(self):
        found = self.with_settings()
        self.assertNotEqual(found.returncode, 0)
        self.assertIn("CENOTE_SECRET_KEY is not set", found.stderr)

    def test_a_write_without_the_token_is_refused_in_json(self):
        client = Client(enforce_csrf_checks=True)
        client.force_login(person())
        told(self, client.post("/api/sites", "{}", content_type="application/json"), 401, 403)
        told(self, client.post("/anything", "{}", content_type="application/json"), 403)

    def test_the_schema_names_refusals(self):
        for methods in api.get_openapi_schema()["paths"].values():
            for operation in methods.values():
                found = {int(status) for status in operation["responses"]}
                self.assertLessEqual({400, 401, 403, 404, 413, 422, 429, 503}, found, operation["operationId"])


class Keys(TestCase):
    """A kind owns its keys."""

    def setUp(self):
        self.site = site_of(person(), wall=wall())
        self.client = client_of(person())
        self.grass = grass().model_dump(mode="json")

    def test_what_a_site_has_one_of_keeps_its_key_and_has_no_second(self):
        ground = Item.objects.get(site=self.site, key="ground").plan
        weather = Item.objects.filter(site=self.site, key="weather")
        weather.delete()
        for key, plan, word in (
            ("weather", self.grass, "the site's own weather"),
            ("ground2", ground, "one ground, under the key 'ground'"),
        ):
            status, body = change(self.client, self.site, (key, 0, plan))
            self.assertEqual(status, 422)
            self.assertIn(word, body["detail"])

    def test_keys_are_words(self):
        for key in ("..", ".", "a..b", ".a", "a.", "a/b", "", "a b", "~", "ä"):
            self.assertEqual(change(self.client, self.site, (key, 0, self.grass))[0], 422, key)
        self.assertEqual(change(self.client, self.site, ("a.b-c_9", 0, self.grass))[0], 200)

    def test_a_revision_of_what_never_was_is_a_conflict(self):
        for plan in (self.grass, None):
            status, body = change(self.client, self.site, ("never", 7, plan))
            self.assertEqual((status, body["theirs"]), (409, []))
        self.assertEqual(change(self.client, self.site, ("never", 0, self.grass))[0], 200)

    def test_refused_changes_are_kept_but_not_without_end(self):
        with mock.patch("sites.changes.MOST_REFUSED", 5):
            for _ in range(9):
                self.assertEqual(change(self.client, self.site, ("wall", 99, wall().model_dump(mode="json")))[0], 409)
        kept = Change.objects.filter(site=self.site, state=Change.REFUSED)
        self.assertEqual(kept.count(), 5)
        self.assertEqual(max(kept.values_list("number", flat=True)), Site.objects.get(pk=self.site.pk).revision)


class Undoing(TestCase):
    """Everybody takes back what they did themselves."""

    def setUp(self):
        self.ada, self.bo = person(), person("bo")
        self.site = site_of(self.ada)
        self.site.members.create(user=self.bo, role="editor")
        self.clients = {u: client_of(u) for u in (self.ada, self.bo)}

    def set(self, user, key, density, label):
        item = Item.objects.filter(site=self.site, key=key).first()
        plan = grass(density=density).model_dump(mode="json")
        status, body = change(self.clients[user], self.site, (key, item.revision if item else 0, plan), label=label)
        self.assertEqual(status, 200, body)
        return body

    def step(self, user, way="undo", **query):
        more = "?" + "&".join(f"{k}={v}" for k, v in query.items()) if query else ""
        return post(self.clients[user], f"/api/sites/{self.site.pk}/{way}{more}", {})

    def density(self, key):
        item = Item.objects.get(site=self.site, key=key)
        return None if item.deleted else item.plan["density"]

    def test_each_their_own_and_redo_likewise(self):
        self.set(self.ada, "a", 1.0, "ada's")
        self.assertEqual(self.set(self.bo, "b", 2.0, "bo's")["undo"], "bo's")
        status, body = self.step(self.ada)
        self.assertEqual((status, body["label"]), (200, "ada's"))
        self.assertEqual((self.density("a"), self.density("b")), (None, 2.0))
        # What somebody else does meanwhile does not end one's redo.
        self.set(self.bo, "c", 3.0, "bo's second")
        self.assertEqual(self.step(self.ada, "redo")[1]["label"], "ada's")
        self.assertEqual(self.density("a"), 1.0)

    def test_anothers_step_on_the_same_item_is_named_and_offered(self):
        self.set(self.ada, "a", 1.0, "made")
        self.set(self.ada, "a", 2.0, "denser")
        self.set(self.bo, "a", 5.0, "much denser")
        status, body = self.step(self.ada)
        self.assertEqual((status, body["whose"], body["label"]), (409, "bo", "much denser"))
        self.assertIn("bo has changed the same since: “much denser”", body["detail"])
        self.assertEqual(self.density("a"), 5.0)
        self.assertEqual(self.step(self.ada, of=body["number"])[0], 200)
        self.assertEqual(self.density("a"), 2.0)
        self.assertEqual(self.step(self.ada)[1]["label"], "denser")
        self.assertEqual(self.density("a"), 1.0)

    def test_a_redo_does_not_run_over_anothers_change(self):
        self.set(self.ada, "a", 1.0, "made")
        self.set(self.ada, "a", 2.0, "denser")
        self.step(self.ada)
        self.set(self.bo, "a", 5.0, "much denser")
        status, body = self.step(self.ada, "redo")
        self.assertEqual((status, body["whose"]), (409, "bo"))
        self.assertEqual(self.density("a"), 5.0)
