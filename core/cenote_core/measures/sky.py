"""Sky: how much of the sky can be seen from a place, whatever way its surface faces."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..graph.derived import Ref
from ..mesh.mesh import Points
from ..mesh.rays import RayScene
from .ask import Ask, Trace
from .rule import SHARE, About
from .shelter import VIEW_RAYS
from .traced import TracedRule

REACH = 80.0
"""What stands farther off hides no sky, metres."""


def sky(scene: RayScene, positions: np.ndarray, rays: int) -> np.ndarray:
    """(N,) float32: 1 in the open, 0 under a closed roof; the horizontal sky view factor.

    It is 1 − occlusion of the upward hemisphere with cosine weight (Johnson and Watson, *The determination of view
    factors in urban canyons*, 1984).
    """
    up = np.tile(np.array([0.0, 1.0, 0.0], np.float32), (len(positions), 1))
    return np.asarray(1.0 - scene.occlusion(positions, up, REACH, rays), np.float32)


def _trace(rays: RayScene, points: Points, reach: float, *settings: float) -> np.ndarray:
    return sky(rays, points.positions, VIEW_RAYS)


def sky_map_ref(ask: Ask) -> Ref[np.ndarray]:
    """(R, R) float32: how much of the sky can be seen, over an owner's unwrap."""
    return ask.traced_ref(_trace, REACH)


class SkyRule(TracedRule):
    """How much of the sky can be seen: 0 under a roof, 1 in the open."""

    measure: Literal["sky"] = "sky"
    about: ClassVar[About] = About(
        "sky", SHARE, "1 in the open, 0 under a roof", "open sky", (0.3, 0.6, 1, 1), place=60, span=(0, 1), soft=0.15
    )

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        return _trace, REACH, ()
