"""The places of a drift: spaced points on all its surfaces, before rules, and how they lie to each other."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..base.kernels import kernel, parallel_kernel, prange, uint64
from ..graph.derived import Ref, derived
from ..ground.terrain import axes, height_at
from ..hashing import hash_combine, text_seed, uniform, unit
from ..mesh.mesh import Points, points_on
from ..plan import GROUND, DriftPlan
from ..sampling.points import SpacedPoints, full_density, no_points, spaced_points
from ..scene import land
from ..scene.scene import Scene
from .variety import own_sizes

_LOOSEST = 0.22
"""Share of the spacing that is still kept where chance decides alone."""


@dataclass(frozen=True)
class Candidates:
    """Spaced points of a drift on all its surfaces, with what rules need: by owner.

    Attributes
    ----------
    points : SpacedPoints, `face` counts within each owner's mesh
    owner_names : list of owners
    owner : (N,) int32, index into them
    parts : Points of each owner; where : their numbers in the whole
    full : points per square metre the spacing allows
    """

    points: SpacedPoints
    owner_names: list[str]
    owner: np.ndarray
    parts: list[Points]
    where: list[np.ndarray]
    full: float

    def __len__(self) -> int:
        return len(self.points)

    def normals(self) -> np.ndarray:
        """(N, 3) float32 surface normals."""
        out = np.zeros((len(self.points), 3), np.float32)
        for where, part in zip(self.where, self.parts, strict=True):
            out[where] = part.normals
        return out


def least_spacing(plan: DriftPlan) -> float:
    """The distance the sampler keeps: less than the spacing where chance or size decide."""
    share = _LOOSEST + (1 - _LOOSEST) * plan.arrangement.regularity
    if plan.arrangement.by_size:
        share *= min(1.0, max(plan.variety.size_min, 0.25))
    return plan.spacing * share


def _chosen(scene: Scene, plan: DriftPlan) -> dict[str, list[int]]:
    """The numbers of the slots a drift stands on, by owner."""
    chosen: dict[str, set[int]] = {}
    for surface in scene.surfaces():
        if surface.ref in plan.surfaces:
            chosen.setdefault(surface.owner, set()).add(surface.index)
    return {owner: sorted(slots) for owner, slots in chosen.items()}


def _stands_on(scene: Scene, plan: DriftPlan) -> list[Any]:
    how = plan.arrangement.model_dump(include={"regularity", "even", "by_size", "rows", "heading"})
    sizes = plan.variety.model_dump(include={"size_min", "size_max", "size_bias"}) if how["by_size"] else ""
    chosen = [(owner, slots, scene.mesh.ref(owner)) for owner, slots in _chosen(scene, plan).items()]
    return [plan.spacing, plan.seed, chosen, how, sizes]


@derived(_stands_on)
def places_of(scene: Scene, plan: DriftPlan) -> Candidates:
    """Spaced points on the drift's surfaces; kept until surfaces, spacing, arrangement or seed change."""
    chosen = _chosen(scene, plan)
    names = list(chosen)
    full = full_density(plan.spacing, plan.arrangement.even)
    if not names:
        return Candidates(no_points(), [], np.zeros(0, np.int32), [], [], full)
    if plan.arrangement.rows > 0 and GROUND in chosen:
        points, face, owner, names = _rows(scene, plan)
    else:
        points, face, owner = _spaced(scene, plan, names, chosen)
    where = [np.flatnonzero(owner == k) for k in range(len(names))]
    parts = [points_on(scene.mesh(n), face[w], points.bary[w]) for n, w in zip(names, where, strict=True)]
    points = replace(points, face=face.astype(np.int32))
    return Candidates(points, names, owner, parts, where, full)


@derived(lambda scene, plan, owner: [places_of.ref(scene, plan), owner], keep="not")
def _on_owner(scene: Scene, plan: DriftPlan, owner: str) -> Points:
    places = places_of(scene, plan)
    return places.parts[places.owner_names.index(owner)]


def by_owner(
    scene: Scene, plan: DriftPlan, places: Candidates
) -> Iterator[tuple[str, Points, np.ndarray, Ref[Points]]]:
    """A drift's places by owner: its name, the points, their numbers in the whole, and the points as a derived value."""
    for name, points, where in zip(places.owner_names, places.parts, places.where, strict=True):
        yield name, points, where, _on_owner.ref(scene, plan, name)


