"""Asking for long work and following it."""

import mimetypes
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.http import FileResponse, Http404, HttpRequest
from ninja import Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from accounts.once import once
from cenote_core.proofs.settings import FILM, GROWING, ProofSettings
from sites.access import site_for
from sites.computing import plan_as_it_is
from sites.models import Member

from .keeping import drop, held, place, refuse_full
from .models import Job
from .tasks import ask

router = Router(tags=["work"])
MOST_WAITING = 20


class JobOut(Schema):
    id: UUID
    kind: str
    title: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    stage: str
    share: float
    left: float | None
    pictures: int
    made: str = Field(description="The time that addresses of its files carry.")
    can_go_on: bool
    enough: bool
    kept: bool
    message: str
    params: dict[str, Any]
    result: dict[str, Any]
    created: datetime
    started: datetime | None
    finished: datetime | None

    @staticmethod
    def resolve_can_go_on(job: Job) -> bool:
        """Are its samples still kept?"""
        return job.state == Job.DONE and job.kind == "proof" and (place(job.pk) / FILM).exists()


def _start(request: HttpRequest, site_id: UUID, kind: str, title: str, params: dict[str, Any], role: str) -> Job:
    site = site_for(request, str(site_id), role)
    if Job.objects.filter(user=request.user, state__in=(Job.WAITING, Job.RUNNING)).count() >= MOST_WAITING:
        raise HttpError(429, f"{MOST_WAITING} jobs of yours are waiting already. Cancel some first.")
    refuse_full(site)
    with transaction.atomic():
        job = Job.objects.create(
            site=site, user=request.user, kind=kind, title=title, params=params, plan=plan_as_it_is(site)
        )
        ask(job)
    return job


@router.post("/sites/{uuid:site_id}/proofs", response=JobOut)
@once
def ask_proof(request: HttpRequest, site_id: UUID, payload: ProofSettings) -> Any:
    """Render a still from a station."""
    site = site_for(request, str(site_id), Member.EDITOR)
    station = site.items.filter(key=payload.station, kind="station", deleted=False).first()
    if station is None:
        raise HttpError(422, "That station is gone. Choose another one.")
    part = ", a part" if payload.frame else ""
    title = f"{payload.quality} proof, {station.plan['name']}{part}"
    return _start(request, site_id, "proof", title, payload.model_dump(mode="json"), Member.EDITOR)


@router.post("/sites/{uuid:site_id}/handovers", response=JobOut)
@once
def ask_handover(request: HttpRequest, site_id: UUID) -> Any:
    """Write the scene as GLB and instance table."""
    return _start(request, site_id, "handover", "hand over as GLB", {}, Member.EDITOR)


@router.get("/sites/{uuid:site_id}/jobs", response=list[JobOut])
def jobs(request: HttpRequest, site_id: UUID) -> Any:
    """The newest jobs of a site."""
    site = site_for(request, str(site_id))
    return Job.objects.filter(site=site).defer("plan")[:40]


def _job(request: HttpRequest, job_id: UUID, role: str = Member.VIEWER) -> Job:
    job = Job.objects.filter(pk=job_id).first()
    if job is None:
        raise Http404
    site_for(request, str(job.site_id), role)
    return job


@router.post("/{uuid:job_id}/cancel", response=JobOut)
def cancel(request: HttpRequest, job_id: UUID) -> Any:
    """Stop a job at its next step."""
    job = _job(request, job_id, Member.EDITOR)
    Job.objects.filter(pk=job.pk, state=Job.WAITING).update(state=Job.CANCELLED)
    Job.objects.filter(pk=job.pk, state=Job.RUNNING).update(cancel=True)
    job.refresh_from_db()
    return job


@router.post("/{uuid:job_id}/enough", response=JobOut)
def enough(request: HttpRequest, job_id: UUID) -> Any:
    """Take what a good proof has come to so far as its result."""
    job = _job(request, job_id, Member.EDITOR)
    Job.objects.filter(pk=job.pk, state__in=(Job.RUNNING, Job.WAITING)).update(enough=True)
    job.refresh_from_db()
    return job


class KeepIn(Schema):
    kept: bool


@router.post("/{uuid:job_id}/keep", response=JobOut)
def keep(request: HttpRequest, job_id: UUID, payload: KeepIn) -> Any:
    """Keep what a job made when there is no more room, or let it go with the others."""
    job = _job(request, job_id, Member.EDITOR)
    job.kept = payload.kept
    job.save(update_fields=["kept"])
    return job


@router.delete("/{uuid:job_id}", response={204: None})
def delete(request: HttpRequest, job_id: UUID) -> Any:
    """Take away what a job made, for good."""
    job = _job(request, job_id, Member.EDITOR)
    if job.state in (Job.WAITING, Job.RUNNING):
        raise HttpError(409, "It is still under way. Cancel it first.")
    drop(job)
    return 204, None


class RoomOut(Schema):
    held: int = Field(description="Bytes of the site's proofs and hand-overs.")
    most: int = Field(description="Bytes that are kept; beyond that the oldest go, except for what is kept.")


@router.get("/sites/{uuid:site_id}/room", response=RoomOut)
def room(request: HttpRequest, site_id: UUID) -> Any:
    """How much room proofs and hand-overs of a site take."""
    site = site_for(request, str(site_id))
    return {"held": held(site.jobs.all()), "most": settings.SITE_BYTES}


@router.post("/{uuid:job_id}/go-on", response=JobOut)
@once
def go_on(request: HttpRequest, job_id: UUID) -> Any:
    """Take up a finished good proof again, for half its noise."""
    job = _job(request, job_id, Member.EDITOR)
    if not JobOut.resolve_can_go_on(job):
        raise HttpError(409, "Its samples are no longer kept. Ask for a new proof.")
    again = job.params | {"go_on": job.params.get("go_on", 0) + 1}
    with transaction.atomic():
        taken = Job.objects.filter(pk=job.pk, state=Job.DONE).update(
            state=Job.WAITING, stage="", share=0, enough=False, cancel=False, attempts=0, params=again
        )
        job.refresh_from_db()
        if taken:
            ask(job)
    return job


@router.get("/{uuid:job_id}/growing", include_in_schema=False)
def growing(request: HttpRequest, job_id: UUID) -> Any:
    """What there is to see of a proof that is being made."""
    path = place(_job(request, job_id).pk) / GROWING
    if not path.exists():
        raise Http404
    answer = FileResponse(path.open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "no-store"
    return answer


@router.get("/{uuid:job_id}/files/{name}", include_in_schema=False)
def file(request: HttpRequest, job_id: UUID, name: str) -> Any:
    """A file a job made."""
    job = _job(request, job_id)
    if name not in job.result.get("files", {}):
        raise Http404
    path = place(job.pk) / name
    if not path.exists():
        raise HttpError(410, "The file is no longer kept. Ask for it again.")
    kind = {".glb": "model/gltf-binary", ".exr": "image/x-exr"}.get(path.suffix) or mimetypes.guess_type(name)[0]
    answer = FileResponse(
        path.open("rb"),
        content_type=kind or "application/octet-stream",
        as_attachment=path.suffix in (".glb", ".csv", ".exr", ".zip"),
    )
    # A proof that is gone on with has new files under their old names: only an address that names the time is for good.
    named = request.GET.get("made") == job.made
    answer["Cache-Control"] = "private, max-age=31536000, immutable" if named else "private, no-cache"
    return answer
