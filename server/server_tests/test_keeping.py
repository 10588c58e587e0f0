"""What is kept on disk, for how long, and whose turn it is."""

import io
import os
import tempfile
import time
from datetime import timedelta
from pathlib import Path
from unittest import mock

import trimesh
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase, TransactionTestCase, override_settings
from django.utils import timezone
from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

from cenote import machine
from cenote.orphans import LEFT_FOR
from cenote_core.errors import CenoteError
from kit.models import ImportedAsset
from sites.imports import keeping as kit_keeping
from sites.models import Member, Site
from work import api, job_runner, keeping
from work.keeping import folder, place
from work.models import Job
from work.tasks import ask

from .helpers import client_of, person, post, site_of

_KILOBYTE = 1000


class InItsOwnFolder:
    """Files of a test lie apart from all others."""

    def setUp(self):
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.files = Path(held.name)
        own = override_settings(MEDIA_ROOT=held.name, SITE_BYTES=10 * _KILOBYTE)
        own.enable()
        self.addCleanup(own.disable)
        self.user = person()
        self.site = site_of(self.user)
        self.client = client_of(self.user)

    def job(self, size=0, state=Job.DONE, age=0, **more):
        """A job that has written so many kilobytes."""
        ended = timezone.now() - timedelta(minutes=age)
        made = Job.objects.create(
            site=self.site, user=self.user, kind="proof", title="t", state=state, finished=ended, **more
        )
        if size:
            (folder(made.pk) / "picture.png").write_bytes(b"x" * size * _KILOBYTE)
        return made


class Room(InItsOwnFolder, TransactionTestCase):
    def there(self, *jobs):
        return [Job.objects.filter(pk=job.pk).exists() and place(job.pk).exists() for job in jobs]

    def test_the_oldest_go_and_what_is_kept_or_under_way_stays(self):
        kept, oldest = self.job(3, age=90, kept=True), self.job(3, age=80)
        running_, older, newest = self.job(3, Job.RUNNING, age=70), self.job(3, age=60), self.job(3, age=1)
        keeping.make_room(self.site.pk)
        self.assertEqual(self.there(kept, oldest, running_, older, newest), [True, False, True, False, True])

    def test_the_newest_stays_however_large_it_is(self):
        newest = self.job(40)
        keeping.make_room(self.site.pk)
        self.assertEqual(self.there(newest), [True])

    def test_a_job_that_is_done_makes_room_for_itself(self):
        old = self.job(8, age=5)
        new = Job.objects.create(site=self.site, user=self.user, kind="test", title="t")

        def work(job, report):
            (folder(job.pk) / "a").write_bytes(b"x" * 5 * _KILOBYTE)
            return {"files": {"a": 5}}

        job_runner.run(str(new.pk), {"test": work})
        self.assertEqual(self.there(old, new), [False, True])

    def test_one_that_failed_or_was_cancelled_leaves_nothing(self):
        def fail(job, report):
            (folder(job.pk) / "half").write_bytes(b"x")
            raise CenoteError("Choose another station.")

        job = Job.objects.create(site=self.site, user=self.user, kind="test", title="t")
        job_runner.run(str(job.pk), {"test": fail})
        self.assertFalse(place(job.pk).exists())

    def test_what_is_kept_may_fill_it_and_then_it_is_said(self):
        self.job(11, kept=True)
        station = self.site.items.get(kind="station").key
        status, said = post(self.client, f"/api/work/sites/{self.site.pk}/proofs", {"station": station})
        self.assertEqual(status, 507)
        self.assertIn("keep fewer", said["detail"])
        found = self.client.get(f"/api/work/sites/{self.site.pk}/room").json()
        self.assertEqual(found, {"held": 11 * _KILOBYTE, "most": 10 * _KILOBYTE})

    def test_keeping_and_deleting_over_the_api(self):
        job, going = self.job(1), self.job(1, Job.RUNNING)
        status, said = post(self.client, f"/api/work/{job.pk}/keep", {"kept": True})
        self.assertEqual((status, said["kept"]), (200, True))
        self.assertEqual(self.client.delete(f"/api/work/{going.pk}").status_code, 409)
        stranger = client_of(person("eve"))
        self.assertEqual(stranger.delete(f"/api/work/{job.pk}").status_code, 404)
        looks = person("bo")
        Member.objects.create(site=self.site, user=looks, role=Member.VIEWER)
        self.assertEqual(client_of(looks).delete(f"/api/work/{job.pk}").status_code, 403)
        self.assertEqual(self.client.delete(f"/api/work/{job.pk}").status_code, 204)
        self.assertEqual(self.there(job, going), [False, True])

    def test_what_belongs_to_nothing_is_swept_away_but_not_what_is_new(self):
        job, lost, new = self.job(1), keeping.jobs_folder() / "lost", keeping.jobs_folder() / "new"
        for path in (lost, new):
            path.mkdir()
        long_ago = time.time() - 2 * LEFT_FOR
        os.utime(lost, (long_ago, long_ago))
        gone = site_of(self.user)
        away = site_of(self.user)
        Site.objects.filter(pk=gone.pk).update(deleted=timezone.now() - timedelta(days=61))
        Site.objects.filter(pk=away.pk).update(deleted=timezone.now() - timedelta(days=59))
        keeping.sweep()
        self.assertEqual([path.exists() for path in (place(job.pk), lost, new)], [True, False, True])
        self.assertEqual([Site.objects.filter(pk=s.pk).exists() for s in (gone, away)], [False, True])


