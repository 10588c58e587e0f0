"""Painted: what the hand added or took away, stroke by stroke."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np

from ..base.kernels import parallel_kernel, prange
from ..base.names import GROUND
from ..mesh.mesh import Points
from .ask import Ask
from .items import Stroke
from .rule import SHARE, About, Rule

_MODES = {"more": 0, "less": 1, "erase": 2}


@parallel_kernel
def _stroke(
    amount: np.ndarray,
    points: np.ndarray,
    line: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    radius: float,
    strength: float,
    falloff: float,
    flat: bool,
    mode: int,
) -> None:
    core = radius * (1.0 - falloff)
    for n in prange(len(points)):
        x, y, z = points[n, 0], points[n, 1], points[n, 2]
        if x < low[0] or x > high[0] or z < low[2] or z > high[2]:
            continue
        if not flat and (y < low[1] or y > high[1]):
            continue
        best = radius * radius * 4.0
        for k in range(max(1, len(line) - 1)):
            k2 = min(k + 1, len(line) - 1)
            dx, dy, dz = line[k2, 0] - line[k, 0], line[k2, 1] - line[k, 1], line[k2, 2] - line[k, 2]
            px, py, pz = x - line[k, 0], y - line[k, 1], z - line[k, 2]
            if flat:
                dy, py = 0.0, 0.0
            length = dx * dx + dy * dy + dz * dz
            t = 0.0
            if length > 0:
                t = min(1.0, max(0.0, (px * dx + py * dy + pz * dz) / length))
            ex, ey, ez = px - t * dx, py - t * dy, pz - t * dz
            best = min(best, ex * ex + ey * ey + ez * ez)
        distance = np.sqrt(best)
        if distance >= radius:
            continue
        t = 1.0 if distance <= core else (radius - distance) / (radius - core)
        effect = strength * t * t * (3.0 - 2.0 * t)
        if mode == 0:
            amount[n] += (1.0 - amount[n]) * effect
        elif mode == 1:
            amount[n] *= 1.0 - effect
        else:
            amount[n] = 0.0


def apply_touches(
    amount: np.ndarray, local_positions: np.ndarray, owner: str, touches: Sequence[Stroke], size: float = 1.0
) -> None:
    """Apply hand strokes, in the order they were made, to an amount (N,) float32 in place.

    Painting more closes the gap to 1 by strength × falloff, thinning keeps 1 − strength × falloff of what is
    there, erasing leaves nothing within the radius. The falloff is a smoothstep between the hard core and the rim. On the ground distances are taken
    in plan, so that strokes stay with their place when the ground is raised or lowered under them.

    Parameters
    ----------
    local_positions : (N, 3) float32
        In the owner's own coordinates: strokes move with the piece they lie on.
    size : float
        The owner's enlargement. A stroke's path grows with its piece; its radius stays in metres of the site.
    """
    scaled = local_positions if size == 1.0 else (local_positions * np.float32(size))
    for touch in touches:
        if touch.owner != owner or touch.action not in _MODES:
            continue
        line = np.asarray(touch.points, np.float64).reshape(-1, 3) * size
        _stroke(
            amount,
            scaled,
            line,
            line.min(axis=0) - touch.radius,
            line.max(axis=0) + touch.radius,
            touch.radius,
            touch.strength,
            touch.falloff,
            owner == GROUND,
            _MODES[touch.action],
        )


def painted(local_positions: np.ndarray, owner: str, touches: Sequence[Stroke], size: float = 1.0) -> np.ndarray:
    """(N,) float32: the painted amount by itself, starting from nothing."""
    amount = np.zeros(len(local_positions), np.float32)
    apply_touches(amount, local_positions, owner, touches, size)
    return amount


class PaintedRule(Rule):
    """Where the item has been painted by hand, 0 to 1."""

    measure: Literal["painted"] = "painted"
    # Every stroke in motion would leave another set of values behind.
    kept: ClassVar[bool] = False
    about: ClassVar[About] = About(
        "painted", SHARE, "only where painted by hand", "paint", (0, 1, 1, 1), place=170, span=(0, 1), cuts=False
    )

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return painted(ask.to_local(at.positions), ask.owner, ask.touches, ask.size())
