"""What jobs keep on disk: files of what came to nothing go at once, and a site keeps so much and no more."""

import shutil
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db.models import QuerySet
from django.utils import timezone
from ninja.errors import HttpError

from cenote.orphans import orphans
from sites.models import Site

from .models import Job

_GIGABYTE = 1e9


def jobs_folder() -> Path:
    """Where the folders of all jobs lie."""
    return Path(settings.MEDIA_ROOT) / "jobs"


def place(job_id: object) -> Path:
    """Where a job's files lie, if there are any."""
    return jobs_folder() / str(job_id)


def folder(job_id: object) -> Path:
    """Where a job's files lie; made if it is not there."""
    path = place(job_id)
    path.mkdir(parents=True, exist_ok=True)
    return path


def drop_files(job_id: object) -> None:
    """Take away whatever a job has written."""
    shutil.rmtree(place(job_id), ignore_errors=True)


def drop(job: Job) -> None:
    """Take a job away with its files."""
    key = job.pk
    job.delete()
    drop_files(key)


def size_of(job_id: object) -> int:
    """Bytes of a job's files."""
    return sum(path.stat().st_size for path in place(job_id).glob("**/*") if path.is_file())


def held(jobs: QuerySet[Job]) -> int:
    """Bytes of the files of some jobs."""
    return sum(size_of(key) for key in jobs.values_list("pk", flat=True))


def make_room(site_id: Any) -> None:
    """Of a site that holds more than it may the oldest jobs go, but none that is kept or not over yet."""
    jobs = Job.objects.filter(site_id=site_id)
    over = held(jobs) - settings.SITE_BYTES
    ended = jobs.filter(kept=False).exclude(state__in=(Job.WAITING, Job.RUNNING)).defer("plan")
    # The newest is what was asked for just now.
    for job in list(ended.order_by("-finished", "-created"))[:0:-1]:
        if over <= 0:
            return
        over -= size_of(job.pk)
        drop(job)


def refuse_full(site: Site) -> None:
    """Raises HttpError where what is kept of a site leaves no room for more."""
    kept = held(site.jobs.filter(kept=True))
    if kept >= settings.SITE_BYTES:
        raise HttpError(
            507,
            f"What you keep of this site's proofs and hand-overs takes {kept / _GIGABYTE:.1f} GB; there is room for "
            f"{settings.SITE_BYTES / _GIGABYTE:.1f} GB. Delete some, or keep fewer, and ask again.",
        )


def sweep() -> None:
    """Take away folders of jobs that are there no more, and what was put away for longer than it is kept."""
    before = timezone.now() - timedelta(days=settings.PUT_AWAY_DAYS)
    Site.objects.filter(deleted__lt=before).delete()
    known = {str(key) for key in Job.objects.values_list("pk", flat=True)}
    for path in orphans(jobs_folder(), known):
        shutil.rmtree(path, ignore_errors=True)
