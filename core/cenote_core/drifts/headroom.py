"""Is there room above a place? Roofs, decks and solids of pieces, and the ground where something reaches into it."""

from __future__ import annotations

import numpy as np

from ..graph.derived import by_value
from ..mesh.mesh import Mesh
from ..plan import GROUND
from ..scene import land
from ..scene.scene import Scene
from .instances import Instances

_SUNK = 0.01
_ROOF_REACH, _OVER = 40.0, 0.05
"""Metres over the top of a thing within which a roof counts, and from which it is looked for."""


def room_above(scene: Scene, owner: str, points: np.ndarray, headroom: float) -> np.ndarray:
    """Is there headroom above points of an owner, and do they not lie inside something solid or in the earth?

    The ground has one height everywhere, so it is asked for that and not met by rays: a set of triangles for rays
    would have to be made anew with every stroke on a large ground.

    Parameters
    ----------
    points : (N, 3) float32, metres
    headroom : float, metres

    Returns
    -------
    (N,) bool
    """
    with by_value():
        # All pieces, of which only what is within `FEELERS` is met.
        rays = scene.pieces_rays()
    free = rays.room_above(points, headroom)
    if owner == GROUND:
        return free
    depth = land.depth_under(scene, points)
    under = np.flatnonzero(free & (depth > _SUNK))
    if len(under):
        # Below the ground is free only what has a ceiling between itself and the earth: a cellar, a tunnel.
        free[under] = ~rays.room_above(points[under], depth[under])
    return free


def under_roofs(scene: Scene, mesh: Mesh, instances: Instances) -> np.ndarray | None:
    """(N,) bool: instances over which something stands; None while nothing falls."""
    if not scene.site.weather.falls or not len(instances):
        return None
    tall = float(mesh.bounds()[1][1]) * instances.scale
    tops = instances.position + np.column_stack([0 * tall, tall + _OVER, 0 * tall])
    return np.asarray(
        scene.standing().open_toward(tops.astype(np.float32), np.array([0.0, 1.0, 0.0]), _ROOF_REACH) == 0
    )
