"""Brush strokes on the ground: raise, lower, smooth, flatten, roughen, erode. Each works in its own window only."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter

from ..base.noise import noise
from ..hashing import text_seed
from ..plan import TouchPlan
from .forms import line_distance

ACTIONS = ("raise", "lower", "smooth", "flatten", "roughen", "erode")
_REPOSE = np.tan(np.radians(33.0))
"""Loose soil comes to rest below about this slope."""
_ROUNDS = 24


def sculpt(y: np.ndarray, x: np.ndarray, z: np.ndarray, stroke: TouchPlan) -> np.ndarray:
    """The heights after one stroke.

    Parameters
    ----------
    y : (R, C) heights, metres; not changed
    x, z : (C,), (R,) coordinates of columns and rows, metres
    """
    line = np.array([(p[0], p[2]) for p in stroke.points], float)
    if len(line) == 1:
        line = np.repeat(line, 2, axis=0)
    reach = stroke.radius
    columns = _window(x, line[:, 0].min() - reach, line[:, 0].max() + reach)
    rows = _window(z, line[:, 1].min() - reach, line[:, 1].max() + reach)
    if columns.stop <= columns.start or rows.stop <= rows.start:
        return y
    gx, gz = np.meshgrid(x[columns], z[rows])
    weight = brush_weight(line_distance(gx, gz, line), stroke)
    out = y.copy()
    part = out[rows, columns]
    cell = float(x[1] - x[0])
    if stroke.action == "raise":
        part += weight * stroke.amount
    elif stroke.action == "lower":
        part -= weight * stroke.amount
    elif stroke.action == "flatten":
        part += (stroke.level - part) * weight
    elif stroke.action == "smooth":
        part += (gaussian_filter(part, max(0.6, reach / 3 / cell), mode="nearest") - part) * weight
    elif stroke.action == "roughen":
        flat = np.column_stack([gx.ravel(), np.zeros(gx.size), gz.ravel()])
        rough = noise(flat, max(reach * 0.6, 3 * cell), 5, _seed_of(stroke)).reshape(gx.shape)
        part += (rough - 0.5) * 2.0 * weight * stroke.amount
    elif stroke.action == "erode":
        part += (_slumped(part, cell) - part) * weight
    return out


def brush_weight(distance: np.ndarray, stroke: TouchPlan) -> np.ndarray:
    """0..strength by distance from the stroke's middle: full inside the core, smooth to nothing at the radius."""
    core = stroke.radius * (1.0 - stroke.falloff)
    t = np.clip((stroke.radius - distance) / max(stroke.radius - core, 1e-9), 0.0, 1.0)
    t = np.where(distance >= stroke.radius, 0.0, np.where(distance <= core, 1.0, t))
    return np.asarray(stroke.strength * t * t * (3.0 - 2.0 * t))


def _seed_of(stroke: TouchPlan) -> int:
    """A seed from when and where the stroke was made: its name may change, its ground must not."""
    return text_seed(f"{stroke.order} {stroke.points[0]}") % 999_983


def _window(axis: np.ndarray, low: float, high: float) -> slice:
    return slice(int(np.searchsorted(axis, low)), int(np.searchsorted(axis, high, side="right")))


def _slumped(y: np.ndarray, cell: float) -> np.ndarray:
    """Thermal erosion: what is steeper than the slope of repose slides to its lower neighbours, mass is kept.

    Musgrave, Kolb and Mace, *The synthesis and rendering of eroded fractal terrains* (1989), without water.
    """
    y = y.copy()
    steps = ((0, 1), (1, 0), (0, -1), (-1, 0))
    for _ in range(_ROUNDS):
        moved = np.zeros_like(y)
        for dr, dc in steps:
            here, there = _pair(y, dr, dc)
            excess = np.maximum(y[here] - y[there] - _REPOSE * cell, 0.0) * 0.125
            moved[here] -= excess
            moved[there] += excess
        y += moved
    return y


def _pair(y: np.ndarray, dr: int, dc: int) -> tuple[tuple[slice, slice], tuple[slice, slice]]:
    """Slices of all places that have a neighbour in a direction, and of those neighbours."""

    def ends(step: int, size: int) -> tuple[slice, slice]:
        return slice(max(0, -step), size - max(0, step)), slice(max(0, step), size - max(0, -step))

    rows, columns = ends(dr, y.shape[0]), ends(dc, y.shape[1])
    return (rows[0], columns[0]), (rows[1], columns[1])