def _spaced(
    scene: Scene, plan: DriftPlan, names: list[str], chosen: dict[str, list[int]]
) -> tuple[SpacedPoints, np.ndarray, np.ndarray]:
    positions, faces, keys, owner_of_face, local_face, areas = [], [], [], [], [], []
    offset = 0
    for number, name in enumerate(names):
        mesh = scene.mesh(name)
        wanted = np.isin(np.arange(len(mesh.slot_names)), chosen[name])
        index = np.flatnonzero(wanted[mesh.slots])
        positions.append(mesh.positions)
        faces.append(mesh.faces[index] + offset)
        keys.append(index.astype(np.uint64) ^ np.uint64(text_seed(name)))
        owner_of_face.append(np.full(len(index), number, np.int32))
        local_face.append(index)
        areas.append(mesh.face_areas()[index])
        offset += len(mesh.positions)
    points = spaced_points(
        np.concatenate(positions),
        np.concatenate(faces).astype(np.int32),
        np.concatenate(keys),
        np.concatenate(areas),
        least_spacing(plan),
        plan.seed,
        plan.arrangement.even,
    )
    if plan.arrangement.regularity < 1:
        points = _by_chance(points, plan)
    if plan.arrangement.by_size:
        points = _by_size(points, plan)
    return points, np.concatenate(local_face)[points.face], np.concatenate(owner_of_face)[points.face]


def _by_chance(points: SpacedPoints, plan: DriftPlan) -> SpacedPoints:
    """Ranks drawn anew in part: at regularity 0 every beginning is a random choice, not an evenly spread one."""
    regular = plan.arrangement.regularity
    top = full_density(least_spacing(plan), plan.arrangement.even)
    rank = regular * points.rank + (1 - regular) * uniform(points.identity, 40) * top
    # The densest that may be asked for is still that of the full spacing.
    return _taken(replace(points, rank=rank.astype(np.float32)), np.argsort(rank, kind="stable"))


def _taken(points: SpacedPoints, index: np.ndarray) -> SpacedPoints:
    return SpacedPoints(
        points.positions[index], points.face[index], points.bary[index], points.identity[index], points.rank[index]
    )


def _by_size(points: SpacedPoints, plan: DriftPlan) -> SpacedPoints:
    """Keep a distance of spacing × mean size between each two; who comes first in rank stays."""
    radius = (own_sizes(plan, points.identity) * plan.spacing / 2).astype(np.float64)
    kept = _settled(points.positions.astype(np.float64), radius, float(2 * radius.max(initial=1e-6)))
    return _taken(points, np.flatnonzero(kept))


@kernel
def _settled(points: np.ndarray, radius: np.ndarray, cell: float) -> np.ndarray:
    """(N,) bool: going through the points in order, those that keep radius + radius from all kept before."""
    kept = np.zeros(len(points), np.bool_)
    size = 1
    while size < 2 * len(points) + 16:
        size *= 2
    heads = np.full(size, -1, np.int64)
    following = np.full(len(points), -1, np.int64)
    for n in range(len(points)):
        cx, cy, cz = (
            int(np.floor(points[n, 0] / cell)),
            int(np.floor(points[n, 1] / cell)),
            int(np.floor(points[n, 2] / cell)),
        )
        free = True
        for dx in range(-1, 2):
            for dy in range(-1, 2):
                for dz in range(-1, 2):
                    if not free:
                        continue
                    h = hash_combine(hash_combine(uint64(cx + dx), uint64(cy + dy)), uint64(cz + dz)) & uint64(size - 1)
                    m = heads[int(h)]
                    while m >= 0:
                        ex, ey, ez = (
                            points[m, 0] - points[n, 0],
                            points[m, 1] - points[n, 1],
                            points[m, 2] - points[n, 2],
                        )
                        apart = radius[m] + radius[n]
                        if ex * ex + ey * ey + ez * ez < apart * apart:
                            free = False
                            break
                        m = following[m]
        if free:
            kept[n] = True
            h = hash_combine(hash_combine(uint64(cx), uint64(cy)), uint64(cz)) & uint64(size - 1)
            following[n] = heads[int(h)]
            heads[int(h)] = n
    return kept


