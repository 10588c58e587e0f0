"""The server bears what is sent to it: through the chain that is served, as any client may use it."""

import asyncio
import io
import json
import os
import subprocess
import sys
import tempfile
import threading
import warnings
from pathlib import Path
from unittest import mock

import numpy as np
import OpenEXR
from asgiref.testing import ApplicationCommunicator
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.test import SimpleTestCase, TestCase, TransactionTestCase

from cenote import bodies, streams, text
from cenote_core import view
from cenote_core.errors import FormatError
from cenote_core.graph.cancellation import check
from kit import reading
from kit.reading import read_apart
from served.asgi import application

from .helpers import client_of, grass, person, post, site_of


def scope_of(path, client=None, method="POST", **headers):
    """What an ASGI server tells of a request."""
    cookies = client.cookies.output(header="", sep=";").strip() if client else ""
    told = {"host": "testserver", "content-type": "application/json", "cookie": cookies, **headers}
    return {
        "type": "http",
        "asgi": {"version": "3.0"},
        "http_version": "1.1",
        "method": method,
        "path": path,
        "raw_path": path.encode(),
        "query_string": b"",
        "headers": [(k.replace("_", "-").encode(), v.encode()) for k, v in told.items()],
        "client": ("127.0.0.1", 4711),
        "server": ("testserver", 80),
        "scheme": "http",
    }


async def answered(talk):
    """Status and content of what was answered."""
    status = (await talk.receive_output(20))["status"]
    content = b""
    while True:
        message = await talk.receive_output(20)
        content += message.get("body", b"")
        if not message.get("more_body"):
            return status, content


class Abandoned(TransactionTestCase):
    def test_who_hangs_up_is_heard_through_the_whole_chain(self):
        site, client = site_of(person(), g=grass()), client_of(person())
        token = client.get("/api/accounts/me").json()["csrf"]
        begun, ended = threading.Event(), threading.Event()
        steps = []

        def slow(*args):
            begun.set()
            try:
                for k in range(400):
                    steps.append(k)
                    ended.wait(0.05)
                    check()
            finally:
                ended.set()
                connection.close()

        body = json.dumps({"key": "g", "plan": grass().model_dump(mode="json"), "eye": [0, 2, 5], "most": 10}).encode()

        async def hang_up():
            talk = ApplicationCommunicator(
                application, scope_of(f"/api/sites/{site.pk}/preview", client, x_csrftoken=token)
            )
            await talk.send_input({"type": "http.request", "body": body})
            while not begun.is_set():
                await asyncio.sleep(0.02)
            await talk.send_input({"type": "http.disconnect"})
            await talk.wait(20)

        with mock.patch.object(view, "preview", slow):
            asyncio.run(hang_up())
        self.assertTrue(ended.is_set())
        self.assertLess(len(steps), 400, "it went on to the end though nobody listens")


class Bodies(TransactionTestCase):
    def send(self, scope, *pieces):
        """What is answered, and how many pieces of the body were taken."""
        taken = []

        async def talk():
            found = ApplicationCommunicator(application, scope)
            for k, piece in enumerate(pieces):
                taken.append(k)
                await found.send_input({"type": "http.request", "body": piece, "more_body": k + 1 < len(pieces)})
                if not await found.receive_nothing(0.05):
                    break
            return await answered(found)

        status, content = asyncio.run(talk())
        return status, json.loads(content), len(taken)

    def test_of_who_is_not_signed_in_no_large_body_is_read(self):
        for path in ("/api/accounts/sign-in", "/api/kit/imports", "/", "/api/nowhere"):
            status, said, _ = self.send(scope_of(path, content_length="8000000000"))
            self.assertEqual(status, 413, path)
            self.assertIn("MB", said["detail"])
            status, said, taken = self.send(scope_of(path, content_length="900000"))
            self.assertEqual((status, taken), (413, 0), path)
            self.assertIn("signed in", said["detail"])

    def test_a_body_that_does_not_tell_its_length_is_counted(self):
        pieces = [b"x" * 30_000] * 6
        status, said, taken = self.send(scope_of("/api/accounts/sign-in"), *pieces)
        self.assertEqual((status, taken), (413, 3))
        self.assertIn("64 kB", said["detail"])

    def test_who_is_signed_in_sends_as_much_as_the_address_takes(self):
        client = client_of(person())
        token = client.get("/api/accounts/me").json()["csrf"]
        there = lambda path, size: scope_of(path, client, x_csrftoken=token, content_length=str(size))  # noqa: E731
        body = json.dumps({"name": "a site", "note": "n" * 200_000}).encode()
        status, said, _ = self.send(there("/api/sites", len(body)), body)
        self.assertEqual(status, 422, "it was read, and its note is too long")
        self.assertIn("note", said["detail"])
        status, said, _ = self.send(there("/api/sites", 13_000_000))
        self.assertEqual(status, 413)
        status, said, _ = self.send(there("/api/kit/imports", 300_000_000))
        self.assertEqual(status, 413)
        self.assertIn("300 MB", said["detail"])
        self.assertGreater(bodies.most_at("/api/kit/pictures"), 200_000_000)

    def test_while_the_database_is_away_a_large_body_is_to_be_sent_again(self):
        with mock.patch.object(bodies, "_signed_in", side_effect=OperationalError):
            status, said, _ = self.send(scope_of("/api/sites", content_length="900000"))
        self.assertEqual(status, 503)
        self.assertIn("asked again", said["detail"])


