"""Which places of a site are seen from a station."""

from __future__ import annotations

import numpy as np

from ..mesh.mesh import Points
from ..stations.camera import Viewpoint, axes, in_view
from .scene import Scene

_FACING = 0.05
"""Cosine from which a place is seen and not from behind."""
_OFF = 0.02
"""Metres off its surface a line of sight starts, so that the surface itself does not stop it."""


def faces_into_view(points: Points, station: Viewpoint, aspect: float) -> np.ndarray:
    """(N,) bool: places within the frame whose own side is turned to the eye, whatever stands between."""
    toward = axes(station)[0] - points.positions
    facing = (points.normals * toward).sum(axis=1) > _FACING * np.linalg.norm(toward, axis=1)
    return np.asarray(facing & in_view(station, aspect, points.positions, 0.0))


def seen(scene: Scene, points: Points, station: Viewpoint, aspect: float) -> np.ndarray:
    """(N,) bool: places of ground and pieces that the eye sees; what is scattered hides nothing."""
    out = faces_into_view(points, station, aspect)
    on = np.flatnonzero(out)
    start = points.positions[on] + _OFF * points.normals[on]
    toward = axes(station)[0] - start
    away = np.linalg.norm(toward, axis=1)
    if not len(on):
        return out
    met = scene.standing().meet(start, toward / away[:, None], float(away.max()))
    stopped = met.hit & (np.linalg.norm(met.positions - start, axis=1) < away - _OFF)
    out[on[stopped]] = False
    return out
