"""Worn edge: how much of a body is missing about a place, as hands, feet and weather reach it."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import quantity
from ..mesh.mesh import Points
from ..mesh.rays import RayScene
from .ask import Trace
from .rule import SHARE, About
from .shelter import VIEW_RAYS
from .traced import TracedRule


def worn(scene: RayScene, positions: np.ndarray, normals: np.ndarray, radius: float, rays: int) -> np.ndarray:
    """(N,) float32: cosine-weighted share of inward rays that leave the body again within `radius` metres.

    0 in the middle of a thick body's side, ½ on a straight edge of 90°, ¾ on a corner. At a distance d from such an edge
    it is (arccos c − c √(1 − c²)) / π with c = d / r: the share of the unit disk that lies beyond c (Nusselt analogue).
    """
    return scene.occlusion(positions, -normals, radius, rays)


def _trace(rays: RayScene, points: Points, reach: float, *settings: float) -> np.ndarray:
    return worn(rays, points.positions, points.normals, reach, VIEW_RAYS)


class WornRule(TracedRule):
    """How near it is to a hard edge or corner that sticks out: 0 on flat sides, about ½ on edges, more on corners."""

    measure: Literal["worn"] = "worn"
    reach: float = quantity(0.06, 0.005, 2.0, "m", "Edges count within this distance.", 0.01, "radius", (0.005, 0.5, 2))
    about: ClassVar[About] = About(
        "worn edge", SHARE, "edges and corners that stick out, where hands, feet and weather reach", "edges",
        (0.12, 0.4, 1, 1), place=55, span=(0, 1), soft=0.15, badge="within {reach} m", more="radius",
    )  # fmt: skip

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        return _trace, self.reach, ()
