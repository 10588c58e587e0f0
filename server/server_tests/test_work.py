"""Jobs and imports: done, failed, cancelled, lost; files that come in."""

import io
import json
from datetime import timedelta
from unittest import mock

import trimesh
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, TransactionTestCase, override_settings
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from cenote_core.errors import CenoteError
from demo import tarn_halt
from kit.models import ImportedAsset
from sites.computing import scene_as_it_was
from sites.management.commands.load_demo import load
from sites.models import Item, Site
from work import job_runner
from work.keeping import folder
from work.kinds import KINDS, MOST_FILMS
from work.models import Job

from .helpers import change, client_of, grass, person, post, site_of, wall


class Running(TransactionTestCase):
    def setUp(self):
        self.site = site_of(person())

    def job(self, **more):
        return Job.objects.create(site=self.site, kind="test", title="t", **more)

    def done(self, job, work):
        job_runner.run(str(job.pk), {"test": work})
        job.refresh_from_db()
        return job

    def test_success_keeps_its_result(self):
        job = self.done(self.job(), lambda job, report: {"files": {"a": 1}})
        self.assertEqual((job.state, job.share, job.result), ("done", 1.0, {"files": {"a": 1}}))

    def test_failure_says_why(self):
        def refuse(job, report):
            raise CenoteError("Choose another station.")

        def break_down(job, report):
            raise KeyError("inner detail")

        self.assertEqual(self.done(self.job(), refuse).message, "Choose another station.")
        with self.assertLogs("cenote.work", "ERROR"):
            job = self.done(self.job(), break_down)
        self.assertEqual(job.state, "failed")
        self.assertIn("unforeseen", job.message)
        self.assertNotIn("inner detail", job.message)

    def test_cancel_stops_at_the_next_step(self):
        steps = []

        def work(job, report):
            Job.objects.filter(pk=job.pk).update(cancel=True)
            steps.append(1)
            report("one", 1.0)
            steps.append(2)

        self.assertEqual(self.done(self.job(), work).state, "cancelled")
        self.assertEqual(steps, [1])

    @override_settings(JOB_SECONDS=-1)
    def test_time_limit(self):
        job = self.done(self.job(), lambda job, report: report("x", 0.5))
        self.assertEqual(job.state, "failed")
        self.assertIn("longer", job.message)

    def test_a_job_is_done_once(self):
        job = self.job(state=Job.RUNNING)
        self.assertEqual(self.done(job, lambda job, report: {"again": True}).result, {})

    def test_lost_job_is_taken_up_again_then_fails_with_a_reason(self):
        old = timezone.now() - timedelta(minutes=5)
        first, second = (
            self.job(state=Job.RUNNING, beat=old, attempts=1),
            self.job(state=Job.RUNNING, beat=old, attempts=2),
        )
        alive = self.job(state=Job.RUNNING, beat=timezone.now(), attempts=1)
        asked = []
        job_runner.recover_lost(asked.append)
        for job in (first, second, alive):
            job.refresh_from_db()
        self.assertEqual([first.state, second.state, alive.state], ["waiting", "failed", "running"])
        self.assertEqual([j.pk for j in asked], [first.pk])
        self.assertIn("stopped twice", second.message)

    def test_of_two_workers_on_one_job_the_first_writes_nothing_any_more(self):
        job = self.job()

        def slow(job, report):
            # Silent for too long: another worker takes the job up and ends it.
            Job.objects.filter(pk=job.pk).update(state=Job.WAITING)
            job_runner.run(str(job.pk), {"test": lambda job, report: {"by": "the second"}})
            report("late", 1.0)
            raise AssertionError("it must not go on")

        with self.assertLogs("cenote.work", "WARNING"):
            self.done(job, slow)
        self.assertEqual((job.state, job.result, job.stage), ("done", {"by": "the second"}, "starting"))

    def test_what_the_first_worker_comes_to_does_not_count_either(self):
        job = self.job()

        def slow(job, report):
            Job.objects.filter(pk=job.pk).update(state=Job.WAITING)
            job_runner.run(str(job.pk), {"test": lambda job, report: {"by": "the second"}})
            return {"by": "the first"}

        self.assertEqual(self.done(job, slow).result, {"by": "the second"})

    def test_asking_and_cancelling_over_the_api(self):
        client = client_of(person())
        status, job = post(
            client, f"/api/work/sites/{self.site.pk}/proofs", {"station": "station-1", "quality": "rough"}
        )
        self.assertEqual((status, job["state"]), (200, "waiting"))
        self.assertEqual(post(client, f"/api/work/{job['id']}/cancel", {})[1]["state"], "cancelled")
        self.assertEqual(post(client, f"/api/work/sites/{self.site.pk}/proofs", {"station": "gone"})[0], 422)
        self.assertEqual(
            post(client, f"/api/work/sites/{self.site.pk}/proofs", {"station": "station-1", "width": 10**9})[0], 422
        )
        self.assertEqual(client.get(f"/api/work/{job['id']}/files/picture.png").status_code, 404)
        self.assertEqual(client.get(f"/api/work/{job['id']}/files/..%2F..%2Fsecret").status_code, 404)
        stranger = client_of(person("eve"))
        self.assertEqual(stranger.get(f"/api/work/sites/{self.site.pk}/jobs").status_code, 404)
        self.assertEqual(stranger.get(f"/api/work/{job['id']}/growing").status_code, 404)
        for what in ("enough", "go-on", "cancel"):
            self.assertEqual(post(stranger, f"/api/work/{job['id']}/{what}", {})[0], 404)


