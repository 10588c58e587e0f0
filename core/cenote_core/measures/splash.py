"""Splash: how far drops that strike the ground throw mud up a wall."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import quantity
from ..mesh.mesh import Points
from ..mesh.rays import RayScene
from .ask import Trace
from .rule import SHARE, About
from .sky import REACH
from .traced import TracedRule

_SPREAD = (-35.0, 0.0, 35.0)
"""Degrees from straight out of the wall in which it is looked for the ground."""
_RUN = 0.35
"""Drops are looked for where a line that runs out so far for each metre down meets the ground."""
_LEVEL = 0.5
"""Least upward part of the normal of what drops rebound from."""
_DRIP, _OUT = 1.6, 0.3
"""Below an edge that drips they rise so many times as high; an edge is one where so many metres further out it is open."""
_UPRIGHT = 0.7
"""Surfaces that face up more than this are what is splashed from."""
_LIFT = 2e-3


def splash(scene: RayScene, positions: np.ndarray, normals: np.ndarray, reach: float) -> np.ndarray:
    """(N,) float32: 1 at the foot of a wall over ground that gets rain, (1 − h / reach)² at a height h over it.

    Rebound falls with the square of what is left of its greatest height, as drops thrown up lose it to gravity.
    """
    out = np.zeros(len(positions))
    level = normals * np.array([1.0, 0.0, 1.0], np.float32)
    length = np.linalg.norm(level, axis=1)
    some = np.flatnonzero((normals[:, 1] < _UPRIGHT) & (length > 0.1))
    start = positions[some] + normals[some] * np.float32(_LIFT)
    straight = level[some] / length[some, None]
    for turn in np.radians(_SPREAD):
        c, s = np.cos(turn), np.sin(turn)
        outward = np.column_stack([c * straight[:, 0] - s * straight[:, 2], s * straight[:, 0] + c * straight[:, 2]])
        down = np.column_stack([outward[:, 0] * _RUN, -np.ones(len(some)), outward[:, 1] * _RUN])
        met = scene.meet(start, down / np.linalg.norm(down, axis=1, keepdims=True), reach * _DRIP * 1.2)
        at = met.positions + np.array([0.0, 0.01, 0.0])
        aside = at + np.column_stack([outward[:, 0], np.zeros(len(some)), outward[:, 1]]) * _OUT
        up = np.array([0.0, 1.0, 0.0])
        open_here, open_aside = (scene.open_toward(p.astype(np.float32), up, REACH) > 0 for p in (at, aside))
        thrown = np.where(open_here, reach, np.where(open_aside, _DRIP * reach, 0.0))
        rise = np.clip(1 - (start[:, 1] - met.positions[:, 1]) / np.maximum(thrown, 1e-6), 0, 1)
        out[some] += np.where(met.hit & (met.normals[:, 1] > _LEVEL) & (thrown > 0), rise**2, 0) / len(_SPREAD)
    return out.astype(np.float32)


def _trace(rays: RayScene, points: Points, reach: float, *settings: float) -> np.ndarray:
    return splash(rays, points.positions, points.normals, settings[0])


class SplashRule(TracedRule):
    """How much is thrown up on it by drops that strike the ground below: 1 at the foot, less with height."""

    measure: Literal["splash"] = "splash"
    height: float = quantity(
        0.5, 0.05, 3.0, "m", "How high drops throw over ground that gets rain; more below edges that drip.", 0.05,
        "thrown up", (0.1, 1.5, 1.5),
    )  # fmt: skip
    about: ClassVar[About] = About(
        "splash", SHARE, "mud thrown up by drops that strike the ground below", "splash", (0.05, 0.5, 1, 1),
        place=63, span=(0, 1), soft=0.15, badge="up to {height} m", more="height",
    )  # fmt: skip

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        return _trace, REACH, (self.height,)
