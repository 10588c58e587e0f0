"""Shelter: how much of what a point could see is closed off by what stands near."""

from __future__ import annotations

import numpy as np

from ..mesh.rays import RayScene

FULL_RAYS = 256


def shelter(scene: RayScene, positions: np.ndarray, normals: np.ndarray, reach: float, rays: int) -> np.ndarray:
    """Cosine-weighted occlusion within `reach` metres; (N,) float32, 0 open to 1 closed.

    On a floor at distance d from a long wall of height h it is ½(1 − d/√(d² + h²)) for a reach beyond both:
    the view factor from a small element to a strip at right angles to it (Howell, *A Catalog of Radiation
    Heat Transfer Configuration Factors*).
    """
    return scene.occlusion(positions, normals, reach, rays)