class Proofs(TransactionTestCase):
    """Rough before good, looked at while they grow, ended early, gone on with."""

    def setUp(self):
        self.site = site_of(person(), g=grass(), wall=wall())
        self.client = client_of(person())

    def asked(self, quality="good", **more):
        wanted = {"station": "station-1", "quality": quality, "width": 96, "height": 64, **more}
        status, job = post(self.client, f"/api/work/sites/{self.site.pk}/proofs", wanted)
        self.assertEqual(status, 200, job)
        return Job.objects.get(pk=job["id"])

    def test_each_quality_has_its_queue(self):
        self.asked("rough"), self.asked("good")
        queues = [(j.queue_name, j.status) for j in ProcrastinateJob.objects.order_by("id")][-2:]
        self.assertEqual(queues, [("rough", "todo"), ("work", "todo")])

    def test_what_cannot_be_queued_is_not_there_either(self):
        wanted = {"station": "station-1", "quality": "good", "width": 96, "height": 64}
        with mock.patch("work.api.ask", side_effect=RuntimeError), self.assertLogs("cenote", "ERROR"):
            status, body = post(self.client, f"/api/work/sites/{self.site.pk}/proofs", wanted)
        self.assertEqual(status, 500)
        self.assertIn("nothing was changed", body["detail"])
        self.assertEqual(Job.objects.count(), 0)

    def test_a_part_too_narrow_is_refused_in_words(self):
        wanted = {"station": "station-1", "frame": [0.2, 0.2, 0.201, 0.9]}
        status, body = post(self.client, f"/api/work/sites/{self.site.pk}/proofs", wanted)
        self.assertEqual(status, 422)
        self.assertIn("larger", json.dumps(body))

    def test_a_proof_shows_the_site_as_it_was_when_it_was_asked_for(self):
        job = self.asked("rough")
        item = Item.objects.get(site=self.site, key="wall")
        item.deleted = True
        item.save()
        Site.objects.filter(pk=self.site.pk).update(revision=self.site.revision + 1)
        seen = []

        def work(job, report):
            seen.append(sorted(scene_as_it_was(job.site, job.plan).site.pieces))
            return {"files": {}}

        job_runner.run(str(job.pk), {"proof": work})
        self.assertEqual(seen, [["wall"]])
        self.assertEqual(sorted(scene_as_it_was(self.site, None).site.pieces), [])
        job.refresh_from_db()
        self.assertIsNone(job.plan, "what nobody needs any more is not kept")

    def test_a_good_one_waits_while_a_rough_one_is_under_way(self):
        good, rough = self.asked("good"), self.asked("rough")
        stages = []

        def work(job, report):
            def ended(_):
                stages.append(Job.objects.get(pk=good.pk).stage)
                if len(stages) == 3:
                    Job.objects.filter(pk=rough.pk).update(state=Job.DONE)

            with mock.patch("work.job_runner.time.sleep", ended):
                report("light", 1.0)
            return {"files": {}}

        job_runner.run(str(good.pk), {"proof": work})
        self.assertEqual(stages, ["paused for a rough proof"] * 3)
        good.refresh_from_db()
        self.assertEqual(good.state, Job.DONE)

    @override_settings(MOST_PAUSE_SECONDS=0)
    def test_it_does_not_wait_for_ever(self):
        good, _ = self.asked("good"), self.asked("rough")
        job_runner.run(str(good.pk), {"proof": lambda job, report: report("light", 1.0) or {"files": {}}})
        good.refresh_from_db()
        self.assertEqual(good.state, Job.DONE)

    def test_good_enough_then_on_again(self):
        job = self.asked("good")
        seen = []

        def work(job, report):
            report("light", 0.4, 30.0)
            (folder(job.pk) / "growing.jpg").write_bytes(b"as far as it is")
            report.looked()
            seen.append(self.client.get(f"/api/work/sites/{self.site.pk}/jobs").json()[0])
            seen.append(b"".join(self.client.get(f"/api/work/{job.pk}/growing").streaming_content))
            seen.append(report.enough())
            post(self.client, f"/api/work/{job.pk}/enough", {})
            seen.append(report.enough())
            return KINDS["proof"](job, report)

        job_runner.run(str(job.pk), {"proof": work})
        job.refresh_from_db()
        self.assertEqual(job.state, Job.DONE, job.message)
        self.assertEqual((seen[0]["left"], seen[0]["pictures"], seen[0]["can_go_on"]), (30.0, 1, False))
        self.assertEqual(seen[1:], [b"as far as it is", False, True])
        self.assertEqual(self.client.get(f"/api/work/{job.pk}/growing").status_code, 404)
        first = job.result
        self.assertTrue(self.client.get(f"/api/work/sites/{self.site.pk}/jobs").json()[0]["can_go_on"])
        status, body = post(self.client, f"/api/work/{job.pk}/go-on", {})
        self.assertEqual((status, body["state"]), (200, "waiting"))
        job_runner.run(str(job.pk), KINDS)
        job.refresh_from_db()
        self.assertEqual(job.state, Job.DONE, job.message)
        self.assertLess(job.result["noise"], first["noise"])
        # Its files have changed under their names: an address without the time is not kept.
        made = self.client.get(f"/api/work/sites/{self.site.pk}/jobs").json()[0]["made"]
        picture = f"/api/work/{job.pk}/files/picture.png"
        self.assertIn("immutable", self.client.get(f"{picture}?made={made}")["Cache-Control"])
        for other in (picture, f"{picture}?made=1"):
            self.assertIn("no-cache", self.client.get(other)["Cache-Control"])
        # Stopped while it is gone on with, what there was is still there.
        post(self.client, f"/api/work/{job.pk}/go-on", {})
        kept = job.result

        def stopped(job, report):
            raise job_runner.Stopped("")

        job_runner.run(str(job.pk), {"proof": stopped})
        job.refresh_from_db()
        self.assertEqual((job.state, job.result), (Job.DONE, kept))
        (folder(job.pk) / "film.npz").unlink()
        status, body = post(self.client, f"/api/work/{job.pk}/go-on", {})
        self.assertEqual(status, 409)
        self.assertIn("new proof", body["detail"])

    def test_only_the_newest_good_proofs_keep_their_samples(self):
        jobs = [self.asked("good") for _ in range(MOST_FILMS + 2)]
        for job in jobs:
            Job.objects.filter(pk=job.pk).update(state=Job.DONE)
            (folder(job.pk) / "film.npz").write_bytes(b"samples")
        Job.objects.filter(pk=jobs[-1].pk).update(state=Job.WAITING, enough=True)
        job_runner.run(str(jobs[-1].pk), KINDS)
        left = [(folder(job.pk) / "film.npz").exists() for job in jobs]
        self.assertEqual(left, [False, False] + [True] * MOST_FILMS)


