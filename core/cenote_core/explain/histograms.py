"""Histograms of what rules measure, for the gates in sheets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..measures.distance import FAR
from ..plan import Rule
from ..rules import histogram
from ..scene.measuring import RuleContext, measure
from ..scene.scene import Scene, Surface
from ..scene.sight import seen

_SIDE = 256
"""Texels along a side that are counted."""


@dataclass(frozen=True)
class Sight:
    """What of the surfaces counts: only what is seen from a place.

    Attributes
    ----------
    position, target : metres
    lens : focal length for a picture 36 mm wide, millimetres
    aspect : width to height
    """

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    lens: float
    aspect: float


def rule_histograms(
    scene: Scene, context: RuleContext, rules: Sequence[Rule], sight: Sight | None = None
) -> list[dict[str, Any]]:
    """For each rule: the area-weighted histogram of its measure over the context's surfaces and the share let through.

    Parameters
    ----------
    sight : count only what is seen from there; None: all
    """
    surfaces = [s for s in scene.surfaces() if s.ref in context.surfaces]
    out: list[dict[str, Any]] = []
    counted = {owner: _counted(scene, owner, surfaces, sight) for owner in sorted({s.owner for s in surfaces})}
    for rule in rules:
        values, areas = [], []
        for owner, on in counted.items():
            table = scene.table(owner, scene.resolution(owner, _SIDE))
            known = scene.texel_points.ref(owner, table.resolution)
            measured = measure(scene, owner, table.points, rule, context, known)
            values.append(measured[on])
            areas.append(table.points.areas[on])
        every = np.concatenate(values) if values else np.zeros(0, np.float32)
        weight = np.concatenate(areas) if areas else np.zeros(0, np.float32)
        result = histogram(every, weight, rule.gate, _span(rule, every))
        out.append(
            {
                "edges": result.edges.tolist(),
                "areas": result.areas.tolist(),
                "passed": result.passed.tolist(),
                "share": result.share,
            }
        )
    return out


def _counted(scene: Scene, owner: str, surfaces: Sequence[Surface], sight: Sight | None) -> np.ndarray:
    """(N,) bool: the texels of an owner that a histogram counts."""
    points = scene.table(owner, scene.resolution(owner, _SIDE)).points
    on = np.isin(points.slots, [s.index for s in surfaces if s.owner == owner])
    return on if sight is None else on & seen(scene, points, sight, sight.aspect)


def _span(rule: Rule, values: np.ndarray) -> tuple[float, float]:
    """The range a histogram shows: fixed for shares and angles, for metres what occurs and the gate asks for."""
    if rule.about.span is not None:
        return rule.about.span
    gate = rule.gate
    known = values[np.abs(values) < FAR * 0.99]
    low, high = (float(known.min()), float(known.max())) if len(known) else (0.0, 1.0)
    if rule.about.distance:
        asked = [v for v in (gate.rise_end, gate.fall_start, gate.fall_end) if abs(v) < 200]
        low, high = min(low, 0.0), min(high, max(2.5 * max([abs(v) for v in asked] or [4.0]), 2.0))
    step = rule.about.step
    low, high = min(low, 0.0), max(high, low + 0.5)
    return float(np.floor(low / step) * step), float(np.ceil(high / step) * step)
