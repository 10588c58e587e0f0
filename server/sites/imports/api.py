"""Bringing in models from files: read, put right in size and axis, kept in the site's kit."""

from typing import Annotated, Any, Literal
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema, UploadedFile
from ninja.errors import HttpError
from pydantic import Field

from cenote_core.formats.model import proposed_settings
from cenote_core.mesh.packed import mesh_packet
from kit.assets import SiteKit, model_of
from kit.listing import AssetOut, asset_out
from kit.models import ImportedAsset
from kit.reading import stages, telling
from sites.access import site_for
from sites.computing import cache
from sites.models import Member

from ..kit_api import VERSION_DIGITS, lod_answer
from .keeping import refuse_full
from .rows import import_row, kit_changed, put_back, take_out

router = Router(tags=["kit"])


class ImportOut(Schema):
    id: str
    title: str
    filename: str
    size: list[float]
    triangles: int
    parts: int
    materials: list[str]
    warnings: list[str]
    scale: float
    up: Literal["y", "z"]
    reason: str
    mesh: str


class Settle(Schema):
    title: str = Field(min_length=1, max_length=80)
    scale: float = Field(ge=1e-6, le=1e6, description="Factor from the file's unit to metres.", allow_inf_nan=False)
    up: Literal["y", "z"]


Token = Annotated[str, Field(max_length=64, pattern=r"^[A-Za-z0-9-]*$")]


class Stage(Schema):
    stage: str


@router.get("/imports/progress/{token}", response=Stage)
def progress(request: HttpRequest, token: Token) -> Any:
    """What is being done with a file that is on its way in; nothing once it is there."""
    return {"stage": stages.get(token, "")}


@router.post("/imports", response=ImportOut)
def bring_in(request: HttpRequest, site: UUID, file: UploadedFile = File(...), token: Token = "") -> Any:  # noqa: B008
    """Read a model file and propose its size and upright axis. It is not in the kit until that is settled.

    What is being done with it can be followed under the `token` it is sent with.
    """
    found = site_for(request, str(site), Member.EDITOR)
    if file.size > settings.UPLOAD_LIMIT:
        raise HttpError(
            413,
            f"The file has {file.size / 1e6:.0f} MB; at most {settings.UPLOAD_LIMIT / 1e6:.0f} MB are taken. Reduce it first.",
        )
    refuse_full(found, file.size)
    name = (file.name or "model")[-200:]
    title = (name.rsplit("/", 1)[-1].rsplit(".", 1)[0] or "model")[:80]
    row = ImportedAsset(id=ImportedAsset.new_id(), site=found, user=request.user, title=title, filename=name)
    try:
        row.original.save(row.id, file, save=False)
        model = model_of(SiteKit(row.site, cache(), telling(token)), row)
    except Exception:
        # Also what was written of it before the disk was full.
        row.original.storage.delete(row.original.field.generate_filename(row, row.id))
        raise
    proposal = proposed_settings(model)
    row.info = {"scale": proposal.scale, "up": proposal.up}
    row.save()
    return _import_out(row, model, proposal.reason)


def _import_out(row: ImportedAsset, model: Any, reason: str) -> dict[str, Any]:
    low, high = model.mesh.bounds()
    return {
        "id": row.id,
        "title": row.title,
        "filename": row.filename,
        "size": (high - low).astype(float).tolist(),
        "triangles": model.mesh.triangle_count,
        "parts": model.parts,
        "materials": list(model.mesh.slot_names),
        "warnings": model.warnings,
        "scale": row.info["scale"],
        "up": row.info["up"],
        "reason": reason,
        "mesh": f"/api/kit/imports/{row.id}/raw",
    }


@router.get("/imports/{import_id}/raw", include_in_schema=False)
def raw(request: HttpRequest, import_id: str) -> Any:
    """The mesh as it is in the file, for the step that settles its size."""
    row = import_row(request, import_id)
    return HttpResponse(
        mesh_packet(model_of(SiteKit(row.site, cache()), row).mesh), content_type="application/octet-stream"
    )


@router.post("/imports/{import_id}/settle", response=AssetOut)
def settle(request: HttpRequest, import_id: str, payload: Settle) -> Any:
    """Fix size and axis; from now on the model is in the site's kit."""
    row = import_row(request, import_id, Member.EDITOR)
    row.title, row.settled = payload.title, True
    row.info = {**row.info, "scale": payload.scale, "up": payload.up}
    row.save()
    kit_changed(row.site_id)
    kit = SiteKit(row.site, cache())
    return asset_out(
        row.id,
        row.title,
        "imported",
        kit.asset(row.id),
        f"/api/kit/imports/{row.id}/lod",
        kit.asset_ref(row.id).key[:VERSION_DIGITS],
    )


@router.get("/imports/{import_id}/lod/{int:level}", include_in_schema=False)
def import_lod(request: HttpRequest, import_id: str, level: int) -> Any:
    """A level of detail of a model that was brought in."""
    row = import_row(request, import_id)
    kit = SiteKit(row.site, cache())
    return lod_answer(request, kit.asset(row.id).lods, level, kit.asset_ref(row.id).key)


@router.delete("/imports/{import_id}", response={204: None})
def remove(request: HttpRequest, import_id: str) -> Any:
    """Take a model out of the kit. Items that use it stay and say that it is missing."""
    take_out(import_row(request, import_id, Member.EDITOR))
    return 204, None


@router.post("/imports/{import_id}/restore", response={204: None})
def restore(request: HttpRequest, import_id: str) -> Any:
    """Put a model back that was taken away."""
    put_back(import_row(request, import_id, Member.EDITOR, with_deleted=True))
    return 204, None