class Queue(TransactionTestCase):
    def test_a_worker_takes_a_job_from_the_database(self):
        site = site_of(person(), g=grass(), wall=wall())
        client = client_of(person())
        status, job = post(client, f"/api/work/sites/{site.pk}/handovers", {})
        self.assertEqual((status, job["state"]), (200, "waiting"))
        worker = app.with_connector(app.connector.get_worker_connector())
        worker.run_worker(wait=False, install_signal_handlers=False, queues=["work"], concurrency=1)
        job = client.get(f"/api/work/sites/{site.pk}/jobs").json()[0]
        self.assertEqual(job["state"], "done", job["message"])
        answer = client.get(f"/api/work/{job['id']}/files/site.glb")
        self.assertEqual(answer["Content-Type"], "model/gltf-binary")
        self.assertEqual(b"".join(answer.streaming_content)[:4], b"glTF")


class Importing(TestCase):
    def setUp(self):
        self.site = site_of(person(), g=grass())
        self.client = client_of(person())

    def upload(self, data, name="thing.glb"):
        answer = self.client.post(f"/api/kit/imports?site={self.site.pk}", {"file": SimpleUploadedFile(name, data)})
        return answer.status_code, json.loads(answer.content)

    def test_from_file_to_placed_piece_with_grass_and_moss(self):
        status, found = self.upload(trimesh.creation.icosphere(subdivisions=3, radius=80).export(file_type="glb"))
        self.assertEqual(status, 200)
        self.assertEqual(found["scale"], 0.01)  # 160 m across is no likely size, 1.6 m is
        status, found = self.upload(trimesh.creation.box(extents=(300, 200, 100)).export(file_type="stl"), "box.stl")
        self.assertEqual((status, found["scale"], found["up"], found["triangles"]), (200, 0.01, "z", 12))
        self.assertEqual(
            len(self.client.get(f"/api/kit/assets?site={self.site.pk}").json()),
            len(self.client.get("/api/kit/assets").json()),
        )
        status, asset = post(
            self.client, f"/api/kit/imports/{found['id']}/settle", {"title": "crate of ours", "scale": 0.01, "up": "z"}
        )
        self.assertEqual((status, asset["size"]), (200, [3.0, 1.0, 2.0]))
        piece = wall().model_copy(update={"asset": asset["id"], "name": "box"}).model_dump(mode="json")
        self.assertEqual(change(self.client, self.site, ("box", 0, piece))[0], 200)
        scene = self.client.get(f"/api/sites/{self.site.pk}/scene").json()
        box = next(o for o in scene["owners"] if o["owner"] == "box")
        self.assertEqual(self.client.get(box["mesh"]).status_code, 200)
        material = box["surfaces"][0]["material"]
        self.assertIn(material, scene["materials"])
        self.assertEqual(self.client.get(f"/api/kit/materials/{material}/colour.webp").status_code, 200)
        self.assertEqual(self.client.delete(f"/api/kit/imports/{asset['id']}").status_code, 204)
        scene = self.client.get(f"/api/sites/{self.site.pk}/scene").json()
        self.assertNotIn("box", [o["owner"] for o in scene["owners"]])
        self.assertTrue(Item.objects.filter(site=self.site, key="box", deleted=False).exists())

    def test_bad_files_leave_nothing_behind(self):
        good = trimesh.creation.box().export(file_type="glb")
        for data, name in (
            (b"", "a.glb"),
            (good[:200], "a.glb"),
            (good, "a.exe"),
            (b"\0" * 5000, "b.stl"),
            (b"PK\x05\x06" + b"\0" * 18, "c.zip"),
        ):
            status, body = self.upload(data, name)
            self.assertEqual(status, 422, name)
            self.assertGreater(len(body["detail"]), 15)
        self.assertEqual(ImportedAsset.objects.count(), 0)

    @override_settings(UPLOAD_LIMIT=1000)
    def test_too_large(self):
        status, body = self.upload(b"0" * 2000)
        self.assertEqual(status, 413)
        self.assertIn("Reduce it", body["detail"])

    def test_absurd_scale(self):
        _, found = self.upload(trimesh.creation.box().export(file_type="glb"))
        for scale in (0, -1, 1e99, "NaN"):
            self.assertEqual(
                post(self.client, f"/api/kit/imports/{found['id']}/settle", {"title": "x", "scale": scale, "up": "y"})[
                    0
                ],
                422,
            )

    def test_strangers_do_not_reach_it(self):
        _, found = self.upload(trimesh.creation.box().export(file_type="glb"))
        stranger = client_of(person("eve"))
        self.assertEqual(stranger.get(f"/api/kit/imports/{found['id']}/raw").status_code, 404)
        self.assertEqual(stranger.get(f"/api/kit/materials/{found['id']}.0/colour.webp").status_code, 404)

    def test_material_picture_has_its_alpha(self):
        from PIL import Image

        answer = self.client.get("/api/kit/materials/fern_frond/colour.webp?side=64")
        picture = Image.open(io.BytesIO(answer.content))
        self.assertEqual((picture.mode, picture.size), ("RGBA", (64, 64)))


class Demo(TestCase):
    def test_loads_once_and_is_valid(self):
        first, second = load(), load()
        self.assertEqual(first.pk, second.pk)
        self.assertEqual(Site.objects.filter(name=tarn_halt.NAME).count(), 1)
        self.assertEqual(Item.objects.filter(site=first).count(), len(tarn_halt.items()))
