"""Addresses of what is derived from a site: the parts of all kinds, previews, histograms, effects."""

from typing import Any
from urllib.parse import quote
from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema
from ninja.errors import HttpError
from pydantic import Field, TypeAdapter, create_model

from cenote_core import view
from cenote_core.base.fields import Point3
from cenote_core.errors import CenoteError
from cenote_core.explain.histograms import Sight, rule_histograms
from cenote_core.kinds import KINDS, PARTS
from cenote_core.kinds.kind import PREVIEW_INSTANCES
from cenote_core.plan import ItemPlan
from cenote_core.plan.site import item_adapter
from cenote_core.scene.scene import Scene
from kit.listing import AssetOut, own_assets

from .access import site_for
from .asking import TAB
from .computing import left_out, sparing
from .models import Site
from .revision_cache import kept_answer

router = Router(tags=["derived"])
FOREVER = "private, max-age=31536000, immutable"

_sections: dict[str, Any] = {name: (type_, ...) for kind in KINDS.values() for name, type_ in kind.sections.items()}
Manifest = create_model("Manifest", __base__=Schema, revision=(int, ...), own=(list[AssetOut], ...), **_sections)


class ItemIn(Schema):
    key: str = Field(min_length=1, max_length=64)
    plan: ItemPlan


class PreviewIn(ItemIn):
    eye: tuple[float, float, float] = Field((0.0, 0.0, 0.0), description="Where the plate is seen from, metres.")
    most: int = Field(
        PREVIEW_INSTANCES,
        ge=1,
        le=400_000,
        description="So many things of a drift are sent at most, those nearest the eye: what the plate can draw in time.",
    )


class SightIn(Schema):
    position: Point3
    target: Point3
    lens: float = Field(ge=4, le=2000, description="Focal length for a picture 36 mm wide, millimetres.")
    aspect: float = Field(ge=0.05, le=20, description="Width to height.")


class HistogramsIn(ItemIn):
    sight: SightIn | None = Field(None, description="Count only what is seen from there; none: all.")


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
def scene(request: HttpRequest, site_id: UUID, spell: str = "") -> Any:
    """Addresses of everything the plate draws; of another spell than shows where one is named."""
    site = site_for(request, site_id)
    make = lambda: sparing(site, lambda found: _manifest(site, found, spell), spell)  # noqa: E731
    return kept_answer(request, site, "scene", make, spell, left_out(site, spell))


def _manifest(site: Site, found: Scene, spell: str) -> bytes:
    key = str(site.pk)
    named = f"&spell={quote(spell)}" if spell else ""
    address = lambda part, name, version: f"/api/sites/{key}/derived/{part}/{name}?v={version}{named}"  # noqa: E731
    parts = view.manifest(found, address)
    return Manifest(revision=site.revision, own=own_assets(found, key), **parts).model_dump_json().encode()


@router.get("/{uuid:site_id}/derived/{part}/{path:name}", include_in_schema=False)
def part(request: HttpRequest, site_id: UUID, part: str, name: str) -> Any:
    """A part of a site, as its kind makes it."""
    site, spell, made = site_for(request, site_id), request.GET.get("spell", ""), PARTS.get(part)
    if made is None:
        raise Http404

    def packet(found: Scene) -> HttpResponse:
        if not made.there(found, name):
            raise Http404
        return _packet(request, made.make(found, name), made.version(found, name))

    try:
        return sparing(site, packet, spell)
    except Http404:
        # The page knows the site as it was before that was found out, and asks for it anew.
        if left_out(site, spell):
            raise HttpError(
                409, "Something of the site cannot be worked out and is left out; the course says what."
            ) from None
        raise


@router.post("/{uuid:site_id}/preview", include_in_schema=False)
def preview(request: HttpRequest, site_id: UUID, payload: PreviewIn) -> Any:
    """What the plate needs while an item is being changed; nothing is saved."""
    site = site_for(request, site_id)
    if tab := request.headers.get(TAB):
        # The plate shows the last one alone.
        request.asker.be_newest((request.user.pk, tab[:64], site.pk, "preview"))
    make = lambda found: view.preview(found, payload.key, payload.plan, payload.eye, payload.most)  # noqa: E731
    return _packet(request, sparing(site, make), "")


@router.post("/{uuid:site_id}/histograms", response=list[Histogram])
def histograms(request: HttpRequest, site_id: UUID, payload: HistogramsIn) -> Any:
    """Histograms of an item's rules over its surfaces."""
    plan: Any = payload.plan
    context = KINDS[plan.kind].context
    if context is None:
        raise CenoteError("Only drifts and patinas have rules.")
    sight = Sight(**payload.sight.model_dump()) if payload.sight else None
    return sparing(
        site_for(request, site_id),
        lambda found: rule_histograms(found, context(found, payload.key, plan), plan.rules, sight),
    )


@router.get("/{uuid:site_id}/effects", response=list[EffectOut])
def effects(request: HttpRequest, site_id: UUID) -> Any:
    """For every item that brings something about: how much, and if nothing, why and what cures it."""
    site = site_for(request, site_id)
    return kept_answer(
        request, site, "effects", lambda: sparing(site, lambda found: _effects(site, found)), left_out(site)
    )


def _effects(site: Site, found: Scene) -> bytes:
    out: list[EffectOut] = []
    for name, kind in KINDS.items():
        if kind.effect is None:
            continue
        for key, plan in found.site.items[name].items():
            effect = kind.effect(found, key, plan)
            cured = None if effect.plan is None else item_adapter.validate_python(effect.plan)
            out.append(EffectOut(key=key, amount=effect.amount, reason=effect.reason, cure=effect.cure, plan=cured))
    failing = left_out(site)
    out = [effect for effect in out if effect.key not in failing]
    out += [
        EffectOut(key=key, amount=0, reason=_LEFT_OUT + reason, cure="", plan=None) for key, reason in failing.items()
    ]
    return _effects_adapter.dump_json(out)


_LEFT_OUT = "It cannot be worked out and is left out. "


_effects_adapter = TypeAdapter(list[EffectOut])
