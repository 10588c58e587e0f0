"""Cover: the 0..1 result of a patina's rules on the texels of a surface's owner."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..graph.derived import Ref, derived
from ..ground.terrain import GROUND_SLOT
from ..measures.painted import PaintedRule, apply_touches
from ..mesh.mesh import Points
from ..mesh.texels import sample_map
from ..plan import GROUND, PatinaPlan, PatinaUse
from ..rules import apply_rule
from ..scene.measuring import RuleContext, measure, rule_needs
from ..scene.provided import PATINA_COVER
from ..scene.scene import VIEW_LIMIT, Scene, Surface
from .contact import contact_plans
from .drawn import AFAR, FilmPlan, drawn_plans, far_films, inside
from .ground_surfaces import PREFIX, all_chosen, chosen_slots, layer_plans, tells_surfaces_apart
from .growth import age, grown


def stack(scene: Scene, owner: str) -> list[tuple[str, PatinaPlan]]:
    """The visible patinas on any surface of an owner, lowest first.

    Below them lies what gathers at the foot of pieces, and below that the surfaces of the ground; on top drawn droplets.
    """
    found = [
        (plan.order, key, plan) for key, plan in scene.site.patinas.items() if plan.visible and uses_on(plan, owner)
    ]
    below = layer_plans(scene) if owner == GROUND else []
    laid = [(key, plan) for _, key, plan in sorted(found, key=lambda f: f[:2])]
    return [*below, *contact_plans(scene, owner), *laid, *drawn_plans(scene, owner)]


def context_of(scene: Scene, patina_id: str, plan: PatinaPlan) -> RuleContext:
    """The patina as its rules' measures see it."""
    return RuleContext(patina_id, scene.site.touches_of(patina_id), tuple(sorted(use.surface for use in plan.uses)))


def uses_on(plan: PatinaPlan, owner: str) -> list[PatinaUse]:
    """The surfaces of an owner that carry a patina."""
    return [use for use in plan.uses if use.surface.split("/")[0] == owner]


def _told_apart(scene: Scene, patina_id: str, owner: str) -> bool:
    """Does a patina ask which surface of the ground shows where?"""
    return owner == GROUND and not patina_id.startswith(PREFIX) and bool(scene.site.ground.layers)


def _shares(
    scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, points: Points, known: Ref[Points] | None
) -> np.ndarray:
    """(N,) how far each point's surface carries the patina."""
    uses = sorted(uses_on(plan, owner), key=lambda use: use.surface)
    context = context_of(scene, patina_id, plan)
    out = np.zeros(len(points), np.float32)
    apart = _told_apart(scene, patina_id, owner)
    names = scene.local_mesh(owner).slot_names
    for use in uses:
        slot = use.surface.split("/", 1)[1]
        there = np.full(len(points), use.amount, np.float32)
        if apart:
            there *= surface_share(scene, owner, points, [use.surface])
        else:
            there *= points.slots == (names.index(slot) if slot in names else -1)
        for rule in use.rules:
            if rule.active and rule.strength > 0:
                apply_rule(there, rule.gate, rule.strength, measure(scene, owner, points, rule, context, known))
        out += there
    return out


def cover_needs(scene: Scene, owner: str, patina_id: str, plan: PatinaPlan) -> list[Any]:
    """What one patina's cover on an owner hangs on beside how fine it is worked out."""
    context = context_of(scene, patina_id, plan)
    with scene.asking(patina_id, plan.name):
        uses = uses_on(plan, owner)
        asked = [*plan.rules, *(rule for use in uses for rule in use.rules)]
        rules = [rule_needs(scene, owner, rule, context) for rule in asked]
    below = shares.ref(scene) if _told_apart(scene, patina_id, owner) else None
    # Where else it lies is nothing to this owner.
    settings = plan.model_dump(include={"amount", "rules", "pace", "regions"})
    return [
        settings,
        [use.model_dump() for use in uses],
        age(scene, plan),
        context.touches,
        rules,
        scene.mesh.ref(owner),
        below,
    ]


def _cover_needs(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, resolution: int) -> list[Any]:
    return [scene.table.ref(owner, resolution), *cover_needs(scene, owner, patina_id, plan)]


@PATINA_COVER.fills
@derived(_cover_needs)
def cover(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, resolution: int) -> np.ndarray:
    """(N,) float32 cover of one patina at the owner's texels; 0 on slots that do not carry it."""
    known = scene.texel_points.ref(owner, resolution)
    return cover_at(scene, patina_id, plan, owner, scene.table(owner, resolution).points, known)


def cover_at(
    scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, points: Points, known: Ref[Points] | None = None
) -> np.ndarray:
    """(N,) float32 cover of one patina at points of an owner; where they are `known`, measures are kept."""
    amount = np.ones(len(points), np.float32)
    context = context_of(scene, patina_id, plan)
    for rule in plan.rules:
        if rule.active and rule.strength > 0:
            apply_rule(amount, rule.gate, rule.strength, measure(scene, owner, points, rule, context, known))
    years = age(scene, plan)
    amount = np.float32(plan.amount) * (amount if years is None else grown(amount, years, plan.pace))
    by_paint = any(isinstance(rule, PaintedRule) and rule.active for rule in plan.rules)
    if context.touches and not by_paint:
        apply_touches(amount, scene.to_local(owner, points.positions), owner, context.touches, scene.size(owner))
    if isinstance(plan, FilmPlan):
        amount = (amount * inside(plan.regions, points.positions.astype(np.float64))).astype(np.float32)
    return amount * _shares(scene, patina_id, plan, owner, points, known)


