"""The mask of a drift: how much of its density its rules, strokes and keep-outs leave at the texels of a surface."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..graph.derived import derived
from ..patinas.cover import share_refs, surface_share
from ..plan import DriftPlan
from ..scene.measuring import rule_needs
from ..scene.scene import Scene
from .headroom import room_above
from .instancing import border_at, context_of, let_through
from .keepouts import free_space, keep_needs
from .places import clumped

MASK_LIMIT = 512
"""Texels along a side of a mask."""


def _needs(scene: Scene, drift_id: str, plan: DriftPlan, owner: str) -> list[Any]:
    context = context_of(scene, drift_id, plan)
    with scene.asking(drift_id, plan.name):
        rules = [rule_needs(scene, owner, rule, context) for rule in plan.rules]
    settings = plan.model_dump(
        include={"rules", "surfaces", "arrangement", "border", "headroom", "variety", "seed", "assets"}
    )
    solids = [scene.mesh.ref(piece) for piece in scene.owners()] if plan.headroom > 0 else []
    return [
        scene.table.ref(owner, scene.resolution(owner, MASK_LIMIT)), settings, context.touches, rules, solids,
        keep_needs(scene, plan), share_refs(scene, plan.surfaces),
    ]  # fmt: skip


@derived(_needs)
def drift_mask(scene: Scene, drift_id: str, plan: DriftPlan, owner: str) -> np.ndarray:
    """(R, R) float32 share of a drift's density allowed on an owner, 0..1, row 0 at v = 0, gaps filled."""
    resolution = scene.resolution(owner, MASK_LIMIT)
    table, context = scene.table(owner, resolution), context_of(scene, drift_id, plan)
    points, known = table.points, scene.texel_points.ref(owner, resolution)
    amount = let_through(scene, owner, points, plan.rules, context, known, True)
    how = plan.arrangement
    if how.clump > 0:
        amount *= clumped(points.positions, how.clump, how.tightness, plan.seed)
    if plan.border.width > 0:
        amount *= plan.border.density + (1 - plan.border.density) * border_at(scene, plan, owner, points.positions)
    amount *= surface_share(scene, owner, points, plan.surfaces)
    chosen = [s.index for s in scene.surfaces_of(owner) if s.ref in plan.surfaces]
    amount *= np.isin(points.slots, chosen)
    _close_off(scene, plan, owner, points.positions, amount)
    return table.spread(amount)


def _close_off(scene: Scene, plan: DriftPlan, owner: str, positions: np.ndarray, amount: np.ndarray) -> None:
    """Nothing stands where there is no headroom, or too near to what is kept out."""
    on = np.flatnonzero(amount > 0)
    if plan.headroom > 0:
        on = on[room_above(scene, owner, positions[on], plan.headroom)]
    feet, up = positions[on].astype(np.float64), np.tile([0.0, 1.0, 0.0], (len(on), 1))
    size = np.full(len(on), (plan.variety.size_min + plan.variety.size_max) / 2)
    free = np.ones(len(on), bool)
    if plan.assets:
        for keep in plan.keep_outs:
            free &= free_space(scene, plan, keep, feet, up, np.zeros(len(on), int), size) >= keep.clearance
    stays = np.zeros(len(amount), bool)
    stays[on[free]] = True
    amount[~stays] = 0.0
