"""The kit: assets, materials, and bringing in models from files."""

import io
from functools import lru_cache
from typing import Any, Literal
from uuid import UUID

import numpy as np
from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import File, Router, Schema, UploadedFile
from ninja.errors import HttpError
from PIL import Image
from pydantic import Field

from cenote_core.formats.model import proposed_settings
from cenote_core.formats.packet import pack
from cenote_core.hashing import content_hash
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.catalogue import CATALOGUE, make_asset
from cenote_core.materials.catalogue import REVISION as MATERIALS_REVISION
from cenote_core.materials.material import Material
from sites.access import site_for
from sites.computing import cache
from sites.derived import mesh_packet
from sites.models import Member

from .assets import SiteKit, model_of
from .models import ImportedAsset

router = Router(tags=["kit"])
FOREVER = "private, max-age=31536000, immutable"


class AssetOut(Schema):
    id: str
    title: str
    kind: str
    size: list[float]
    lods: list[str]
    triangles: list[int]
    materials: dict[str, str]


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


def _asset_out(asset_id: str, title: str, kind: str, asset: Any, root: str, version: str) -> dict[str, Any]:
    low, high = asset.lods[0].bounds()
    return {
        "id": asset_id,
        "title": title,
        "kind": kind,
        "size": (high - low).astype(float).round(3).tolist(),
        "lods": [f"{root}/{n}?v={version}" for n in range(len(asset.lods))],
        "triangles": [lod.triangle_count for lod in asset.lods],
        "materials": asset.materials,
    }


@lru_cache(maxsize=1)
def _generated() -> list[dict[str, Any]]:
    kit = BuiltinKit(cache())
    return [
        _asset_out(
            key, r.title, r.kind, make_asset(key, cache()), f"/api/kit/assets/{key}/lod", kit.asset_key(key)[:12]
        )
        for key, r in CATALOGUE.items()
    ]


@router.get("/assets", response=list[AssetOut])
def assets(request: HttpRequest, site: UUID | None = None):
    """Everything that can be placed or scattered; with a site, its imported models too."""
    out = list(_generated())
    if site is not None:
        found = site_for(request, str(site))
        kit = SiteKit(found, cache())
        for row in kit.rows().values():
            root = f"/api/kit/imports/{row.id}/lod"
            out.append(_asset_out(row.id, row.title, "imported", kit.asset(row.id), root, kit.asset_key(row.id)[:12]))
    return out


def _lod(request: HttpRequest, asset: Any, level: int) -> HttpResponse:
    if not 0 <= level < len(asset.lods):
        raise Http404
    answer = HttpResponse(mesh_packet(asset.lods[level]), content_type="application/octet-stream")
    answer["Cache-Control"] = FOREVER
    return answer


@router.get("/assets/{asset_id}/lod/{int:level}", include_in_schema=False)
def lod(request: HttpRequest, asset_id: str, level: int):
    if asset_id not in CATALOGUE:
        raise Http404
    return _lod(request, make_asset(asset_id, cache()), level)


def _material(request: HttpRequest, material_id: str) -> Material:
    if material_id.startswith("import-"):
        row = _import_row(request, material_id.rpartition(".")[0])
        return SiteKit(row.site, cache()).material(material_id)
    return BuiltinKit(cache()).material(material_id)


@router.get("/materials/{material_id}/raw", include_in_schema=False)
def material_raw(request: HttpRequest, material_id: str, side: int = 512):
    """The pictures as bytes, row 0 at v = 0, exact: for patinas, whose edge depends on their relief."""
    if not 16 <= side <= 2048:
        raise HttpError(422, "A side of 16 to 2048 texels can be asked for.")
    m = _material(request, material_id)

    def resized(planes: np.ndarray) -> np.ndarray:
        image = Image.fromarray(np.ascontiguousarray(planes))
        return np.asarray(image if image.width == side else image.resize((side, side), Image.Resampling.BOX))[::-1]

    alpha = np.full_like(m.height, 255)
    planes = {"colour": np.dstack([m.colour, alpha]), "relief": np.dstack([m.normal[..., :2], m.roughness, m.height])}
    data = pack(
        {name: np.ascontiguousarray(resized(value)) for name, value in planes.items()}, {"tile": m.tile, "side": side}
    )
    answer = HttpResponse(data, content_type="application/octet-stream")
    answer["Cache-Control"] = FOREVER
    return answer


