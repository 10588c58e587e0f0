"""What each kind of job does."""

from typing import Any

from cenote_core.formats.handover import hand_over
from cenote_core.proofs.render import ProofSettings, render_proof
from sites.computing import scene_of

from .models import Job
from .running import Report, folder


def proof(job: Job, report: Report) -> dict[str, Any]:
    """A rendered still from a station."""
    scene = scene_of(job.site)
    return render_proof(scene, ProofSettings(**job.params), folder(job.pk), report)


def handover(job: Job, report: Report) -> dict[str, Any]:
    """The scene in open formats."""
    return hand_over(scene_of(job.site), job.site.name, folder(job.pk), report)


KINDS = {"proof": proof, "handover": handover}
