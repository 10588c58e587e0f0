"""What each kind of job does."""

import logging
from collections.abc import Callable
from typing import Any

from cenote_core.errors import AskingEnded
from cenote_core.handover import MAP_LIMIT, hand_over
from cenote_core.proofs.render import FILM, ProofSettings, Watch, render_proof
from cenote_core.scene.scene import Scene
from cenote_core.soundness import sound
from sites.computing import scene_as_it_was

from .job_runner import Reporter
from .keeping import folder, place
from .models import Job

log = logging.getLogger("cenote.work")
MOST_FILMS = 6
"""Good proofs of a site that may be gone on with, the newest ones: each keeps some tens of megabytes of samples."""


def proof(job: Job, report: Reporter) -> dict[str, Any]:
    """A rendered still from a station."""
    place = folder(job.pk)
    go_on = job.params.get("go_on", 0) > 0
    settings = ProofSettings(**{name: value for name, value in job.params.items() if name != "go_on"})
    watch = Watch(report, report.enough, report.looked)
    result = _sparing(job, lambda scene: render_proof(scene, settings, place, watch, go_on))
    _drop_old_films(job)
    return result


def _sparing(job: Job, make: Callable[[Scene], dict[str, Any]]) -> dict[str, Any]:
    """What is made of a job's site; where an item cannot be worked out, of the site without it, which the result tells."""
    scene = scene_as_it_was(job.site, job.plan)
    try:
        return make(scene)
    except AskingEnded:
        raise
    except Exception as error:
        site, reasons = sound(scene)
        if not reasons:
            raise
        log.warning("Job %s goes on without %s: %s", job.pk, sorted(reasons), error)
        named = {key: getattr(scene.site.plan_of(key), "name", key) for key in reasons}
        result = make(Scene(site, scene.kit, scene.cache))
        return {**result, "left_out": [{"item": k, "name": named[k], "reason": r} for k, r in reasons.items()]}


def _drop_old_films(job: Job) -> None:
    films = Job.objects.filter(site=job.site, kind="proof", params__quality="good")
    for other in films.exclude(pk=job.pk)[MOST_FILMS - 1 :]:
        (place(other.pk) / FILM).unlink(missing_ok=True)


def handover(job: Job, report: Reporter) -> dict[str, Any]:
    """The scene in open formats."""
    most = job.params.get("most", MAP_LIMIT)
    return _sparing(job, lambda scene: hand_over(scene, job.site.name, folder(job.pk), report, most))


KINDS = {"proof": proof, "handover": handover}
