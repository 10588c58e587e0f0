"""Shelter: how much of what a point could see is closed off by what stands near."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import quantity
from ..mesh.mesh import Points
from ..mesh.rays import RayScene
from .ask import Trace
from .rule import SHARE, About
from .traced import TracedRule

VIEW_RAYS = 96
"""Rays a texel of the measures that are traced."""


def shelter(scene: RayScene, positions: np.ndarray, normals: np.ndarray, reach: float, rays: int) -> np.ndarray:
    """Cosine-weighted occlusion within `reach` metres; (N,) float32, 0 open to 1 closed.

    On a floor at distance d from a long wall of height h it is ½(1 − d/√(d² + h²)) for a reach beyond both:
    the view factor from a small element to a strip at right angles to it (Howell, *A Catalog of Radiation
    Heat Transfer Configuration Factors*).
    """
    return scene.occlusion(positions, normals, reach, rays)


def _trace(rays: RayScene, points: Points, reach: float, *settings: float) -> np.ndarray:
    return shelter(rays, points.positions, points.normals, reach, VIEW_RAYS)


class ShelterRule(TracedRule):
    """How much of the sky is closed off by what stands near, 0 open to 1 closed."""

    measure: Literal["shelter"] = "shelter"
    reach: float = quantity(
        2.0, 0.05, 50.0, "m", "Only what stands within this distance gives shelter.", 0.1, "reach", (0.05, 10, 2)
    )
    about: ClassVar[About] = About(
        "shelter", SHARE, "0 open, 1 closed in by what stands near", "shelter", (0.05, 0.3, 1, 1), place=50,
        span=(0, 1), soft=0.15, badge="within {reach} m", more="reach",
    )  # fmt: skip

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        return _trace, self.reach, ()
