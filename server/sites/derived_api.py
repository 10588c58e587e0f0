"""Addresses of what is derived from a site: meshes, instances, covers, sky, previews, explanations."""

from typing import Any
from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from cenote_core.decals.project import decal_mesh
from cenote_core.drifts.plots import plots_of
from cenote_core.errors import CenoteError
from cenote_core.kit.kit import drawn_lods_for_now
from cenote_core.plan import GROUND, DriftPlan, ItemPlan, PatinaPlan
from cenote_core.plan.site import item_adapter
from cenote_core.scene.scene import VIEW_LIMIT
from cenote_core.snags.effect import drift_effect, patina_effect
from cenote_core.weather.exposure import sky_exposure
from kit.listing import AssetOut, own_assets

from . import derived
from .access import site_for
from .computing import scene_of

router = Router(tags=["derived"])
FOREVER = "private, max-age=31536000, immutable"


class SurfaceOut(Schema):
    ref: str
    slot: str
    material: str
    label: str
    layer: str


class OwnerOut(Schema):
    owner: str
    mesh: str
    cover: str
    exposure: str
    surfaces: list[SurfaceOut]
    patinas: list[str]
    lift: float


class DriftOut(Schema):
    key: str
    url: str


class DecalOut(Schema):
    key: str
    url: str
    picture: str
    tint: str


class MaterialOut(Schema):
    title: str
    kind: str
    url: str
    v: str
    tile: float
    metalness: float
    depth: float
    translucency: float
    alpha: bool
    size: int


class Manifest(Schema):
    revision: int
    owners: list[OwnerOut]
    drifts: list[DriftOut]
    decals: list[DecalOut]
    sky: str
    materials: dict[str, MaterialOut]
    layers: dict[str, PatinaPlan]
    own: list[AssetOut]


class ItemIn(Schema):
    key: str = Field(min_length=1, max_length=64)
    plan: ItemPlan


class PreviewIn(ItemIn):
    eye: tuple[float, float, float] = Field((0.0, 0.0, 0.0), description="Where the plate is seen from, metres.")
    most: int = Field(
        derived.PREVIEW_INSTANCES,
        ge=1,
        le=400_000,
        description="So many things of a drift are sent at most, those nearest the eye: what the plate can draw in time.",
    )


class Histogram(Schema):
    edges: list[float]
    areas: list[float]
    passed: list[float]
    share: float


class EffectOut(Schema):
    key: str
    amount: float
    reason: str
    cure: str
    plan: ItemPlan | None


def _packet(request: HttpRequest, data: bytes, version: str) -> HttpResponse:
    """The browser keeps it if it is what its address names: the site may have changed since the address was given."""
    answer = HttpResponse(data, content_type="application/octet-stream")
    answer["Cache-Control"] = FOREVER if version and request.GET.get("v") == version else "no-store"
    return answer


@router.get("/{uuid:site_id}/scene", response=Manifest)
def scene(request: HttpRequest, site_id: UUID):
    """Addresses of everything the plate draws."""
    site = site_for(request, site_id)
    found, key = scene_of(site), str(site.pk)
    return {"revision": site.revision, **derived.manifest(found, key), "own": own_assets(found, key)}


@router.get("/{uuid:site_id}/derived/mesh/{owner}", include_in_schema=False)
def mesh(request: HttpRequest, site_id: UUID, owner: str):
    found = scene_of(site_for(request, site_id))
    if owner not in found.owners():
        raise Http404
    if owner == GROUND:
        content = derived.ground_packet(found, derived.VIEW_SIDE)
    else:
        content = derived.mesh_packet(found.local_mesh(owner))
    return _packet(request, content, derived.mesh_version(found, owner))


@router.get("/{uuid:site_id}/derived/covers/{owner}", include_in_schema=False)
def covers(request: HttpRequest, site_id: UUID, owner: str):
    found = scene_of(site_for(request, site_id))
    if owner not in found.owners():
        raise Http404
    return _packet(request, derived.covers_packet(found, [owner], VIEW_LIMIT), derived.cover_version(found, owner))


