"""A full disk while a proof, an import and an edit are written: a sentence, nothing half there, and all goes on with room."""

import errno
import io
import json
import subprocess
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

import psycopg.errors
import trimesh
from django.conf import settings
from django.core.files.storage import FileSystemStorage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import SimpleTestCase, TransactionTestCase
from PIL import Image

from cenote.middleware import DISK_FULL
from kit.models import ImportedAsset, ImportedPicture
from work import job_runner
from work.models import Job

from .helpers import change, client_of, grass, person, site_of
from .installation import Installation

PORT = 18620
_SIZE = "420m"
BOX = trimesh.creation.box().export(file_type="glb")


def full(*args, **kwargs):
    raise OSError(errno.ENOSPC, "No space left on device")


def half_written(storage, name, content):
    """What is left of a file when the disk is full in the middle of it."""
    path = Path(storage.path(name))
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"half")
    full()


def left(folder):
    return set((settings.MEDIA_ROOT / folder).glob("*"))


class Told(TransactionTestCase):
    """What is said and what is left, wherever writing fails."""

    def setUp(self):
        self.site = site_of(person())
        self.client = client_of(person())

    def test_an_import(self):
        for path, name, data in (("imports", "a.glb", BOX), ("pictures", "a.png", picture())):
            before = left(path)
            with mock.patch.object(FileSystemStorage, "_save", half_written):
                file = SimpleUploadedFile(name, data)
                answer = self.client.post(f"/api/kit/{path}?site={self.site.pk}", {"file": file})
            self.assertEqual((answer.status_code, answer.json()["detail"]), (507, DISK_FULL))
            self.assertEqual(left(path), before, "nothing half written stays")
        self.assertEqual((ImportedAsset.objects.count(), ImportedPicture.objects.count()), (0, 0))

    def test_a_proof(self):
        job = Job.objects.create(site=self.site, user=person(), kind="proof", title="t")
        with self.assertLogs("cenote.work", "ERROR"):
            job_runner.run(str(job.pk), {"proof": full})
        job.refresh_from_db()
        self.assertEqual((job.state, job.message), (Job.FAILED, DISK_FULL))

    def test_an_edit_is_refused_so_that_the_bench_keeps_it_and_sends_it_again(self):
        error = OperationalError("could not extend file")
        error.__cause__ = psycopg.errors.DiskFull("could not extend file")
        plan = grass().model_dump(mode="json")
        with (
            mock.patch("sites.changes.Item.save", side_effect=error),
            mock.patch("sites.changes.Item.objects.create", side_effect=error),
        ):
            status, body = change(self.client, self.site, ("g", 0, plan))
        self.assertEqual((status, body["detail"]), (507, DISK_FULL))
        self.assertEqual(change(self.client, self.site, ("g", 0, plan))[0], 200)


def picture():
    out = io.BytesIO()
    Image.new("L", (8, 8), 90).save(out, "PNG")
    return out.getvalue()


def small_disk(folder: Path) -> bool:
    """A disk of its own at a folder; False where this machine gives nobody one."""
    done = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={_SIZE},mode=755", "tmpfs", str(folder)], capture_output=True
    )
    return done.returncode == 0


class Whole(SimpleTestCase):
    """An installation on a small disk that is filled to the last byte."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.folder = Path(tempfile.mkdtemp(prefix="cenote-small-"))
        if not small_disk(cls.folder):
            raise unittest.SkipTest("no disk can be mounted here; what is said of a full one is tested above")
        cls.addClassCleanup(subprocess.run, ["umount", "-l", str(cls.folder)], check=False)
        cls.whole = Installation(PORT, cls.folder)
        cls.addClassCleanup(cls.whole.end)
        cls.whole.wait_until_up()
        cls.site = cls.whole.populate()

    def fill(self):
        with (self.folder / "filling").open("wb", buffering=0) as file:
            for block in (1 << 20, 1 << 12, 1):
                try:
                    while True:
                        file.write(b"x" * block)
                except OSError:
                    continue

    def edit(self, key, density):
        plan = grass(density=density, visible=False).model_dump(mode="json")
        body = {"label": key, "edits": [{"key": key, "revision": 0, "plan": plan}]}
        return self.whole.ask("POST", f"/api/sites/{self.site}/changes", body)[0]

    def bring(self):
        line = "part"
        head = f'--{line}\r\nContent-Disposition: form-data; name="file"; filename="a.glb"\r\n\r\n'.encode()
        kind = {"Content-Type": f"multipart/form-data; boundary={line}"}
        data = head + BOX + f"\r\n--{line}--\r\n".encode()
        return self.whole.ask("POST", f"/api/kit/imports?site={self.site}", data, kind)

    def proof(self):
        wanted = {"station": "station-1", "quality": "rough", "width": 96, "height": 64}
        return self.whole.ask("POST", f"/api/work/sites/{self.site}/proofs", wanted)

    def test_it_says_so_and_goes_on_when_there_is_room(self):
        acknowledged = {f"before-{k}": 1 + k / 10 for k in range(5)}
        for key, density in acknowledged.items():
            self.assertEqual(self.edit(key, density), 200)
        self.fill()
        status, content = self.bring()
        self.assertIn(status, (422, 503, 507), content[:300])
        for k in range(40):
            status = self.edit(f"full-{k}", 2.0)
            self.assertIn(status, (200, 503, 507))
            if status == 200:
                acknowledged[f"full-{k}"] = 2.0
        status, content = self.proof()
        self.assertIn(status, (200, 503, 507), content[:300])
        (self.folder / "filling").unlink()
        # The database may have to recover; nobody has to be called for it.
        for _ in range(200):
            if self.edit("after", 3.0) in (200, 409):
                break
            time.sleep(0.2)
        status, content = self.whole.ask("GET", f"/api/sites/{self.site}")
        self.assertEqual(status, 200)
        found = {i["key"]: i["plan"].get("density") for i in json.loads(content)["items"]}
        self.assertEqual({k: found.get(k) for k in acknowledged}, acknowledged)
        self.assertEqual(found["after"], 3.0)
        status, content = self.bring()
        self.assertEqual(status, 200, content[:300])
