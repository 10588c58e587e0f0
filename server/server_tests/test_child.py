"""A worker's process is watched from outside: nothing that a job does blocks the worker for all."""

import threading
import time
from datetime import timedelta
from unittest import mock

from django.db import OperationalError, connection
from django.test import TransactionTestCase, override_settings
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from work import child as children
from work import db_retry, job_runner
from work.child import Child
from work.models import Job
from work.tasks import ask

from .helpers import person, site_of


class Watched(TransactionTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.child = Child("server_tests.hostile_kinds")
        cls.addClassCleanup(cls.child.end)

    def setUp(self):
        self.site = site_of(person())
        self.asked = []

    def do(self, kind, stopping=lambda: False, then=None):
        """The job after the worker's process was let at it; `then` happens while it is under way."""
        job = Job.objects.create(site=self.site, user=person(), kind=kind, title=kind)
        if then is not None:
            threading.Thread(target=self.once_running, args=(job, then), daemon=True).start()
        with mock.patch.object(children, "GRACE", 1.0):
            self.child.do(str(job.pk), self.asked.append, stopping)
        job.refresh_from_db()
        return job

    def once_running(self, job, then):
        while not Job.objects.filter(pk=job.pk, state=Job.RUNNING, stage="hanging").exists():
            time.sleep(0.1)
        then(job)
        connection.close()

    def test_one_process_does_all_jobs_and_another_goes_on_after_one_that_dies(self):
        first, second = self.do("fine"), self.do("fine")
        self.assertEqual((first.state, second.state), (Job.DONE, Job.DONE))
        self.assertEqual(first.result, second.result, "the process stays, and warm")
        died = self.do("die")
        self.assertEqual((died.state, died.stage, self.asked), (Job.WAITING, "waiting again", [died]))
        third = self.do("fine")
        self.assertEqual(third.state, Job.DONE)
        self.assertNotEqual(third.result, first.result)
        with mock.patch.object(children, "GRACE", 1.0):
            self.child.do(str(died.pk), self.asked.append)
        died.refresh_from_db()
        self.assertEqual(died.state, Job.FAILED)
        self.assertIn("stopped twice", died.message)

    def test_a_job_that_hangs_is_cancelled_from_outside(self):
        job = self.do("hang", then=lambda job: Job.objects.filter(pk=job.pk).update(cancel=True))
        self.assertEqual((job.state, job.message), (Job.CANCELLED, ""))
        self.assertEqual(self.do("fine").state, Job.DONE)

    def test_one_that_takes_too_long_is_ended(self):
        with override_settings(JOB_SECONDS=2):
            job = self.do("hang")
        self.assertEqual(job.state, Job.FAILED)
        self.assertIn("longer than", job.message)

    def test_one_that_asks_for_too_much_memory_is_ended_and_says_so(self):
        self.child.start()
        with override_settings(JOB_BYTES=900 * 1024**2):
            job = self.do("eat")
        self.assertEqual((job.state, job.message), (Job.FAILED, job_runner.NO_MEMORY))

    def test_a_worker_that_is_told_to_stop_puts_its_job_back(self):
        told = threading.Event()
        job = self.do("hang", told.is_set, then=lambda job: told.set())
        self.assertEqual((job.state, job.attempts, self.asked), (Job.WAITING, 0, [job]))


class Lost(TransactionTestCase):
    def setUp(self):
        self.site = site_of(person())
        self.long_ago = timezone.now() - timedelta(minutes=5)

    def job(self, **more):
        job = Job.objects.create(site=self.site, user=person(), kind="proof", title="t", **more)
        Job.objects.filter(pk=job.pk).update(created=self.long_ago)
        return job

    def test_one_that_waits_with_nothing_in_the_queue_for_it_is_put_there(self):
        gone, queued = self.job(), self.job()
        ask(queued)
        asked = []
        job_runner.recover_lost(asked.append)
        self.assertEqual(asked, [gone])
        ask(gone)
        job_runner.recover_lost(asked.append)
        self.assertEqual(asked, [gone])

    def test_an_entry_whose_worker_is_dead_stands_for_nothing(self):
        job = self.job()
        ask(job)
        with connection.cursor() as cursor:
            cursor.execute("update procrastinate_jobs set status = 'doing' where args ->> 'job_id' = %s", [str(job.pk)])
        self.assertEqual(ProcrastinateJob.objects.get(args__job_id=str(job.pk)).status, "doing")
        asked = []
        job_runner.recover_lost(asked.append)
        self.assertEqual(asked, [job])


class Steady(TransactionTestCase):
    def test_a_dead_connection_costs_one_try(self):
        with connection.cursor() as cursor:
            cursor.execute("select pg_backend_pid()")
            pid = cursor.fetchone()[0]
        killer = connection.copy("default")
        with killer.cursor() as cursor:
            cursor.execute("select pg_terminate_backend(%s)", [pid])
        killer.close()
        job = Job.objects.none()
        self.assertEqual(db_retry.steady(lambda: job.count() + Job.objects.count())(), 0)

    def test_patience_has_an_end(self):
        def gone():
            raise OperationalError

        with mock.patch.object(db_retry, "PATIENCE", 0.2), self.assertRaises(OperationalError):
            db_retry.steady(gone)()
