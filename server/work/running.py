"""Running jobs: progress, cancel, time limit, and what becomes of a job whose worker died."""

import logging
import threading
import time
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import close_old_connections
from django.db.models import F
from django.utils import timezone

from cenote_core.errors import CenoteError

from .models import Job

log = logging.getLogger("cenote.work")
LOST_AFTER = timedelta(seconds=40)
MOST_ATTEMPTS = 2
Report = Callable[[str, float], None]


class Stopped(Exception):
    """The job was cancelled or ran out of time."""


def folder(job_id: object) -> Path:
    """Where a job's files lie."""
    path = settings.MEDIA_ROOT / "jobs" / str(job_id)
    path.mkdir(parents=True, exist_ok=True)
    return path


def run(job_id: str, work: dict[str, Callable[[Job, Report], dict]]) -> None:
    """Do a job with the function for its kind. Never raises: what went wrong stands in the job."""
    taken = Job.objects.filter(pk=job_id, state=Job.WAITING).update(
        state=Job.RUNNING,
        started=timezone.now(),
        beat=timezone.now(),
        attempts=F("attempts") + 1,
        stage="starting",
        share=0,
    )
    if not taken:
        return
    job = Job.objects.get(pk=job_id)
    until = time.monotonic() + settings.JOB_SECONDS
    last = [0.0]

    def report(stage: str, share: float) -> None:
        now = time.monotonic()
        if now > until:
            raise Stopped(f"It took longer than {settings.JOB_SECONDS // 60} minutes. Ask for less at once.")
        if now - last[0] < 0.25 and share < 1:
            return
        last[0] = now
        Job.objects.filter(pk=job_id).update(stage=stage[:120], share=min(max(share, 0.0), 1.0), beat=timezone.now())
        if Job.objects.filter(pk=job_id, cancel=True).exists():
            raise Stopped("")

    beating = threading.Event()
    threading.Thread(target=_beat, args=(job_id, beating), daemon=True).start()
    try:
        result = work[job.kind](job, report)
        _finish(job_id, Job.DONE, "", result)
    except Stopped as stopped:
        _finish(job_id, Job.FAILED if str(stopped) else Job.CANCELLED, str(stopped))
    except CenoteError as error:
        _finish(job_id, Job.FAILED, str(error))
    except MemoryError:
        _finish(job_id, Job.FAILED, "There was not enough memory. Ask for a smaller picture or a lighter site.")
    except Exception:
        log.exception("Job %s failed", job_id)
        _finish(
            job_id,
            Job.FAILED,
            "Something unforeseen went wrong; the site is unharmed. Try again; the log has the details.",
        )
    finally:
        beating.set()


def _beat(job_id: str, over: threading.Event) -> None:
    """A sign of life even while one long step runs."""
    while not over.wait(5):
        close_old_connections()
        Job.objects.filter(pk=job_id, state=Job.RUNNING).update(beat=timezone.now())
    close_old_connections()


def _finish(job_id: str, state: str, message: str, result: dict | None = None) -> None:
    share = {"share": 1.0} if state == Job.DONE else {}
    Job.objects.filter(pk=job_id).update(
        state=state, message=message, result=result or {}, finished=timezone.now(), **share
    )


def recover_lost(ask: Callable[[Job], None]) -> None:
    """Jobs whose worker gave no sign of life are asked for again once, then fail with a reason."""
    lost = Job.objects.filter(state=Job.RUNNING, beat__lt=timezone.now() - LOST_AFTER)
    for job in lost:
        if job.attempts < MOST_ATTEMPTS:
            if Job.objects.filter(pk=job.pk, state=Job.RUNNING).update(state=Job.WAITING, stage="waiting again"):
                ask(job)
        else:
            _finish(
                str(job.pk),
                Job.FAILED,
                "The worker stopped twice in the middle of this. Ask for less at once, or look at its log.",
            )