def _stacked(scene: Scene, owner: str, limit: int) -> list[Any]:
    resolution = scene.resolution(owner, limit)
    covers = [cover.ref(scene, key, plan, owner, resolution) for key, plan in stack(scene, owner)]
    return [scene.table.ref(owner, resolution), covers]


@derived(_stacked)
def owner_covers(scene: Scene, owner: str, limit: int) -> np.ndarray:
    """(P, R, R) float32: the covers of all patinas on an owner, lowest first, gaps filled."""
    resolution = scene.resolution(owner, limit)
    table = scene.table(owner, resolution)
    maps = [table.spread(cover(scene, key, plan, owner, resolution)) for key, plan in stack(scene, owner)]
    return np.stack(maps) if maps else np.zeros((0, resolution, resolution), np.float32)


def saved_covers(scene: Scene, owner: str) -> np.ndarray:
    """The covers of an owner as they are drawn, kept for other processes and later days too."""
    return owner_covers.ref(scene, owner, VIEW_LIMIT).value(keep="disk")


SHARE_LIMIT = 256
"""Texels along a side that the share covered is told from."""


def _covered(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str) -> Any:
    return cover.ref(scene, patina_id, plan, owner, scene.resolution(owner, SHARE_LIMIT))


@derived(_covered, keep="disk")
def _shares_covered(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str) -> np.ndarray:
    """(S,) mean cover of each of an owner's surfaces, by area."""
    resolution = scene.resolution(owner, SHARE_LIMIT)
    points = scene.table(owner, resolution).points
    slots, areas = points.slots, points.areas.astype(np.float64)
    covered = cover(scene, patina_id, plan, owner, resolution) * areas
    count = int(slots.max()) + 1 if len(slots) else 0
    whole = np.bincount(slots, areas, count)
    return np.bincount(slots, covered, count) / np.maximum(whole, 1e-12)


def share_covered(scene: Scene, patina_id: str, plan: PatinaPlan, surface: Surface) -> float:
    """Mean cover of one surface, 0..1, by area; kept for all surfaces of its owner at once."""
    found = _shares_covered(scene, patina_id, plan, surface.owner)
    return float(found[surface.index]) if surface.index < len(found) else 0.0


def _laid_over(scene: Scene) -> list[Any]:
    resolution = scene.resolution(GROUND, VIEW_LIMIT)
    return [(key, cover.ref(scene, key, plan, GROUND, resolution)) for key, plan in layer_plans(scene)]


@derived(_laid_over)
def shares(scene: Scene) -> dict[str, np.ndarray]:
    """(R, R) float32 visible share of every surface of the ground by its slot name; they sum to 1."""
    table = scene.table(GROUND, scene.resolution(GROUND, VIEW_LIMIT))
    left = np.ones((table.resolution, table.resolution), np.float32)
    out: dict[str, np.ndarray] = {}
    for key, plan in reversed(layer_plans(scene)):
        amount = np.clip(table.spread(cover(scene, key, plan, GROUND, table.resolution)), 0, 1)
        out[key.removeprefix(PREFIX)] = left * amount
        left = left * (1 - amount)
    out[GROUND_SLOT] = left
    return out


def share_refs(scene: Scene, refs: Sequence[str]) -> list[Any]:
    """What `surface_share` hangs on, whatever the points."""
    return [shares.ref(scene)] if tells_surfaces_apart(scene, refs) else []


def surface_share(scene: Scene, owner: str, points: Points, refs: Sequence[str]) -> np.ndarray | float:
    """(N,) how much of the chosen surfaces lies at points of the ground; 1 where all or none are told apart."""
    chosen = chosen_slots(refs)
    if owner != GROUND or all_chosen(scene, chosen):
        return 1.0
    maps = shares(scene)
    total = sum(sample_map(maps[slot], points.uv2) for slot in sorted(chosen & set(maps)))
    return np.asarray(total, np.float32) if np.ndim(total) else np.zeros(len(points), np.float32)


def plate_stack(scene: Scene, owner: str) -> list[tuple[str, str, PatinaPlan]]:
    """What the plate lays on an owner: each one's name there, its key and its plan.

    The stack, and over it the films of droplets that it draws from afar alone.
    """
    films = [(AFAR + key, key, film) for key, film in far_films(scene, owner)]
    return [*((key, key, plan) for key, plan in stack(scene, owner)), *films]


def unlisted(scene: Scene) -> dict[str, PatinaPlan]:
    """What is laid like patinas without being any: the surfaces of the ground, what gathers at feet, droplets as films."""
    owners = scene.owners()
    feet = [plan for owner in owners for plan in contact_plans(scene, owner)]
    films = [(AFAR + key, film) for owner in owners for key, film in far_films(scene, owner)]
    drawn = [plan for owner in owners for plan in drawn_plans(scene, owner)]
    return dict([*layer_plans(scene), *feet, *drawn, *films])