class Imports(InItsOwnFolder, TestCase):
    def bring_in(self):
        box = SimpleUploadedFile("a.glb", trimesh.creation.box().export(file_type="glb"))
        return self.client.post(f"/api/kit/imports?site={self.site.pk}", {"file": box})

    def test_files_go_with_what_was_taken_out_long_ago_or_never_settled(self):
        keys = [self.bring_in().json()["id"] for _ in range(4)]
        rows = {key: ImportedAsset.objects.get(pk=key) for key in keys}
        paths = [Path(rows[key].original.path) for key in keys]
        used, removed, lately, unsettled = keys
        long_ago, yesterday = timezone.now() - timedelta(days=61), timezone.now() - timedelta(days=1)
        ImportedAsset.objects.filter(pk__in=(used, removed, lately)).update(settled=True)
        ImportedAsset.objects.filter(pk=removed).update(deleted=long_ago)
        ImportedAsset.objects.filter(pk=lately).update(deleted=yesterday)
        ImportedAsset.objects.filter(pk=unsettled).update(created=long_ago)
        for path in paths:
            os.utime(path, (0, 0))
        kit_keeping.sweep()
        self.assertEqual([path.exists() for path in paths], [True, False, True, False])
        self.assertEqual(set(ImportedAsset.objects.values_list("pk", flat=True)), {used, lately})

    def test_a_site_holds_so_much(self):
        size = len(trimesh.creation.box().export(file_type="glb"))
        with override_settings(SITE_IMPORT_BYTES=int(1.5 * size)):
            self.assertEqual(self.bring_in().status_code, 200)
            answer = self.bring_in()
        self.assertEqual(answer.status_code, 507)
        self.assertIn("Take out what is not used", answer.json()["detail"])


class Turns(TransactionTestCase):
    def asked(self, who, count=1):
        site = site_of(person(who))
        jobs = []
        for k in range(count):
            asked = {"kind": "proof", "title": f"{who} {k}", "params": {"quality": "rough"}}
            jobs.append(Job.objects.create(site=site, user=person(who), **asked))
            ask(jobs[-1])
        return jobs

    def test_people_take_turns(self):
        self.asked("ada", 3)
        self.asked("bo", 2)
        order = ProcrastinateJob.objects.filter(queue_name="rough").order_by("-priority", "id")
        titles = dict(Job.objects.values_list("pk", "title"))
        names = [next(t for key, t in titles.items() if str(key) == row.args["job_id"]) for row in order]
        # ada's were all asked for before bo came.
        self.assertEqual(names[0][:3], "ada")
        self.assertLess(names.index("bo 0"), 3)
        self.assertGreater(names.index("bo 1"), names.index("bo 0"))

    def test_the_bound_is_a_persons_not_a_sites(self):
        user = person()
        sites = [site_of(user) for _ in range(2)]
        for k in range(api.MOST_WAITING):
            Job.objects.create(site=sites[k % 2], user=user, kind="proof", title="t")
        third, other = site_of(user), site_of(person("bo"))
        for site, who, expected in ((third, user, 429), (other, person("bo"), 200)):
            station = site.items.get(kind="station").key
            status, _ = post(client_of(who), f"/api/work/sites/{site.pk}/proofs", {"station": station})
            self.assertEqual(status, expected)

    def test_what_a_killed_worker_had_taken_does_not_stand_there_for_ever(self):
        (job,) = self.asked("ada")
        table, worker = ProcrastinateJob._meta.db_table, ProcrastinateWorker._meta.db_table
        from django.db import connection

        with connection.cursor() as cursor:
            cursor.execute(
                f"insert into {worker} (last_heartbeat) values (now() - interval '5 minutes') returning id"  # noqa: S608
            )
            (dead,) = cursor.fetchone()
            cursor.execute(f"update {table} set status = 'doing', worker_id = %s", [dead])  # noqa: S608
        Job.objects.filter(pk=job.pk).update(created=timezone.now() - timedelta(minutes=5))
        job_runner.recover_lost(ask)
        states = list(ProcrastinateJob.objects.values_list("status", flat=True))
        self.assertEqual(states, ["todo"])


