"""Running jobs: progress, cancel, time limit, and what becomes of a job whose worker died."""

import logging
import threading
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import close_old_connections, connection
from django.db.models import F, Q
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from cenote.middleware import DISK_FULL, disk_full
from cenote_core.errors import AskingEnded, CenoteError

from .db_retry import steady
from .keeping import drop_files, make_room
from .models import Job

log = logging.getLogger("cenote.work")
LOST_AFTER = timedelta(seconds=40)
BEAT_SECONDS = 5
MOST_ATTEMPTS = 2
UNFORESEEN = "Something unforeseen went wrong; the site is unharmed. Try again; the log has the details."
NO_MEMORY = "There was not enough memory. Ask for a smaller picture or a lighter site."
_LOOK_EVERY = 0.4
"""Seconds between two looks whether a rough proof is still under way."""


def too_long() -> str:
    """What is said of a job that ran out of time."""
    return f"It took longer than {settings.JOB_SECONDS // 60} minutes. Ask for less at once."


class Stopped(AskingEnded):
    """The job was cancelled or ran out of time."""


class Overtaken(AskingEnded):
    """Another worker has taken the job up: this one was thought dead. Nothing it does counts any more."""


class Reporter:
    """What a job tells while it runs, and what it is told: to stop, to wait, or that it is good enough."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self._mine = Job.objects.filter(pk=job.pk, turn=job.turn, state=Job.RUNNING)
        self._until = time.monotonic() + settings.JOB_SECONDS
        self._last = 0.0

    def __call__(self, stage: str, share: float, left: float | None = None) -> None:
        """Say how far it is. Raises Stopped if it was cancelled or has taken too long; waits for rough proofs."""
        now = time.monotonic()
        if now > self._until:
            raise Stopped(too_long())
        if now - self._last < 0.25 and share < 1:
            return
        self._last = now
        self._say(stage, share, left)
        if self._outranked():
            self._wait(share)

    @steady
    def looked(self) -> None:
        """There is a new picture of what is there so far."""
        self._mine.update(pictures=F("pictures") + 1)

    @steady
    def enough(self) -> bool:
        """Does whoever asked think that what is there is good enough?"""
        return self._mine.filter(enough=True).exists()

    @steady
    def _say(self, stage: str, share: float, left: float | None, paused: bool = False) -> None:
        now = {"stage": stage[:120], "share": min(max(share, 0.0), 1.0), "left": left, "beat": timezone.now()}
        if not self._mine.update(**now, paused=paused):
            raise Overtaken
        if self._mine.filter(cancel=True).exists():
            raise Stopped("")

    @steady
    def _outranked(self) -> bool:
        """Is a rough proof waiting or running while this is none?"""
        alive = Q(state=Job.WAITING) | Q(state=Job.RUNNING, beat__gt=timezone.now() - LOST_AFTER)
        ahead = Job.objects.filter(alive, kind="proof", params__quality="rough")
        return not self.job.rough and ahead.exclude(pk=self.job.pk).exists()

    def _wait(self, share: float) -> None:
        began = time.monotonic()
        while self._outranked() and time.monotonic() - began < settings.MOST_PAUSE_SECONDS:
            self._say("paused for a rough proof", share, None, paused=True)
            time.sleep(_LOOK_EVERY)
        self._until += time.monotonic() - began


def run(job_id: str, work: dict[str, Callable[[Job, Reporter], dict]]) -> None:
    """Do a job with the function for its kind. Never raises: what went wrong stands in the job."""
    job = _taken(job_id)
    if job is None:
        return
    beating = threading.Event()
    threading.Thread(target=_beat, args=(job, beating), daemon=True).start()
    try:
        result = work[job.kind](job, Reporter(job))
        finish(job, Job.DONE, "", result)
    except Overtaken:
        log.warning("Job %s was taken up by another worker; this one lets it be", job_id)
    except Stopped as stopped:
        finish(job, Job.FAILED if str(stopped) else Job.CANCELLED, str(stopped))
    except CenoteError as error:
        finish(job, Job.FAILED, str(error))
    except MemoryError:
        finish(job, Job.FAILED, NO_MEMORY)
    except OSError as error:
        log.exception("Job %s failed", job_id)
        finish(job, Job.FAILED, DISK_FULL if disk_full(error) else UNFORESEEN)
    except Exception:
        log.exception("Job %s failed", job_id)
        finish(job, Job.FAILED, UNFORESEEN)
    finally:
        beating.set()


@steady
def _taken(job_id: str) -> Job | None:
    """A waiting job, taken by this worker; None where another was first."""
    taken = Job.objects.filter(pk=job_id, state=Job.WAITING).update(
        state=Job.RUNNING,
        started=timezone.now(),
        beat=timezone.now(),
        attempts=F("attempts") + 1,
        turn=F("turn") + 1,
        stage="starting",
        share=0,
        left=None,
    )
    return Job.objects.get(pk=job_id) if taken else None


def _beat(job: Job, over: threading.Event) -> None:
    """A sign of life even while one long step runs."""
    while not over.wait(BEAT_SECONDS):
        beat(job)
    close_old_connections()


@steady
def beat(job: Job) -> None:
    """A sign of life of a job's worker."""
    Job.objects.filter(pk=job.pk, turn=job.turn, state=Job.RUNNING).update(beat=timezone.now())


