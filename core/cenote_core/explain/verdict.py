"""Reasons at one spot: a line a rule, and what they come to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..errors import CenoteError
from ..graph.derived import derived
from ..measures import MEASURES
from ..measures.distance import ABSENT, absent
from ..measures.painted import PaintedRule, apply_touches
from ..mesh.mesh import Points
from ..mesh.nearest import NearestTree, triangle_tree
from ..plan import Rule
from ..rules import gate_response
from ..scene.measuring import RuleContext, measure
from ..scene.scene import Scene

_TOLD = 0.005
"""Strokes that change an amount by less are not worth a line."""


@dataclass(frozen=True)
class Line:
    """One reason: what was measured, in its unit (a share without one), what it allows, and the sentence."""

    what: str
    value: float | None
    allows: float
    text: str
    unit: str = ""


@dataclass(frozen=True)
class Verdict:
    """One drift, patina or decal at the spot; `stands` says whether it is there."""

    item: str
    kind: str
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


def rule_lines(
    scene: Scene, rules: Sequence[Rule], context: RuleContext, owner: str, points: Points
) -> tuple[list[Line], float]:
    """A line for each rule of an item, and what all of them leave together, 0..1."""
    lines, amount = [], 1.0
    for rule in rules:
        value = float(measure(scene, owner, points, rule, context)[0])
        opened = float(gate_response(rule.gate, np.array([value], np.float32))[0])
        allows = 1 - rule.strength + rule.strength * opened if rule.active else 1.0
        gate = rule.gate
        if not rule.active:
            text = "switched off"
        elif absent(rule, value):
            text = ABSENT + (": lets all through" if opened >= 1 else "")
        elif opened >= 1:
            text = "lets all through"
        elif value < gate.rise_start or (value < gate.rise_end and opened == 0):
            text = f"too low: starts at {gate.rise_start:g}"
        elif value > gate.fall_end:
            text = f"too high: ends at {gate.fall_end:g}"
        else:
            text = f"lets {opened:.0%} through"
        lines.append(Line(rule.measure, value, allows, text, MEASURES[rule.measure].about.unit))
        amount *= allows
    return lines, amount


def by_hand(
    scene: Scene,
    rules: Sequence[Rule],
    context: RuleContext,
    owner: str,
    points: Points,
    amount: float,
    lines: list[Line],
) -> float:
    """What strokes make of an amount, with a line that says so."""
    by_paint = any(isinstance(r, PaintedRule) and r.active for r in rules)
    if not context.touches or by_paint:
        return amount
    part = np.array([amount], np.float32)
    apply_touches(part, scene.to_local(owner, points.positions), owner, context.touches, scene.size(owner))
    if abs(float(part[0]) - amount) > _TOLD:
        word = "painted" if part[0] > amount else "thinned"
        lines.append(Line("by hand", None, float(part[0]), f"{word} by hand: {amount:.0%} became {part[0]:.0%}"))
    return float(part[0])
