"""Drifts in a proof: instances merged into one mesh for each leaf material and brightness.

The path tracer's kernels are compiled anew for every different surface, which takes longer than the light itself
when each asset, level of detail and tint has its own; so what looks alike is one mesh with one surface.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..drifts.populate import Instances, populate
from ..drifts.wind import Wind, sway_offsets, wind_of
from ..kit.catalogue import Asset
from ..kit.farcard import SLOT
from ..materials.material import Material, tinted
from ..mesh.mesh import Mesh
from ..plan import StationPlan
from ..scene.scene import Scene
from .assemble import Detail, bitmap, mi_mesh
from .camera import in_view

LOD_REACH = (22.0, 70.0, 200.0)
"""An instance gets the finest level up to this many of its own heights from the eye, then the next, at last a card."""
SHADOW_REACH = 30.0
_WORTH_A_CARD = 64
"""Triangles of a plant's coarsest growth from which on a card pays: light that passes its holes costs more than a few
triangles do, and its picture is one more surface."""
LEVELS = (0.62, 0.8, 1.0, 1.22)
"""Brightness factors leaves are sorted into: what the instance's tint and the card's place in the crown make."""


@dataclass
class _Heap:
    """Triangles that share one surface."""

    positions: list[np.ndarray] = field(default_factory=list)
    normals: list[np.ndarray] = field(default_factory=list)
    uv: list[np.ndarray] = field(default_factory=list)
    colour: list[np.ndarray] = field(default_factory=list)
    faces: list[np.ndarray] = field(default_factory=list)
    count: int = 0

    def add(
        self, positions: np.ndarray, normals: np.ndarray, uv: np.ndarray, colour: np.ndarray, faces: np.ndarray
    ) -> None:
        self.positions.append(positions)
        self.normals.append(normals)
        self.uv.append(uv)
        self.colour.append(colour)
        self.faces.append(faces + self.count)
        self.count += len(positions)


def _lods(asset: Asset) -> int:
    """How many levels of an asset a proof may use, finest first."""
    *own, last = asset.lods
    card = bool(own) and last.slot_names == (SLOT,)
    return len(own) if card and own[-1].triangle_count < _WORTH_A_CARD else len(asset.lods)


def _levels(
    scene: Scene,
    station: StationPlan,
    aspect: float,
    instances: Instances,
    heights: np.ndarray,
    lods: list[int],
    detail: Detail,
) -> np.ndarray:
    """(N,) level of detail of each instance, −1 for those that neither show nor throw shadow into view."""
    eye = np.asarray(station.position)
    tall = heights[instances.asset] * instances.scale
    distance = np.linalg.norm(instances.position - eye, axis=1)
    relative = distance / np.maximum(tall, 0.05) / detail.lod_scale
    level = np.searchsorted(LOD_REACH, relative)
    seen = in_view(station, aspect, instances.position, 1.0) | in_view(
        station, aspect, instances.position, 0.5 + 1.2 * float(tall.max(initial=0))
    )
    shades = (tall > 1.0) & (distance < SHADOW_REACH)
    # What only throws shadow into view may be coarser.
    level = np.minimum(np.where(seen, level, level + 1), np.array(lods)[instances.asset] - 1)
    return np.where(seen | shades, level, -1)


def drift_meshes(mi: Any, scene: Scene, station: StationPlan, aspect: float, detail: Detail) -> dict[str, Any]:
    """Every visible drift, sorted by what it looks like."""
    heaps: dict[tuple[str, int], _Heap] = {}
    wind = wind_of(scene.site.weather)
    for key, plan in sorted(scene.site.drifts.items()):
        if not plan.visible or not plan.assets:
            continue
        instances = populate(scene, key, plan, keep=True)
        assets = [scene.kit.asset(share.asset) for share in plan.assets]
        heights = np.array([float(np.ptp(a.lods[0].positions, axis=0).max()) for a in assets])
        level = _levels(scene, station, aspect, instances, heights, [_lods(asset) for asset in assets], detail)
        for number, asset in enumerate(assets):
            for lod, mesh in enumerate(asset.lods):
                chosen = np.flatnonzero((instances.asset == number) & (level == lod))
                if len(chosen):
                    _sort(scene, heaps, wind, asset.materials, mesh, instances.taken(chosen))
    return dict(_built(mi, scene, heaps))


def _sort(
    scene: Scene,
    heaps: dict[tuple[str, int], _Heap],
    wind: Wind,
    materials: dict[str, str],
    mesh: Mesh,
    instances: Instances,
) -> None:
    """Put the triangles of some instances of one mesh where they belong."""
    top = float(mesh.bounds()[1][1])
    bright = instances.tint.mean(axis=1)
    for slot, slot_name in enumerate(mesh.slot_names):
        faces = mesh.faces[mesh.slots == slot]
        if len(faces) == 0:
            continue
        name = scene.seasonal(materials.get(slot_name, "concrete"))
        material = scene.kit.material(name)
        by_vertex = slot_name == "blade" and mesh.colour is not None
        tone = np.ones(len(faces)) if by_vertex or mesh.colour is None else mesh.colour[faces, :3].mean(axis=(1, 2))
        for part, members, place in _classes(tone, bright, by_vertex):
            heap = heaps.setdefault((name, place), _Heap())
            _add(heap, wind, mesh, faces[part], material, instances.taken(members), top)


def _classes(tone: np.ndarray, bright: np.ndarray, by_vertex: bool) -> Iterator[tuple[np.ndarray, np.ndarray, int]]:
    """Faces and instances that go together into a level of brightness; −1 where vertices carry the colour."""
    if by_vertex:
        yield np.arange(len(tone)), np.arange(len(bright)), -1
        return
    edges = [(a + b) / 2 for a, b in zip(LEVELS, LEVELS[1:], strict=False)]
    of_face, of_instance = np.searchsorted(edges, tone), np.searchsorted(edges, bright)
    for f in np.unique(of_face):
        for n in np.unique(of_instance):
            level = int(np.searchsorted(edges, LEVELS[f] * LEVELS[n]))
            yield np.flatnonzero(of_face == f), np.flatnonzero(of_instance == n), level


def _add(
    heap: _Heap, wind: Wind, mesh: Mesh, faces: np.ndarray, material: Material, members: Instances, top: float
) -> None:
    used, local = np.unique(faces.ravel(), return_inverse=True)
    turned = rotated(members.rotation, mesh.positions[used], members.mirrored) * members.scale[:, None, None]
    turned = turned + members.position[:, None, :]
    if mesh.sway is not None and wind.speed > 0:
        turned += sway_offsets(wind, members.position, (top * members.scale).astype(np.float64), mesh.sway[used])
    count = len(members)
    indices = local.reshape(-1, 3)[None] + np.arange(count)[:, None, None] * len(used)
    # A mirror turns faces inside out; the other order of their corners turns them back.
    indices[members.mirrored] = indices[members.mirrored, :, ::-1]
    uv = mesh.uv[used] if mesh.own_uv or material.tile <= 0 else mesh.uv[used] / np.float32(material.tile)
    own = np.ones((len(used), 3), np.float32) if mesh.colour is None else mesh.colour[used, :3]
    colour = own[None] * members.tint[:, None, :]
    heap.add(
        turned.reshape(-1, 3).astype(np.float32),
        rotated(members.rotation, mesh.normals[used], members.mirrored).reshape(-1, 3).astype(np.float32),
        np.tile(uv, (count, 1)).astype(np.float32),
        colour.reshape(-1, 3).astype(np.float32),
        indices.reshape(-1, 3).astype(np.int32),
    )


def _built(mi: Any, scene: Scene, heaps: dict[tuple[str, int], _Heap]) -> Iterator[tuple[str, Any]]:
    for (name, level), heap in sorted(heaps.items()):
        faces = np.concatenate(heap.faces)
        uv, colour = np.concatenate(heap.uv), np.concatenate(heap.colour)
        positions, normals = np.concatenate(heap.positions), np.concatenate(heap.normals)
        mesh = Mesh(positions, faces, normals, uv, np.zeros(len(faces), np.int32))
        by_vertex = level < 0
        bsdf = _leaf_bsdf(mi, scene.kit.material(name), colour.mean(axis=0), by_vertex)
        full = f"{name} {level}".replace(".", "_")
        yield full, mi_mesh(mi, full, mesh, uv, bsdf, colour if by_vertex else None)


def rotated(quaternion: np.ndarray, vectors: np.ndarray, mirrored: np.ndarray | None = None) -> np.ndarray:
    """(N, 4) rotations applied to (V, 3) vectors → (N, V, 3); where `mirrored` (N,), to the vectors with −x."""
    x, y, z, w = (quaternion[:, k, None] for k in range(4))
    matrix = np.stack(
        [
            np.concatenate([1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)], 1),
            np.concatenate([2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)], 1),
            np.concatenate([2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)], 1),
        ],
        axis=1,
    )
    if mirrored is not None:
        matrix[mirrored, :, 0] *= -1
    return np.matmul(vectors[None].astype(np.float32), matrix.transpose(0, 2, 1).astype(np.float32))


def _leaf_bsdf(mi: Any, material: Material, tint: np.ndarray, by_vertex: bool) -> dict[str, Any]:
    if by_vertex:
        base: dict[str, Any] = {"type": "mesh_attribute", "name": "vertex_color"}
    else:
        base = bitmap(mi, tinted(material.colour, tint)[::-1], False, "repeat")
    rough = float(material.roughness.mean() / 255)
    if material.translucency > 0:
        inner = {
            "type": "principledthin",
            "base_color": base,
            "roughness": max(rough, 0.3),
            "diff_trans": 2 * 0.5 * material.translucency,
            "spec_trans": 0.0,
            "eta": 1.35,
        }
    else:
        inner = {
            "type": "twosided",
            "inner": {"type": "principled", "base_color": base, "roughness": max(rough, 0.1), "specular": 0.4},
        }
    if material.alpha is not None:
        return {"type": "mask", "opacity": bitmap(mi, material.alpha[::-1], True, "repeat"), "inner": inner}
    return inner
