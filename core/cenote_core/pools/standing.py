"""Water that stands on the ground and on pieces after rain: what comes down, soaks, runs together and stays."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.ndimage import gaussian_filter, grey_closing, label

from ..base.noise import noise
from ..columns.grid import Columns, columns_of, neighbours
from ..graph.derived import derived
from ..mesh.mesh import points_on
from ..mesh.texels import sample_map
from ..patinas.cover import owner_covers, saved_covers, shares, stack
from ..patinas.heights import stack_heights
from ..patinas.triplanar import ground_triplanar
from ..plan import GROUND
from ..scene.scene import VIEW_LIMIT, Scene
from ..snow.fall import reach
from ..waters.bodies import in_water, waters
from .filling import fill, hollows_of

_STRAIGHT = (0.0, 0.0, 0.0)
"""Rain that stands has come from all sides in time."""
_LEVEL = 0.9
"""Upward part of a normal under which water does not stand."""
_JOINT = 0.02
"""Metres of depth from which a joint lets water through."""
_SETTLED = {False: ((2.4, 0.034, 65), (0.6, 0.008, 66)), True: ((1.6, 0.05, 63), (0.45, 0.014, 64))}
"""How uneven what is built level has become, and bare ground (True): metres across, metres high, seed."""
_SMOOTHED = 0.8
"""Cells over which the relief of what water stands on is evened out: finer hollows are wet, not pools."""


@dataclass(frozen=True)
class Standing:
    """Water on an owner's columns.

    Attributes
    ----------
    depth : (R, C) float64 metres of water; 0 where none stands
    level : (R, C) float64 height of its surface, metres; nan where none stands
    came, soaked, stored : m³ that came down, soaked away, stand
    off : (R, C) float64 m³ that run off at each node
    """

    depth: np.ndarray
    level: np.ndarray
    came: float
    soaked: float
    stored: float
    off: np.ndarray


def _bed_needs(scene: Scene, owner: str) -> list[Any]:
    materials = [(s.slot, scene.material_ref(s.material)) for s in scene.surfaces_of(owner)]
    finishes = [(plan.finish, scene.material_ref(plan.finish.material)) for _, plan in stack(scene, owner)]
    return [columns_of.ref(scene, owner), owner_covers.ref(scene, owner, VIEW_LIMIT), materials, finishes]


@derived(_bed_needs)
def bed(scene: Scene, owner: str) -> np.ndarray:
    """(R, C) float64 heights water runs over: the shape, the relief of what it is made of, and how it has settled."""
    columns = columns_of(scene, owner)
    height = columns.height.copy()
    on = columns.there
    relief = np.zeros(height.shape)
    relief[on] = _relief(scene, owner, columns, on)
    places = (columns.places() * [1.0, 0.0, 1.0]).reshape(-1, 3).astype(np.float32)
    for size, high, seed in _SETTLED[owner == GROUND]:
        height += high * 2 * (noise(places, size, 2, seed, 0.0).reshape(height.shape) - 0.5)
    return np.asarray(height + gaussian_filter(relief, _SMOOTHED))


def _relief(scene: Scene, owner: str, columns: Columns, on: np.ndarray) -> np.ndarray:
    """(N,) metres the stack of an owner stands above its shape at the nodes that are on."""
    mesh = scene.mesh(owner)
    at = columns.places()[on]
    if owner == GROUND:
        plan = scene.site.ground
        uv = (at[:, [0, 2]] * [1.0, -1.0]).astype(np.float32)
        uv2 = (at[:, [0, 2]] / [plan.width, plan.depth] + 0.5).astype(np.float32)
        slots, base_uv, sides = np.zeros(len(at), np.int32), uv, ground_triplanar(scene, at[:, [0, 2]])
    else:
        above = at.astype(np.float32) + np.array([0, 0.05, 0], np.float32)
        met = scene.rays((owner,)).meet(above, np.tile(np.array([0, -1, 0], np.float32), (len(at), 1)), 0.2)
        face = np.maximum(met.face, 0)
        points = points_on(mesh, face, met.bary)
        uv, uv2, slots, sides = _coordinates(mesh.uv, mesh.faces, face, met.bary), points.uv2, points.slots, None
        base_uv = uv if mesh.base_uv is None else _coordinates(mesh.base_uv, mesh.faces, face, met.bary)
    covers = [np.ascontiguousarray(sample_map(one, uv2), np.float32) for one in saved_covers(scene, owner)]
    laid = [(plan, values) for (_, plan), values in zip(stack(scene, owner), covers, strict=True)]
    return stack_heights(scene, owner, uv, base_uv, slots, laid, sides)[0].astype(np.float64)


def _coordinates(uv: np.ndarray, faces: np.ndarray, face: np.ndarray, bary: np.ndarray) -> np.ndarray:
    corners = uv[faces[face]]
    weights = np.column_stack([1 - bary.sum(axis=1), bary])
    return np.einsum("nk,nkc->nc", weights, corners).astype(np.float32)


def _drain_needs(scene: Scene, owner: str) -> list[Any]:
    drains = [scene.drains(s.material) for s in scene.surfaces_of(owner)]
    told = [shares.ref(scene)] if owner == GROUND and len(drains) > 1 else []
    return [columns_of.ref(scene, owner), drains, told]


@derived(_drain_needs)
def drains(scene: Scene, owner: str) -> np.ndarray:
    """(R, C) share of the water on each column that soaks away."""
    columns = columns_of(scene, owner)
    surfaces = [s for s in scene.surfaces_of(owner)]
    if owner != GROUND or len(surfaces) == 1:
        by_slot = {s.index: scene.drains(s.material) for s in surfaces if not s.layer}
        table = np.array([by_slot.get(k, 0.0) for k in range(max(by_slot, default=0) + 1)])
        return np.asarray(table[np.maximum(columns.slot, 0)])
    plan = scene.site.ground
    at = (columns.places()[..., [0, 2]].reshape(-1, 2) / [plan.width, plan.depth] + 0.5).astype(np.float32)
    found = shares(scene)
    total = sum(scene.drains(s.material) * sample_map(found[s.slot], at) for s in surfaces if s.slot in found)
    return np.asarray(total).reshape(columns.height.shape)


def _ways(columns: Columns, free: np.ndarray, ground: bool) -> tuple[np.ndarray, np.ndarray]:
    """(R, C, 4) whether water passes to each neighbour, up to its sill or down its drop, and (R, C) where it leaves.

    It leaves where what it runs over ends, and into deep joints; what stands on it holds it back.
    """
    joined = free[..., None] & neighbours(free, False)
    leaves = free & ~neighbours(columns.there, ground).all(axis=-1)
    if ground:
        leaves[[0, -1], :] = leaves[:, [0, -1]] = True
        return joined, leaves & free
    height = np.where(columns.there, columns.height, np.nanmin(columns.height) if columns.there.any() else 0.0)
    joint = grey_closing(height, size=(3, 3)) - height > _JOINT
    return joined, leaves | (free & joint)


def _closed_in(free: np.ndarray, leaves: np.ndarray, floor: np.ndarray) -> np.ndarray:
    """(R, C) bool: the lowest node of each part that water cannot leave, closed in by what stands: there it seeps out."""
    part, count = label(free)
    closed = np.setdiff1d(np.arange(1, count + 1), part[leaves])
    out = np.zeros(free.shape, bool)
    for number in closed:
        within = np.where(part == number, floor, np.inf)
        out.flat[int(np.argmin(within))] = True
    return out


def _needs(scene: Scene, owner: str, standing: float) -> list[Any]:
    water = waters.ref(scene) if in_water(scene, owner) else None
    return [bed.ref(scene, owner), drains.ref(scene, owner), reach.ref(scene, owner, _STRAIGHT), standing, water]


@derived(_needs)
def standing_water(scene: Scene, owner: str, standing: float) -> Standing:
    """Water on an owner when `standing` metres have come down in the open."""
    columns, floor = columns_of(scene, owner), bed(scene, owner)
    falls = reach(scene, owner, _STRAIGHT).astype(np.float64)
    free = columns.there & (falls >= 0)
    joined, leaves = _ways(columns, free, owner == GROUND)
    leaves |= _closed_in(free, leaves, floor)
    if in_water(scene, owner):
        leaves |= waters(scene).depth > 0
    area = columns.cell**2
    came = np.where(free, np.maximum(falls, 0) * standing * area, 0.0)
    soaked = came * drains(scene, owner)
    found = hollows_of(np.where(free, floor, np.inf), joined, leaves)
    filled = fill(floor, found, came - soaked, area)
    level = (
        np.where(found.of >= 0, filled.level[found.of], -np.inf) if len(found.spill) else np.full(floor.shape, -np.inf)
    )
    depth = np.where(free & (columns.up > _LEVEL), np.maximum(level - floor, 0.0), 0.0)
    if in_water(scene, owner):
        depth = np.where(waters(scene).depth > 0, 0.0, depth)
    return Standing(
        depth,
        np.where(depth > 0, level, np.nan),
        float(came.sum()),
        float(soaked.sum()),
        float(filled.stored.sum()),
        filled.off,
    )
