"""What stands under places: ground or pieces, how high, which way it faces, and how deep things are let into it."""

from __future__ import annotations

import numpy as np

from ..graph.derived import by_value
from ..ground.terrain import height_at
from ..hashing import uniform
from ..plan import GROUND, DriftPlan
from ..scene import land
from ..scene.scene import Scene
from .variety import leaning

_STEP = 0.1
"""Metres over which the slope of the ground under a thing is taken."""
_ABOVE, _BELOW = 0.5, 1.0
"""Metres over and under a place within which a surface of a piece is looked for."""
_BESIDE = 0.1
"""Metres about places within which a piece may lie under them."""


def ground_under(scene: Scene, flat: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(N,) heights of the ground and (N, 3) its normals at (N, 2) places x, z."""
    plan, heights = scene.site.ground, land.heights(scene)
    at = lambda dx, dz: height_at(plan, heights, flat + [dx, dz])  # noqa: E731
    slope_x, slope_z = (at(_STEP, 0) - at(-_STEP, 0)) / (2 * _STEP), (at(0, _STEP) - at(0, -_STEP)) / (2 * _STEP)
    normal = np.column_stack([-slope_x, np.ones(len(flat)), -slope_z])
    return at(0, 0), normal / np.linalg.norm(normal, axis=1, keepdims=True)


def pieces_under(scene: Scene, points: np.ndarray) -> list[str]:
    """Pieces whose box lies at some of (N, 3) places: what things set there may stand on."""
    low, high = points.min(axis=0), points.max(axis=0)
    found = []
    with by_value():
        # Who is found is in the key of what is made of it.
        boxes = [(owner, scene.mesh(owner).bounds()) for owner in scene.owners()[1:]]
    for owner, (least, greatest) in boxes:
        beside = (least[[0, 2]] <= high[[0, 2]] + _BESIDE).all() and (greatest[[0, 2]] >= low[[0, 2]] - _BESIDE).all()
        if beside and greatest[1] >= low[1] - _BELOW and least[1] <= high[1] + _ABOVE:
            found.append(owner)
    return found


def surface_under(scene: Scene, points: np.ndarray, pieces: list[str]) -> tuple[np.ndarray, np.ndarray]:
    """(N,) heights and (N, 3) normals of what lies at (N, 3) places: one of some pieces where it is near, else the ground."""
    y, normal = ground_under(scene, points[:, [0, 2]])
    if not pieces or not len(points):
        return y, normal
    start = (points + [0, _ABOVE, 0]).astype(np.float32)
    down = np.tile(np.array([0, -1, 0], np.float32), (len(points), 1))
    met = scene.rays(tuple(pieces)).meet(start, down, _ABOVE + _BELOW)
    on = met.hit & (met.positions[:, 1] > y - 1e-3)
    return np.where(on, met.positions[:, 1], y), np.where(on[:, None], met.normals, normal)


def set_down(
    plan: DriftPlan, at: np.ndarray, normal: np.ndarray, identity: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """(N, 3) places let in as far as a drift says, and (N, 3) own axes between upright and the surface's normal."""
    variety = plan.variety
    up = leaning(normal, variety.follow, variety.lean, identity)
    sink = variety.sink_min + (variety.sink_max - variety.sink_min) * uniform(identity, 5)
    return at - up * sink[:, None], up


def owner_normals(scene: Scene, owner: str, at: np.ndarray) -> np.ndarray:
    """(N, 3) normals of an owner at places on it."""
    if owner == GROUND:
        return ground_under(scene, at[:, [0, 2]])[1]
    return surface_under(scene, at, [owner])[1]
