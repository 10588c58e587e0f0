"""Water that has run down a thing and stands round its foot: a flat pool with a rounded edge, on whatever it stands on.

A pool is a drop much wider than the capillary length: level at 2 λ sin(θ/2) over what it lies on, and at its edge as
round as such a drop's profile.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.ndimage import distance_transform_edt, gaussian_filter, map_coordinates

from ..base.noise import noise
from ..graph.derived import derived
from ..hashing import text_seed
from ..materials.catalogue import contact_of
from ..mesh.mesh import Mesh, make_mesh, vertex_normals
from ..plan import BeadsPlan
from ..scene.scene import Scene
from .profile import CAPILLARY

_CELL = 0.0012
"""Metres between the places a pool's height is worked out at."""
_WIDEST = 0.3
"""Metres a pool reaches out from the foot at most."""
_MOST = 700
"""Places along its longer side at most."""
_CONTACT, _LEVEL = 0.004, 0.006
"""Metres over its lowest point up to which a thing stands on what is under it; and by which that may rise or fall."""
_RAGGED, _WAVE = 0.55, 0.05
"""How far its edge wanders in and out, as a share, and over how many metres."""
_FLAT, _PLACES = 0.02, 200
"""Radians of slope at which an edge counts as level, and places it is worked out at."""
_HALVINGS = 24
_OVER = 0.0012
"""Metres that it lies over what it stands on, whose finest hollows it has filled."""
_STANDS = 80.0
"""Contact angle on what nothing is known of, degrees."""


def rim_height(angle: float, inward: np.ndarray) -> np.ndarray:
    """Metres of height at so many metres inward from the edge of a pool that meets the surface at an angle in degrees.

    The edge of a wide pool, where weight and surface tension balance: at a slope φ it is 2 λ sin(φ/2) under its level (de
    Gennes, Brochard-Wyart and Quéré, *Capillarity and Wetting Phenomena*, 2004). What overhangs is left out.
    """
    steepest = np.radians(min(angle, 90.0))
    slope = np.linspace(steepest, _FLAT, _PLACES)
    level = 2 * CAPILLARY * np.sin(np.radians(angle) / 2)
    high = level - 2 * CAPILLARY * np.sin(slope / 2)
    # Along the edge height grows with the tangent of its slope.
    middle = (slope[1:] + slope[:-1]) / 2
    away = np.concatenate([[0.0], np.cumsum(np.diff(high) / np.tan(middle))])
    return np.where(inward <= 0, 0.0, np.interp(inward, away, high))


