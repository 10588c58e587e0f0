"""Rain exposure: how much of the rain that falls on open ground lands on a place, for a prevailing wind."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.compass import compass
from ..base.fields import quantity
from ..mesh.mesh import Points
from ..mesh.rays import RayScene
from .ask import Trace
from .rule import SHARE, About
from .sky import REACH
from .traced import TracedRule

FALL = 6.5
"""Metres a second that drops of two millimetres fall (Gunn and Kinzer 1949)."""
_SHOWERS = 5
"""Directions each way that gusts spread the rain over."""
_LIFT = 2e-3
"""Metres by which a ray leaves its surface."""


def showers(wind_from: float, wind: float, gusts: float) -> tuple[np.ndarray, np.ndarray]:
    """Directions rain comes from, (K, 3) unit, and the share each has of it, (K,).

    Rain slants by wind speed over fall speed. Gusts spread the speed evenly by up to their share, and the bearing by
    up to twenty degrees at full gusts.
    """
    steps = (np.arange(_SHOWERS) + 0.5) / _SHOWERS * 2 - 1 if gusts > 0 else np.zeros(1)
    speed, turn = (m.ravel() for m in np.meshgrid(wind * (1 + gusts * steps), wind_from + 20 * gusts * steps))
    level = np.stack([compass(bearing) for bearing in turn]) * (speed / FALL)[:, None]
    toward = np.column_stack([level[:, 0], np.ones(len(level)), level[:, 1]])
    return toward / np.linalg.norm(toward, axis=1, keepdims=True), np.full(len(toward), 1 / len(toward))


def rain(
    scene: RayScene, positions: np.ndarray, normals: np.ndarray, wind_from: float, wind: float, gusts: float
) -> np.ndarray:
    """(N,) float32 of the rain that lands on open level ground, by area; up to 1.

    Through a level square metre falls 1; a surface turned by θ from where the rain comes from catches cos θ over the
    cosine of the rain's own slant (driving rain by the cosine projection: Lacy 1965, ISO 15927-3).
    """
    out = np.zeros(len(positions))
    start = (positions + normals * np.float32(_LIFT)).astype(np.float32)
    for toward, share in zip(*showers(wind_from, wind, gusts), strict=True):
        caught = np.maximum(normals.astype(np.float64) @ toward, 0.0) / toward[1]
        some = np.flatnonzero(caught > 0)
        out[some] += share * caught[some] * scene.open_toward(start[some], toward, REACH)
    return np.minimum(out, 1.0).astype(np.float32)


def _trace(rays: RayScene, points: Points, reach: float, *settings: float) -> np.ndarray:
    wind_from, wind, gusts = settings
    return rain(rays, points.positions, points.normals, wind_from, wind, gusts)


class RainRule(TracedRule):
    """How much rain lands on it, against open level ground: 1 in the open, 0 where it stays dry."""

    measure: Literal["rain"] = "rain"
    toward: float = quantity(
        250.0, 0.0, 360.0, "°", "Where the rain mostly comes from, clockwise from north.", 5, "comes from",
        (0, 360, 1), bearing=True,
    )  # fmt: skip
    wind: float = quantity(4.0, 0.0, 30.0, "m/s", "Speed of the wind while it rains.", 0.5, "wind", (0, 15, 1))
    gusts: float = quantity(0.4, 0.0, 1.0, "", "How far gusts spread the rain.", 0.05, "gusts", (0, 1, 1))
    about: ClassVar[About] = About(
        "rain exposure", SHARE, "how much rain lands on it, by the wind it comes with", "rain", (0.15, 0.5, 1, 1),
        place=62, span=(0, 1), soft=0.15, badge="from {toward}", more="wind",
    )  # fmt: skip

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        return _trace, REACH, (self.toward, self.wind, self.gusts)