@steady
def finish(job: Job, state: str, message: str, result: dict | None = None) -> None:
    """A job has ended: say how, and make room or take away what it left."""
    if result is None and job.result:
        # It was gone on with: what there was before is still there.
        state = Job.DONE
    more: dict[str, Any] = {"share": 1.0} if state == Job.DONE else {}
    if result is not None:
        more["result"] = result
    if job.kind != "proof" or job.rough:
        more["plan"] = None
    mine = Job.objects.filter(pk=job.pk, turn=job.turn, state=Job.RUNNING)
    if not mine.update(state=state, message=message, finished=timezone.now(), left=None, paused=False, **more):
        return
    if state == Job.DONE:
        make_room(job.site_id)
    else:
        # What it had begun to write is of no use to anybody.
        drop_files(job.pk)


@steady
def recover_lost(ask: Callable[[Job], None]) -> None:
    """Jobs whose worker gave no sign of life are asked for again once, then fail with a reason.

    So are those that wait while nothing in the queue stands for them: its entry went with the worker that had taken it.
    """
    before = timezone.now() - LOST_AFTER
    for job in Job.objects.filter(state=Job.RUNNING, beat__lt=before).defer("plan"):
        take_up_again(job, ask)
    for job in Job.objects.filter(state=Job.WAITING, created__lt=before).defer("plan"):
        if not _queued(job):
            ask(job)
    _clear_queue()


def _alive() -> Q:
    """Entries of the queue that somebody will see to."""
    return Q(status="todo") | Q(status="doing", worker__last_heartbeat__gt=timezone.now() - LOST_AFTER)


def _queued(job: Job) -> bool:
    return ProcrastinateJob.objects.filter(_alive(), task_name="run_job", args__job_id=str(job.pk)).exists()


def _clear_queue() -> None:
    """Entries that a killed worker had taken would stand there as being done for ever; what they stood for is asked anew."""
    left = ProcrastinateJob.objects.filter(status="doing").exclude(_alive()).values_list("pk", "args__job_id")
    under_way = Job.objects.filter(state=Job.RUNNING, pk__in=[job_id for _, job_id in left])
    going = {str(key) for key in under_way.values_list("pk", flat=True)}
    with connection.cursor() as cursor:
        # The library lets its rows be read only; its own call does this for one row at a time, within an event loop.
        cursor.execute(
            "delete from procrastinate_jobs where status = 'doing' and id = any(%s)",
            [[entry for entry, job_id in left if job_id not in going]],
        )


def take_up_again(job: Job, ask: Callable[[Job], None]) -> None:
    """A job whose worker stopped in the middle of it: once more, and no more than that."""
    if job.attempts >= MOST_ATTEMPTS:
        finish(
            job, Job.FAILED, "The worker stopped twice in the middle of this. Ask for less at once, or look at its log."
        )
    elif Job.objects.filter(pk=job.pk, turn=job.turn, state=Job.RUNNING).update(
        state=Job.WAITING, stage="waiting again"
    ):
        ask(job)


@steady
def put_back(job: Job, ask: Callable[[Job], None]) -> None:
    """A job whose worker is told to stop: it waits for the next one, and this turn does not count."""
    mine = Job.objects.filter(pk=job.pk, turn=job.turn, state=Job.RUNNING)
    if mine.update(state=Job.WAITING, stage="waiting again", attempts=F("attempts") - 1):
        ask(job)