def _needs(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> list[Any]:
    near = _others(scene, owner)
    made_of = [(s.index, s.material) for s in scene.surfaces() if s.owner in near and not s.layer]
    return [scene.mesh.ref(owner), scene.rays.ref(near), [scene.mesh.ref(other) for other in near], made_of,
            plan.pool, plan.uneven, plan.seed, plan.angle, key]  # fmt: skip


def _others(scene: Scene, owner: str) -> tuple[str, ...]:
    """What an owner may stand on."""
    return tuple(scene.near(owner, _WIDEST)[1:])


@derived(_needs, keep="disk")
def foot_pool(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> Mesh | None:
    """The surface of the pool round an owner's foot, in the site's coordinates; None where there is none."""
    found = standing_pool(scene, plan, owner, text_seed(key) + plan.seed)
    if found is None:
        return None
    height, at, low = found
    rows, columns = height.shape
    wet = height > 0
    # One cell farther, so that the sheet comes down to what it lies on.
    near = distance_transform_edt(~wet) <= 1.5
    number = np.full(height.shape, -1)
    number[near] = np.arange(int(near.sum()))
    cells = near[:-1, :-1] & near[1:, :-1] & near[:-1, 1:] & near[1:, 1:]
    cells &= wet[:-1, :-1] | wet[1:, :-1] | wet[:-1, 1:] | wet[1:, 1:]
    a, b, c, d = number[:-1, :-1][cells], number[:-1, 1:][cells], number[1:, :-1][cells], number[1:, 1:][cells]
    faces = np.concatenate([np.column_stack([a, c, b]), np.column_stack([b, c, d])]).astype(np.int32)
    if not len(faces):
        return None
    high = low + np.where(height > 0, height + _OVER, 0.0)
    positions = np.column_stack([at[0][near], high[near], at[1][near]])
    used, inverse = np.unique(faces, return_inverse=True)
    positions, faces = positions[used], inverse.reshape(-1, 3).astype(np.int32)
    uv = np.column_stack([positions[:, 0], -positions[:, 2]])
    return make_mesh(positions, faces, normals=vertex_normals(positions.astype(np.float32), faces), uv=uv)


def standing_pool(
    scene: Scene, plan: BeadsPlan, owner: str, seed: int
) -> tuple[np.ndarray, tuple[np.ndarray, np.ndarray], float] | None:
    """(R, C) metres of water round an owner's foot, x and z of the places, and the height it stands on.

    It reaches out as far as its volume asks for (to a thousandth), and no farther than what it stands on is level.
    """
    if plan.pool <= 0 or not scene.stands(owner):
        return None
    mesh = scene.mesh(owner)
    low = float(mesh.positions[:, 1].min())
    foot = mesh.positions[mesh.positions[:, 1] < low + _CONTACT][:, [0, 2]].astype(np.float64)
    begin, end = foot.min(axis=0) - _WIDEST, foot.max(axis=0) + _WIDEST
    cell = max(_CELL, float((end - begin).max()) / _MOST)
    x, z = np.meshgrid(np.arange(begin[0], end[0], cell), np.arange(begin[1], end[1], cell))
    under = np.zeros(x.shape, bool)
    row, column = (((foot[:, k] - begin[k]) / cell).round().astype(int) for k in (1, 0))
    under[row.clip(0, x.shape[0] - 1), column.clip(0, x.shape[1] - 1)] = True
    away = distance_transform_edt(~under) * cell
    places = np.column_stack([x.ravel(), np.full(x.size, low), z.ravel()]).astype(np.float32)
    torn = noise(places, _WAVE, 3, seed % 9973, 0.0).reshape(x.shape) - 0.5
    # How far out the edge would have to be for it to lie here.
    reach = gaussian_filter(away * (1 - _RAGGED * min(1.0, 0.4 + plan.uneven) * 2 * torn), 1.2)
    level, angle = _support(scene, owner, places, low, x.shape)
    angle = plan.angle or angle
    wanted = plan.pool * 1e-6
    near, far = 0.0, _WIDEST
    for _ in range(_HALVINGS):
        middle = (near + far) / 2
        volume = _heights(angle, level & (reach < middle), cell).sum() * cell**2
        near, far = (middle, far) if volume < wanted else (near, middle)
    height = _heights(angle, level & (reach < far), cell)
    return (height, (x, z), low) if (height > 0).any() else None


def _heights(angle: float, wet: np.ndarray, cell: float) -> np.ndarray:
    inward = distance_transform_edt(np.pad(wet, 1))[1:-1, 1:-1] * cell
    return rim_height(angle, inward - 0.5 * cell)


def _support(
    scene: Scene, owner: str, places: np.ndarray, low: float, shape: tuple[int, ...]
) -> tuple[np.ndarray, float]:
    """(R, C) bool where what an owner stands on is level with its foot, and the contact angle on it in degrees."""
    others = _others(scene, owner)
    above = places + np.array([0, 2 * _LEVEL, 0], np.float32)
    down = np.tile(np.array([0, -1, 0], np.float32), (len(places), 1))
    # A few times coarser is fine enough for where a ledge ends.
    step = 4
    index = np.arange(len(places)).reshape(shape)[::step, ::step]
    met = scene.rays(others).meet(above[index.ravel()], down[index.ravel()], 4 * _LEVEL)
    over = np.where(met.hit, np.abs(met.positions[:, 1] - low), 1.0).reshape(index.shape)
    rows, columns = (np.arange(n) / step for n in shape)
    fine = map_coordinates(over, np.meshgrid(rows, columns, indexing="ij"), order=1, mode="nearest")
    return fine < _LEVEL, _angle_of(scene, others, met)


def _angle_of(scene: Scene, owners: tuple[str, ...], met: Any) -> float:
    """The contact angle on what most rays met."""
    if not met.hit.any():
        return _STANDS
    ends = np.cumsum([len(scene.mesh(owner).faces) for owner in owners])
    face = met.face[met.hit]
    which = np.searchsorted(ends, face, side="right")
    most = int(np.bincount(which).argmax())
    mesh, first = scene.mesh(owners[most]), int(ends[most - 1]) if most else 0
    slot = int(np.bincount(mesh.slots[face[which == most] - first]).argmax())
    found = [s for s in scene.surfaces_of(owners[most]) if s.index == slot and not s.layer]
    return contact_of(found[0].material) if found else _STANDS
