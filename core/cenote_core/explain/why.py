"""Why here: at one spot, what lets each drift stand there or stops it, rule by rule, with the numbers."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from scipy.spatial import cKDTree

from ..base.names import GROUND
from ..drifts.headroom import room_above
from ..drifts.instancing import build_instances, context_of
from ..drifts.keepouts import PATHS, PIECES, STATIONS, free_space
from ..drifts.places import clumped, places_of
from ..errors import CenoteError
from ..graph.derived import derived
from ..measures.painted import PaintedRule, apply_touches
from ..mesh.mesh import Points
from ..mesh.nearest import NearestTree, triangle_tree
from ..patinas.cover import surface_share
from ..plan import DriftPlan
from ..rules import gate_response
from ..scene.measuring import measure
from ..scene.scene import Scene

_NEAR = 0.25
"""A plant this near to the spot (or within half its spacing) counts as standing there, metres."""


@dataclass(frozen=True)
class Line:
    """One reason: what was measured, what it allows, and the sentence."""

    what: str
    value: float | None
    allows: float
    text: str


@dataclass(frozen=True)
class Verdict:
    """One drift at the spot."""

    drift: str
    name: str
    stands: bool
    summary: str
    lines: list[Line] = field(default_factory=list)


@derived(lambda scene, owner: scene.mesh.ref(owner))
def _tree(scene: Scene, owner: str) -> NearestTree:
    mesh = scene.mesh(owner)
    return triangle_tree(mesh.positions, mesh.faces)


def points_at(scene: Scene, owner: str, point: np.ndarray) -> Points:
    """The place on an owner's surface nearest to a point (3,), with what measures need to know about it."""
    mesh = scene.mesh(owner)
    tree = _tree(scene, owner)
    _, which = tree.nearest(point[None], 50.0)
    face = int(which[0])
    if face < 0:
        raise CenoteError("There is no surface at that spot.")
    corner = mesh.faces[face]
    a, b, c = mesh.positions[corner].astype(np.float64)
    e1, e2, d = b - a, c - a, point - a
    # Barycentric weights of the projection (Ericson 2005, 3.4).
    d11, d12, d22, p1, p2 = e1 @ e1, e1 @ e2, e2 @ e2, d @ e1, d @ e2
    det = max(d11 * d22 - d12 * d12, 1e-20)
    v, w = (d22 * p1 - d12 * p2) / det, (d11 * p2 - d12 * p1) / det
    weights = np.clip([1 - v - w, v, w], 0, 1)
    weights /= weights.sum()
    blend = lambda values: (weights @ values[corner])[None].astype(np.float32)  # noqa: E731
    normal = blend(mesh.normals)
    normal /= max(float(np.linalg.norm(normal)), 1e-9)
    uv2 = blend(mesh.uv2) if mesh.uv2 is not None else np.zeros((1, 2), np.float32)
    return Points(blend(mesh.positions), normal, uv2, mesh.slots[[face]], np.ones(1, np.float32))


def why_here(scene: Scene, owner: str, point: np.ndarray) -> list[Verdict]:
    """Every visible drift's verdict at a spot, those that stand there first."""
    if owner not in scene.owners():
        raise CenoteError("That surface is no longer on the site.")
    points = points_at(scene, owner, point.astype(np.float64))
    out = []
    for key, plan in sorted(scene.site.drifts.items()):
        if plan.visible and plan.assets:
            out.append(_verdict(scene, key, plan, owner, points))
    return sorted(out, key=lambda v: not v.stands)


def _verdict(scene: Scene, key: str, plan: DriftPlan, owner: str, points: Points) -> Verdict:
    slots = {s.index: s for s in scene.surfaces() if s.owner == owner and not s.layer}
    here = slots[int(points.slots[0])]
    chosen = [ref for ref in plan.surfaces if ref.split("/")[0] == owner]
    on = any(ref == here.ref for ref in chosen) or (owner == GROUND and bool(chosen))
    if not on:
        return Verdict(key, plan.name, False, f"It does not stand on {here.label}.", [])
    lines, amount = _rule_lines(scene, key, plan, owner, points)
    share = float(np.asarray(surface_share(scene, owner, points, plan.surfaces)).ravel()[0])
    if share < 0.995:
        lines.append(Line("surface", share, share, f"{share:.0%} of the ground here is one of its surfaces"))
        amount *= share
    if plan.arrangement.clump > 0:
        how = plan.arrangement
        left = float(clumped(points.positions, how.clump, how.tightness, plan.seed)[0])
        lines.append(Line("clumps", left, left, f"clumps leave {left:.0%} here"))
        amount *= left
    blocked = _space_lines(scene, owner, plan, points, lines)
    return _concluded(scene, key, plan, points, lines, amount, blocked)


def _rule_lines(scene: Scene, key: str, plan: DriftPlan, owner: str, points: Points) -> tuple[list[Line], float]:
    context = context_of(scene, key, plan)
    lines, amount = [], 1.0
    for rule in plan.rules:
        value = float(measure(scene, owner, points, rule, context)[0])
        opened = float(gate_response(rule.gate, np.array([value], np.float32))[0])
        allows = 1 - rule.strength + rule.strength * opened if rule.active else 1.0
        gate = rule.gate
        if not rule.active:
            text = "switched off"
        elif opened >= 1:
            text = "lets all through"
        elif value < gate.rise_start or (value < gate.rise_end and opened == 0):
            text = f"too low: starts at {gate.rise_start:g}"
        elif value > gate.fall_end:
            text = f"too high: ends at {gate.fall_end:g}"
        else:
            text = f"lets {opened:.0%} through"
        lines.append(Line(rule.measure, value, allows, text))
        amount *= allows
    by_paint = any(isinstance(r, PaintedRule) and r.active for r in plan.rules)
    if context.touches and not by_paint:
        part = np.array([amount], np.float32)
        apply_touches(part, scene.to_local(owner, points.positions), owner, context.touches, scene.size(owner))
        if abs(float(part[0]) - amount) > 0.005:
            word = "painted" if part[0] > amount else "thinned"
            lines.append(Line("by hand", None, float(part[0]), f"{word} by hand: {amount:.0%} became {part[0]:.0%}"))
        amount = float(part[0])
    return lines, amount


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
            lines.append(Line("keep-out", float(free), 0.0, text))
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
        return Verdict(key, plan.name, True, f"One stands {distance:.2f} m from here.", lines)
    if blocked:
        return Verdict(key, plan.name, False, f"Stopped: {blocked}.", lines)
    stoppers = [line for line in lines if line.allows <= 0.001]
    if stoppers:
        return Verdict(key, plan.name, False, f"Stopped by {stoppers[0].what}: {stoppers[0].text}.", lines)
    density = min(plan.density, places_of(scene, plan).full) * amount
    if plan.litter.on:
        return Verdict(key, plan.name, False, "Nothing that sheds stands where the wind would bring it here.", lines)
    text = f"Allowed at {density:.2g} per m²; the nearest stands {distance:.1f} m away" if np.isfinite(distance) else ""
    text = text or f"Allowed at {density:.2g} per m², but no place of the spacing falls here"
    return Verdict(
        key, plan.name, False, f"{text}: chance and the spacing of {plan.spacing:g} m left this spot.", lines
    )
