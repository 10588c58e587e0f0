"""Sky: how much of the sky can be seen from a place, whatever way its surface faces."""

from __future__ import annotations

import numpy as np

from ..mesh.rays import RayScene

REACH = 80.0
"""What stands farther off hides no sky, metres."""


def sky(scene: RayScene, positions: np.ndarray, rays: int) -> np.ndarray:
    """(N,) float32: 1 in the open, 0 under a closed roof; the horizontal sky view factor.

    It is 1 − occlusion of the upward hemisphere with cosine weight (Johnson and Watson, *The determination of view
    factors in urban canyons*, 1984).
    """
    up = np.tile(np.array([0.0, 1.0, 0.0], np.float32), (len(positions), 1))
    return np.asarray(1.0 - scene.occlusion(positions, up, REACH, rays), np.float32)
