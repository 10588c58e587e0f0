"""Explanations of a site: why here, the section, snags, and recipes to start from."""

from dataclasses import asdict
from typing import Any
from uuid import UUID

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from cenote_core.base.fields import Point2, Point3, SurfaceRef
from cenote_core.base.packet import pack
from cenote_core.drifts.recipes import RECIPES
from cenote_core.errors import CenoteError
from cenote_core.explain.responses import responses
from cenote_core.explain.section import section as cut
from cenote_core.explain.verdict import points_at
from cenote_core.explained import all_snags, why_here
from cenote_core.kinds import KINDS
from cenote_core.measures.distance import FAR
from cenote_core.plan import DriftPlan, ItemPlan, PatinaPlan
from cenote_core.plan.site import item_adapter
from cenote_core.scene.measuring import measure
from cenote_core.scene.scene import Scene
from cenote_core.weatherings import WEATHERINGS

from .access import site_for
from .computing import scene_of, sparing

router = Router(tags=["explain"])


class Spot(Schema):
    owner: str = Field(min_length=1, max_length=64)
    point: Point3


class ReasonOut(Schema):
    what: str
    value: float | None
    allows: float
    text: str
    unit: str


class VerdictOut(Schema):
    item: str
    kind: str
    name: str
    stands: bool
    summary: str
    lines: list[ReasonOut]


class CutIn(Schema):
    start: Point2
    end: Point2
    width: float = Field(default=2.0, ge=0.05, le=100)


class SnagOut(Schema):
    kind: str
    item: str
    text: str
    count: int
    places: list[tuple[float, float, float]]
    cure: str
    plan: ItemPlan | None


class ResponseOut(Schema):
    item: str
    name: str
    what: str
    amount: float
    unit: str
    reason: str
    cure: str
    plan: ItemPlan | None


class RecipeOut(Schema):
    key: str
    title: str
    about: str


class RecipeIn(Schema):
    recipe: str
    surfaces: list[SurfaceRef] = Field(min_length=1, max_length=100)
    seed: int = Field(default=1, ge=0, le=999_000)


@router.post("/{uuid:site_id}/why", response=list[VerdictOut])
def why(request: HttpRequest, site_id: UUID, payload: Spot) -> Any:
    """At a spot: which rules let each drift stand there, or stopped it, with the numbers."""
    return sparing(site_for(request, site_id), lambda scene: why_here(scene, payload.owner, np.array(payload.point)))


@router.get("/{uuid:site_id}/responses", response=list[ResponseOut])
def weather_responses(request: HttpRequest, site_id: UUID) -> Any:
    """How everything responds to the weather that shows; what does not comes first, with the reason."""
    found = sparing(site_for(request, site_id), responses)
    adapt = item_adapter.validate_python
    return [asdict(one) | {"plan": None if one.plan is None else adapt(one.plan)} for one in found]


@router.post("/{uuid:site_id}/section", include_in_schema=False)
def section(request: HttpRequest, site_id: UUID, payload: CutIn) -> HttpResponse:
    """A cut through the site: ground line, cut structures, silhouettes of what stands near."""
    start, end = np.array(payload.start), np.array(payload.end)
    found = sparing(site_for(request, site_id), lambda scene: cut(scene, start, end, payload.width))
    arrays = {"ground": found.ground.astype(np.float32)}
    for key, segments in found.pieces.items():
        arrays[f"piece {key}"] = segments.astype(np.float32)
    for one in found.drifts:
        places = np.column_stack([one.along, one.foot, one.scale])
        arrays[f"drift {one.drift}"] = places.astype(np.float32)
        arrays[f"asset {one.drift}"] = one.asset.astype(np.int32)
    return HttpResponse(pack(arrays, {"length": found.length}), content_type="application/octet-stream")


@router.get("/{uuid:site_id}/snags", response=list[SnagOut])
def snags(request: HttpRequest, site_id: UUID) -> Any:
    """What a viewer would notice on drifts and patinas, each with a cure where there is one."""
    out = []
    for snag in sparing(site_for(request, site_id), all_snags):
        cured = None if snag.plan is None else item_adapter.validate_python(snag.plan)
        out.append({**snag.__dict__, "places": snag.places.round(3).tolist(), "plan": cured})
    return out


@router.get("/recipes", response=list[RecipeOut])
def recipes(request: HttpRequest) -> Any:
    """Recipes that set up several drifts at once."""
    return [{"key": key, "title": r.title, "about": r.about} for key, r in RECIPES.items()]


@router.post("/{uuid:site_id}/recipe", response=list[DriftPlan])
def recipe(request: HttpRequest, site_id: UUID, payload: RecipeIn) -> Any:
    """The drifts a recipe would add; nothing is saved until they are sent as a change."""
    site = site_for(request, site_id)
    found = RECIPES.get(payload.recipe)
    if found is None:
        raise HttpError(404, "There is no such recipe.")
    return found.make(list(payload.surfaces), payload.seed, scene_of(site).site.ground)


class SetsOut(Schema):
    at: str
    times: float
    plus: float


class DialOut(Schema):
    title: str
    says: str
    unit: str
    low: float
    high: float
    sets: list[SetsOut]


class WeatheringOut(RecipeOut):
    material: str
    tint: str
    pace: float
    dials: list[DialOut]


@router.get("/weatherings", response=list[WeatheringOut])
def weatherings(request: HttpRequest) -> Any:
    """Kinds of weathering a patina may start from."""
    shown = ("title", "about", "material", "pace")
    return [
        {
            "key": key,
            **{name: getattr(w, name) for name in shown},
            "tint": w.tint,
            "dials": [asdict(dial) for dial in w.dials],
        }
        for key, w in WEATHERINGS.items()
    ]


@router.post("/{uuid:site_id}/weathering", response=PatinaPlan)
def weathering(request: HttpRequest, site_id: UUID, payload: RecipeIn) -> Any:
    """The patina a kind of weathering would add; nothing is saved until it is sent as a change."""
    site_for(request, site_id)
    found = WEATHERINGS.get(payload.recipe)
    if found is None:
        raise HttpError(404, "There is no such kind of weathering.")
    return found.patina(payload.recipe, list(dict.fromkeys(payload.surfaces)), payload.seed)


class ValuesIn(Schema):
    key: str = Field(min_length=1, max_length=64)
    plan: ItemPlan
    spot: Spot


@router.post("/{uuid:site_id}/values", response=list[float | None])
def values(request: HttpRequest, site_id: UUID, payload: ValuesIn) -> Any:
    """Values of an item's measures at a spot, one a rule; nothing where there is no surface."""
    plan: Any = payload.plan
    if KINDS[plan.kind].context is None:
        raise CenoteError("Only drifts and patinas have rules.")
    return sparing(site_for(request, site_id), lambda scene: _values(scene, payload))


def _values(scene: Scene, payload: ValuesIn) -> list[float | None]:
    plan: Any = payload.plan
    context_of = KINDS[plan.kind].context
    assert context_of is not None
    if payload.spot.owner not in scene.owners():
        return [None] * len(plan.rules)
    context = context_of(scene, payload.key, plan)
    points = points_at(scene, payload.spot.owner, np.array(payload.spot.point))
    found = [float(measure(scene, payload.spot.owner, points, rule, context)[0]) for rule in plan.rules]
    return [None if abs(value) >= FAR else value for value in found]