@router.get("/materials/{material_id}/{which}.webp", include_in_schema=False)
def material_picture(request: HttpRequest, material_id: str, which: Literal["colour", "relief"], side: int = 0):
    """`colour`: base colour with alpha; `relief`: normal x, normal y, roughness, height."""
    if side and not 16 <= side <= 2048:
        raise HttpError(422, "A side of 16 to 2048 texels can be asked for.")
    if material_id.startswith("import-"):
        _import_row(request, material_id.rpartition(".")[0])

    def make() -> bytes:
        m = _material(request, material_id)
        if which == "colour":
            planes = m.colour if m.alpha is None else np.dstack([m.colour, m.alpha])
        else:
            planes = np.dstack([m.normal[..., :2], m.roughness, m.height])
        image = Image.fromarray(planes)
        if 0 < side < image.width:
            image = image.resize((side, side), Image.Resampling.BOX)
        out = io.BytesIO()
        image.save(out, "WEBP", quality=92, method=2, exact=True)
        return out.getvalue()

    key = content_hash("picture", which, side, material_id, MATERIALS_REVISION)
    answer = HttpResponse(cache().get(key, make, on_disk=True), content_type="image/webp")
    answer["Cache-Control"] = FOREVER
    return answer


def _import_row(request: HttpRequest, import_id: str, role: str = Member.VIEWER) -> ImportedAsset:
    row = ImportedAsset.objects.filter(pk=import_id, deleted=None).first()
    if row is None:
        raise Http404
    site_for(request, str(row.site_id), role)
    return row


@router.post("/imports", response=ImportOut)
def bring_in(request: HttpRequest, site: UUID, file: UploadedFile = File(...)):  # noqa: B008
    """Read a model file and propose its size and upright axis. It is not in the kit until that is settled."""
    found = site_for(request, str(site), Member.EDITOR)
    if file.size > settings.UPLOAD_LIMIT:
        raise HttpError(
            413,
            f"The file has {file.size / 1e6:.0f} MB; at most {settings.UPLOAD_LIMIT / 1e6:.0f} MB are taken. Reduce it first.",
        )
    name = (file.name or "model")[-200:]
    title = (name.rsplit("/", 1)[-1].rsplit(".", 1)[0] or "model")[:80]
    row = ImportedAsset(id=ImportedAsset.new_id(), site=found, user=request.user, title=title, filename=name)
    row.original.save(row.id, file, save=False)
    try:
        model = model_of(row, cache())
    except Exception:
        row.original.delete(save=False)
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
def raw(request: HttpRequest, import_id: str):
    """The mesh as it is in the file, for the step that settles its size."""
    row = _import_row(request, import_id)
    return HttpResponse(mesh_packet(model_of(row, cache()).mesh), content_type="application/octet-stream")


@router.post("/imports/{import_id}/settle", response=AssetOut)
def settle(request: HttpRequest, import_id: str, payload: Settle):
    """Fix size and axis; from now on the model is in the site's kit."""
    row = _import_row(request, import_id, Member.EDITOR)
    row.title, row.settled = payload.title, True
    row.info = {**row.info, "scale": payload.scale, "up": payload.up}
    row.save()
    kit = SiteKit(row.site, cache())
    return _asset_out(
        row.id, row.title, "imported", kit.asset(row.id), f"/api/kit/imports/{row.id}/lod", kit.asset_key(row.id)[:12]
    )


@router.get("/imports/{import_id}/lod/{int:level}", include_in_schema=False)
def import_lod(request: HttpRequest, import_id: str, level: int):
    row = _import_row(request, import_id)
    return _lod(request, SiteKit(row.site, cache()).asset(row.id), level)


@router.delete("/imports/{import_id}", response={204: None})
def remove(request: HttpRequest, import_id: str):
    """Take a model out of the kit. Items that use it stay and say that it is missing."""
    row = _import_row(request, import_id, Member.EDITOR)
    row.deleted = timezone.now()
    row.save()
    return 204, None
