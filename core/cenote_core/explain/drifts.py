"""Why a drift stands at a spot, or what stops it there: rule by rule, with the numbers."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from ..base.names import GROUND
from ..drifts.headroom import room_above
from ..drifts.instancing import border_at, build_instances, context_of
from ..drifts.keepouts import PATHS, PIECES, STATIONS, free_space
from ..drifts.litter import litter_at
from ..drifts.places import clumped, places_of
from ..mesh.mesh import Points
from ..patinas.cover import surface_share
from ..plan import DriftPlan
from ..scene.scene import Scene
from .verdict import Line, Verdict, by_hand, rule_lines

_NO_LITTER = 0.01
"""Share of the density under which no litter counts as coming down."""
_NEAR = 0.25
"""A plant this near to the spot (or within half its spacing) counts as standing there, metres."""


def drift_verdict(scene: Scene, key: str, plan: DriftPlan, owner: str, points: Points) -> Verdict:
    """Does a drift stand at a spot, and why, or why not?"""
    slots = {s.index: s for s in scene.surfaces_of(owner) if not s.layer}
    here = slots[int(points.slots[0])]
    chosen = [ref for ref in plan.surfaces if ref.split("/")[0] == owner]
    on = any(ref == here.ref for ref in chosen) or (owner == GROUND and bool(chosen))
    if not on:
        return Verdict(key, "drift", plan.name, False, f"It does not stand on {here.label}.", [])
    context = context_of(scene, key, plan)
    lines, amount = rule_lines(scene, plan.rules, context, owner, points)
    amount = by_hand(scene, plan.rules, context, owner, points, amount, lines)
    share = float(np.asarray(surface_share(scene, owner, points, plan.surfaces)).ravel()[0])
    if share < 0.995:
        lines.append(Line("surface", share, share, f"{share:.0%} of the ground here is one of its surfaces"))
        amount *= share
    if plan.border.width > 0:
        inside = float(border_at(scene, plan, owner, points.positions)[0])
        left = plan.border.density + (1 - plan.border.density) * inside
        if left < 0.995:
            lines.append(
                Line("border", left, left, f"near the border of its surfaces {left:.0%} of the density is left")
            )
            amount *= left
    if plan.arrangement.clump > 0:
        how = plan.arrangement
        left = float(clumped(points.positions, how.clump, how.tightness, plan.seed)[0])
        lines.append(Line("clumps", left, left, f"clumps leave {left:.0%} here"))
        amount *= left
    blocked = _space_lines(scene, owner, plan, points, lines)
    return _concluded(scene, key, plan, points, lines, amount, blocked)


def _space_lines(scene: Scene, owner: str, plan: DriftPlan, points: Points, lines: list[Line]) -> str:
    """Headroom and keep-outs; returns what blocks the spot, or nothing."""
    at = points.positions.astype(np.float64)
    blocked = ""
    if plan.headroom > 0 and not room_above(scene, owner, points.positions, plan.headroom)[0]:
        blocked = f"less than {plan.headroom:g} m of headroom"
        lines.append(Line("headroom", None, 0.0, blocked))
    size = np.array([(plan.variety.size_min + plan.variety.size_max) / 2])
    for keep in plan.keep_outs:
        free = free_space(scene, plan, keep, at, np.array([[0.0, 1.0, 0.0]]), np.zeros(1, int), size)[0]
        if free < keep.clearance:
            name = _keep_name(scene, keep.of)
            text = f"{name}: {free:.2f} m free, {keep.clearance:g} m wanted"
            lines.append(Line("keep-out", float(free), 0.0, text, "m"))
            blocked = blocked or f"too near to {name}"
    return blocked


def _keep_name(scene: Scene, of: str) -> str:
    if of == PIECES:
        return "a piece"
    if of == PATHS:
        return "a path"
    if of == STATIONS:
        return "a camera's view"
    found = scene.site.pieces.get(of) or scene.site.drifts.get(of)
    return found.name if found else of


def _concluded(
    scene: Scene, key: str, plan: DriftPlan, points: Points, lines: list[Line], amount: float, blocked: str
) -> Verdict:
    found = build_instances(scene, key, plan)
    distance = np.inf
    if len(found):
        distance, _ = cKDTree(found.position).query(points.positions[0])
    if distance <= max(_NEAR, plan.spacing / 2):
        return Verdict(key, "drift", plan.name, True, f"One stands {distance:.2f} m from here.", lines)
    if blocked:
        return Verdict(key, "drift", plan.name, False, f"Stopped: {blocked}.", lines)
    stoppers = [line for line in lines if line.allows <= 0.001]
    if stoppers:
        return Verdict(key, "drift", plan.name, False, f"Stopped by {stoppers[0].what}: {stoppers[0].text}.", lines)
    density = min(plan.density, places_of(scene, plan).full) * amount
    if plan.litter.on:
        lies = litter_at(scene, plan, points)
        lines.append(Line("litter", lies, lies, f"what stands near by sheds enough for {lies:.0%} of its density here"))
        if lies <= _NO_LITTER:
            text = "Nothing that sheds stands where the wind would bring it here."
            return Verdict(key, "drift", plan.name, False, text, lines)
        density *= lies
    text = f"Allowed at {density:.2g} per m²; the nearest stands {distance:.1f} m away" if np.isfinite(distance) else ""
    text = text or f"Allowed at {density:.2g} per m², but no place of the spacing falls here"
    return Verdict(
        key, "drift", plan.name, False, f"{text}: chance and the spacing of {plan.spacing:g} m left this spot.", lines
    )