class Machine(SimpleTestCase):
    def test_a_containers_limit_counts(self):
        whole = machine.memory(())
        with tempfile.TemporaryDirectory() as name:
            limit = Path(name) / "memory.max"
            for told, expected in (("max", whole), ("1000000", 1_000_000), (str(whole * 4), whole), ("", whole)):
                limit.write_text(told + "\n")
                self.assertEqual(machine.memory((Path(name) / "none", limit)), expected, told)


class CardPicture(TestCase):
    def setUp(self):
        self.site, self.client = site_of(person()), client_of(person())
        self.here = f"/api/sites/{self.site.pk}/picture"

    def put(self, data, client=None):
        return (client or self.client).put(self.here, data, content_type="image/webp")

    def card(self):
        return next(card for card in self.client.get("/api/sites").json() if card["id"] == str(self.site.pk))

    def test_the_card_shows_what_the_plate_showed(self):
        self.assertIsNone(self.card()["plate"])
        out = io.BytesIO()
        Image.new("RGB", (1280, 800), (200, 40, 30)).save(out, "WEBP")
        self.assertEqual(self.put(out.getvalue()).status_code, 204)
        kept = Image.open(io.BytesIO(self.client.get(self.card()["plate"]).content))
        self.assertEqual(kept.size, (640, 400))
        self.assertGreater(kept.convert("RGB").getpixel((300, 200))[0], 150)
        first = self.card()["plate"]
        self.put(out.getvalue())
        self.assertNotEqual(self.card()["plate"], first, "a browser keeps what an address names")

    def test_what_is_no_picture_is_refused_and_strangers_reach_nothing(self):
        for data in (b"", b"no picture", b"x" * 700_000):
            self.assertEqual(self.put(data).status_code, 422)
        self.assertEqual(self.put(b"x", client_of(person("eve"))).status_code, 404)
        self.assertEqual(client_of(person("eve")).get(self.here).status_code, 404)
        self.assertEqual(self.client.get(self.here).status_code, 404)


class Undoing(TestCase):
    def test_who_touched_the_same_is_found_without_reading_all_plans(self):
        from sites.changes import Others, step_back
        from sites.models import Change

        from .helpers import change, grass

        ada, bo = person(), person("bo")
        site = site_of(ada, g=grass(), h=grass())
        Member.objects.create(site=site, user=bo, role=Member.EDITOR)
        plan = lambda density: grass(density=density).model_dump(mode="json")  # noqa: E731
        self.assertEqual(change(client_of(ada), site, ("g", 1, plan(4)))[0], 200)
        self.assertEqual(change(client_of(bo), site, ("h", 1, plan(5)))[0], 200)
        self.assertEqual(step_back(site.pk, ada)[2], "change")
        self.assertEqual(change(client_of(ada), site, ("g", 3, plan(6)))[0], 200)
        self.assertEqual(change(client_of(bo), site, ("g", 4, plan(7)), label="theirs")[0], 200)
        with (
            mock.patch.object(Change, "from_db", side_effect=Change.from_db) as read,
            self.assertRaises(Others) as caught,
        ):
            step_back(site.pk, ada)
        self.assertEqual(caught.exception.theirs.label, "theirs")
        self.assertEqual(sum("entries" in call.args[1] for call in read.call_args_list), 1, "its own alone")
