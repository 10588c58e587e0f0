"""Hard edges of pieces, chipped and worn: what their relief loses near an edge.

Nothing that stands out of doors keeps a straight arris. How much comes off is the material's affair: stone breaks in
chips, timber rounds off, metal keeps its edge.
"""

from __future__ import annotations

import numpy as np

from ..base.noise import noise
from ..graph.derived import derived
from ..hashing import text_seed
from ..materials.catalogue import CATALOGUE
from ..mesh.mesh import Mesh
from ..mesh.nearest import NearestTree, segment_tree
from ..mesh.refine import welded
from ..plan import GROUND
from ..scene.scene import Scene

_SHARP = np.cos(np.radians(30.0))
"""Cosine of the angle between two faces from which their edge counts as hard."""
_WIDTH = 2.5
"""Wear reaches so many times as far from an edge as it goes deep."""
_CHIP, _GRAIN = 0.11, 0.024
"""Metres from one chip to the next, and of the grain within."""
_WHERE = (0.52, 0.66)
"""Noise, 0..1, from which a chip begins, and from which it is whole."""
_EVERYWHERE = 0.3
"""Share of the depth that is worn off all along."""


def sharp_edges(mesh: Mesh) -> np.ndarray:
    """(E, 2, 3) ends of the edges of a mesh whose two faces meet at more than thirty degrees."""
    weld = welded(mesh.positions)
    corners = weld[mesh.faces].astype(np.int64)
    p = mesh.positions[mesh.faces].astype(np.float64)
    normal = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    a, b = corners.ravel(), corners[:, [1, 2, 0]].ravel()
    key = np.minimum(a, b) << 32 | np.maximum(a, b)
    order = np.argsort(key, kind="stable")
    face = np.repeat(np.arange(len(mesh.faces)), 3)[order]
    same = np.flatnonzero(key[order][1:] == key[order][:-1])
    meet = np.einsum("ij,ij->i", normal[face[same]], normal[face[same + 1]]) < _SHARP
    side = order[same[meet]]
    f, k = side // 3, side % 3
    return np.stack([p[f, k], p[f, (k + 1) % 3]], axis=1)


@derived(lambda scene, owner: scene.mesh.ref(owner))
def _edge_tree(scene: Scene, owner: str) -> NearestTree:
    ends = sharp_edges(scene.mesh(owner))
    return segment_tree(ends[:, 0], ends[:, 1])


def chips_of(scene: Scene, owner: str) -> np.ndarray:
    """(slots,) metres that come off the edges of each slot's material at most."""
    out = np.zeros(len(scene.local_mesh(owner).slot_names))
    for surface in scene.surfaces():
        if surface.owner == owner and not surface.layer and surface.material in CATALOGUE:
            out[surface.index] = CATALOGUE[surface.material].chips
    return out


def worn(scene: Scene, owner: str, positions: np.ndarray, slots: np.ndarray) -> np.ndarray:
    """(N,) metres that have come off at places of a piece, (N, 3), with the slots they lie on; 0 away from edges."""
    depth = chips_of(scene, owner)[slots] if owner != GROUND else np.zeros(len(positions))
    out = np.zeros(len(positions))
    if not depth.any() or len(sharp_edges(scene.mesh(owner))) == 0:
        return out
    # Wear goes with the piece when it is moved.
    local = scene.to_local(owner, positions.astype(np.float32))
    away = _edge_tree(scene, owner).distance(positions.astype(np.float32), _WIDTH * float(depth.max()))
    near = np.flatnonzero(away < _WIDTH * depth)
    seed = text_seed(owner) % 100_000
    chip = noise(local[near], _CHIP, 3, seed, 0.0)
    grain = noise(local[near], _GRAIN, 3, seed + 1, 0.0)
    chip = np.clip((chip - _WHERE[0]) / (_WHERE[1] - _WHERE[0]), 0, 1)
    share = _EVERYWHERE * grain + (1 - _EVERYWHERE) * chip * chip * (3 - 2 * chip) * (0.5 + grain)
    fall = 1 - away[near] / (_WIDTH * depth[near])
    out[near] = depth[near] * np.clip(share, 0, 1) * fall * fall
    return out