class Json(TestCase):
    def refused(self, body):
        status, said = post(client_of(person()), "/api/sites", body)
        self.assertEqual(status, 422)
        return said["detail"]

    def test_nesting_stops_the_parser(self):
        self.assertEqual(self.refused("[" * 300_000), text.TOO_DEEP)
        self.assertEqual(self.refused('{"a":' * 100 + "1" + "}" * 100), text.TOO_DEEP)

    def test_too_many_values_are_not_read_at_all(self):
        with mock.patch.object(text, "from_json") as reading:
            self.assertEqual(self.refused("[" + "1," * text.MOST_VALUES + "1]"), text.TOO_MANY)
        reading.assert_not_called()

    def test_half_a_character_is_told(self):
        self.assertEqual(self.refused('{"name": "a\\ud800"}'), text.UNWRITABLE)
        self.assertEqual(self.refused('{"name": "a\\u0000"}'), text.UNWRITABLE)


class Blocks(SimpleTestCase):
    def test_a_stream_is_read_as_it_is_sent(self):
        read = []

        def pieces():
            for k in range(40):
                read.append(k)
                yield bytes([k]) * (streams.BLOCK // 2)

        async def first():
            blocks = streams._blocks(pieces())
            one = await anext(blocks)
            return one, len(read), b"".join([block async for block in blocks])

        one, at_first, rest = asyncio.run(first())
        self.assertEqual((len(one), at_first), (streams.BLOCK, 2))
        self.assertEqual(one + rest, b"".join(bytes([k]) * (streams.BLOCK // 2) for k in range(40)))


class Files(TransactionTestCase):
    def test_a_page_is_served_without_reading_it_whole_first(self):
        async def ask():
            talk = ApplicationCommunicator(application, scope_of("/", method="GET"))
            await talk.send_input({"type": "http.request"})
            return await answered(talk)

        with warnings.catch_warnings():
            warnings.simplefilter("error")
            status, content = asyncio.run(ask())
        self.assertEqual(status, 200)
        self.assertIn(b"<html", content)


class Reader(SimpleTestCase):
    def exr(self) -> bytes:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.exr"
            header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
            OpenEXR.File(header, {"Y": np.random.default_rng(1).random((64, 64), np.float32)}).write(str(path))
            return path.read_bytes()

    def test_an_exr_without_its_pixels_is_refused_in_words(self):
        whole = self.exr()
        self.assertEqual(read_apart("picture", io.BytesIO(whole), "a.exr").shape, (64, 64))
        for share in (0.05, 0.1, 0.5):
            with self.assertRaises(FormatError) as caught:
                read_apart("picture", io.BytesIO(whole[: int(len(whole) * share)]), "a.exr")
            self.assertIn("Export it again", str(caught.exception))

    def test_what_else_is_written_to_its_output_is_no_line_of_ours(self):
        code = (
            "import os; from cenote_core.formats import isolated_reader as reader; own = reader._own_output(); "
            "os.write(1, b'of a library'); print('ours', file=own, flush=True)"
        )
        made = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True, cwd=reading._CORE
        )
        self.assertEqual(made.stdout, "ours\n")
        self.assertIn("of a library", made.stderr)

    def test_it_knows_neither_the_database_nor_the_secret(self):
        with (
            mock.patch.dict(os.environ, {"CENOTE_DB_PASSWORD": "hidden", "CENOTE_SECRET_KEY": "hidden", "OTHER": "x"}),
            mock.patch.object(reading.subprocess, "Popen", wraps=reading.subprocess.Popen) as started,
        ):
            read_apart("picture", io.BytesIO(self.exr()), "a.exr")
        environment = started.call_args.kwargs["env"]
        self.assertNotIn("hidden", environment.values())
        self.assertNotIn("OTHER", environment)


class Uploads(TestCase):
    def test_a_file_that_only_begins_like_an_exr(self):
        site, client = site_of(person()), client_of(person())
        header = Reader().exr()[:400]
        answer = client.post(f"/api/kit/pictures?site={site.pk}", {"file": SimpleUploadedFile("a.exr", header)})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Export it again", answer.json()["detail"])