def _rows(scene: Scene, plan: DriftPlan) -> tuple[SpacedPoints, np.ndarray, np.ndarray, list[str]]:
    """Points in rows on the ground: a turned lattice, shaken by what regularity leaves to chance."""
    ground = scene.site.ground
    how = plan.arrangement
    angle = np.radians(how.heading)
    along, across = np.array([np.sin(angle), -np.cos(angle)]), np.array([np.cos(angle), np.sin(angle)])
    half = np.hypot(ground.width, ground.depth) / 2
    i, j = np.meshgrid(
        np.arange(-int(half / plan.spacing) - 1, int(half / plan.spacing) + 2),
        np.arange(-int(half / how.rows) - 1, int(half / how.rows) + 2),
    )
    cell = (i.ravel() + 100_000).astype(np.uint64) * np.uint64(1_000_003) + (j.ravel() + 100_000).astype(np.uint64)
    identity = (cell * np.uint64(0x9E3779B97F4A7C15)) ^ np.uint64(text_seed(f"row {plan.seed}"))
    loose = (1 - how.regularity) * 0.5
    shift = [(uniform(identity, 41 + k) - 0.5) * loose * step for k, step in enumerate((plan.spacing, how.rows))]
    flat = np.outer(i.ravel() * plan.spacing + shift[0], along) + np.outer(j.ravel() * how.rows + shift[1], across)
    inside = (np.abs(flat[:, 0]) < ground.width / 2) & (np.abs(flat[:, 1]) < ground.depth / 2)
    flat, identity = flat[inside], identity[inside]
    face, bary = ground_faces(scene, flat)
    y = height_at(ground, land.heights(scene), flat)
    rank = (uniform(identity, 43) * full_density(plan.spacing)).astype(np.float32)
    positions = np.column_stack([flat[:, 0], y, flat[:, 1]]).astype(np.float32)
    points = SpacedPoints(positions, face.astype(np.int32), bary, identity, rank)
    points = _taken(points, np.argsort(rank, kind="stable"))
    return points, points.face, np.zeros(len(points), np.int32), [GROUND]


def ground_faces(scene: Scene, flat: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Face of the ground's mesh and weights of its second and third corner under (N, 2) places x, z."""
    x, z = axes(scene.site.ground)
    columns = len(x) - 1
    u = np.clip((flat[:, 0] - x[0]) / (x[1] - x[0]), 0, columns - 1e-6)
    v = np.clip((flat[:, 1] - z[0]) / (z[1] - z[0]), 0, len(z) - 1 - 1e-6)
    i, j = u.astype(np.int64), v.astype(np.int64)
    mesh = scene.mesh(GROUND)
    first = (j * columns + i) * 2
    out_face, out_bary = first.copy(), np.zeros((len(flat), 2))
    for side in (0, 1):
        face = first + side
        a, b, c = (mesh.positions[mesh.faces[face, k]][:, [0, 2]].astype(np.float64) for k in range(3))
        e1, e2, d = b - a, c - a, flat - a
        det = e1[:, 0] * e2[:, 1] - e1[:, 1] * e2[:, 0]
        p = (d[:, 0] * e2[:, 1] - d[:, 1] * e2[:, 0]) / det
        q = (e1[:, 0] * d[:, 1] - e1[:, 1] * d[:, 0]) / det
        inside = (p >= -1e-6) & (q >= -1e-6) & (p + q <= 1 + 1e-6)
        out_face[inside] = face[inside]
        out_bary[inside] = np.column_stack([p, q])[inside]
    return out_face, out_bary.astype(np.float32)


def clumped(positions: np.ndarray, width: float, tightness: float, seed: int) -> np.ndarray:
    """(N,) float32 share of the density left: 1 in the middle of a clump, 1 − tightness between clumps.

    Clump middles are one hashed point a cell of a cubic lattice 1.6 widths wide: a regular cousin of the parent
    points of a Thomas cluster process (Thomas, *A Generalization of Poisson's Binomial Limit*, 1949).
    """
    out = np.empty(len(positions), np.float32)
    _clumps(np.ascontiguousarray(positions, np.float32), 1.6 * width, width / 2, tightness, seed, out)
    return out


@parallel_kernel
def _clumps(points: np.ndarray, cell: float, radius: float, tightness: float, seed: int, out: np.ndarray) -> None:
    for n in prange(len(points)):
        cx, cz = int(np.floor(points[n, 0] / cell)), int(np.floor(points[n, 2] / cell))
        best = 1e9
        for dx in range(-1, 2):
            for dz in range(-1, 2):
                h = hash_combine(hash_combine(uint64(seed), uint64(cx + dx)), uint64(cz + dz))
                px = (cx + dx + unit(h)) * cell
                pz = (cz + dz + unit(hash_combine(h, uint64(1)))) * cell
                wide = radius * (0.6 + 0.8 * unit(hash_combine(h, uint64(2))))
                d = np.hypot(points[n, 0] - px, points[n, 2] - pz) / wide
                best = min(best, d)
        t = min(1.0, max(0.0, (1.35 - best) / 0.7))
        out[n] = 1.0 - tightness * (1.0 - t * t * (3.0 - 2.0 * t))
