"""What each kind of job does."""

from typing import Any

from cenote_core.formats.handover import hand_over
from cenote_core.proofs.render import FILM, ProofSettings, Watch, render_proof
from sites.computing import scene_as_it_was

from .models import Job
from .running import Reporter, folder

MOST_FILMS = 6
"""Good proofs of a site that may be gone on with, the newest ones: each keeps some tens of megabytes of samples."""


def proof(job: Job, report: Reporter) -> dict[str, Any]:
    """A rendered still from a station."""
    place = folder(job.pk)
    go_on = job.params.get("go_on", 0) > 0
    settings = ProofSettings(**{name: value for name, value in job.params.items() if name != "go_on"})
    watch = Watch(report, report.enough, report.looked)
    result = render_proof(scene_as_it_was(job.site, job.plan), settings, place, watch, go_on)
    _drop_old_films(job)
    return result


def _drop_old_films(job: Job) -> None:
    films = Job.objects.filter(site=job.site, kind="proof", params__quality="good")
    for other in films.exclude(pk=job.pk)[MOST_FILMS - 1 :]:
        (folder(other.pk) / FILM).unlink(missing_ok=True)


def handover(job: Job, report: Reporter) -> dict[str, Any]:
    """The scene in open formats."""
    return hand_over(scene_as_it_was(job.site, job.plan), job.site.name, folder(job.pk), report)


KINDS = {"proof": proof, "handover": handover}