@router.get("/{uuid:site_id}/derived/exposure/{owner}", include_in_schema=False)
def exposure(request: HttpRequest, site_id: UUID, owner: str):
    found = scene_of(site_for(request, site_id))
    if owner not in found.owners():
        raise Http404
    return _packet(request, derived.exposure_packet(found, owner), sky_exposure.ref(found, owner).key)


@router.get("/{uuid:site_id}/derived/instances/{key}", include_in_schema=False)
def instances(request: HttpRequest, site_id: UUID, key: str):
    found = scene_of(site_for(request, site_id))
    plan = found.site.drifts.get(key)
    if plan is None:
        raise Http404
    return _packet(request, derived.drift_packet(found, key, plan), derived.drift_version(found, key))


@router.get("/{uuid:site_id}/derived/instances/{key}/plots/{cell}", include_in_schema=False)
def plot(request: HttpRequest, site_id: UUID, key: str, cell: str):
    found = scene_of(site_for(request, site_id))
    plan = found.site.drifts.get(key)
    plots = plots_of(found, key, plan)[0] if plan else []
    for one in plots:
        if one.cell == cell:
            return _packet(request, one.data, one.version)
    raise Http404


@router.get("/{uuid:site_id}/derived/decal/{key}", include_in_schema=False)
def decal(request: HttpRequest, site_id: UUID, key: str):
    found = scene_of(site_for(request, site_id))
    plan = found.site.decals.get(key)
    if plan is None:
        raise Http404
    return _packet(request, derived.mesh_packet(decal_mesh(found, plan)), decal_mesh.ref(found, plan).key)


@router.get("/{uuid:site_id}/derived/sky", include_in_schema=False)
def sky(request: HttpRequest, site_id: UUID):
    found = scene_of(site_for(request, site_id))
    return _packet(request, derived.sky_of(found), derived.sky_of.ref(found).key)


@router.get("/{uuid:site_id}/derived/own/{asset_id}/{int:level}", include_in_schema=False)
def own_level(request: HttpRequest, site_id: UUID, asset_id: str, level: int):
    """A level of detail of a tuft of the site's own grass."""
    found = scene_of(site_for(request, site_id))
    if asset_id not in found.kit.own_ids():
        raise Http404
    lods = drawn_lods_for_now(found.kit, asset_id)
    if not 0 <= level < len(lods):
        raise Http404
    return _packet(request, derived.mesh_packet(lods[level]), found.kit.asset_ref(asset_id).key)


@router.post("/{uuid:site_id}/preview", include_in_schema=False)
def preview(request: HttpRequest, site_id: UUID, payload: PreviewIn):
    """What the plate needs while an item is being changed; nothing is saved."""
    found = scene_of(site_for(request, site_id))
    return _packet(request, derived.preview(found, payload.key, payload.plan, payload.eye, payload.most), "")


@router.post("/{uuid:site_id}/histograms", response=list[Histogram])
def histograms(request: HttpRequest, site_id: UUID, payload: ItemIn):
    """Histograms of an item's rules over its surfaces."""
    if not isinstance(payload.plan, DriftPlan | PatinaPlan):
        raise CenoteError("Only drifts and patinas have rules.")
    return derived.rule_histograms(scene_of(site_for(request, site_id)), payload.key, payload.plan)


@router.get("/{uuid:site_id}/effects", response=list[EffectOut])
def effects(request: HttpRequest, site_id: UUID):
    """For every drift and patina: how much it brings about, and if nothing, why and what cures it."""
    found = scene_of(site_for(request, site_id))
    out: list[dict[str, Any]] = []
    for kind, work in (("drifts", drift_effect), ("patinas", patina_effect)):
        for key, plan in getattr(found.site, kind).items():
            effect = work(found, key, plan)
            cured = None if effect.plan is None else item_adapter.validate_python(effect.plan)
            out.append(
                {"key": key, "amount": effect.amount, "reason": effect.reason, "cure": effect.cure, "plan": cured}
            )
    return out
