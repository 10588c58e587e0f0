"""Snow and rime on boughs, twigs and stones of drifts: a cap along the upper side of each, as thick as it can hold.

A cap is a second skin over what looks up: raised by its depth along the middle, let into the wood at its sides. How much
a twig holds goes by its width: snow stands about as high as what bears it is wide (after Pfister and Schneebeli, *Snow
accumulation on boards of different sizes and shapes*, 1999).
"""

from __future__ import annotations

import numpy as np
from scipy.spatial.transform import Rotation

from ..drifts.instances import Instances
from ..mesh.mesh import Mesh
from ..plan import Response
from ..scene.scene import Scene
from ..snow.cover import MATERIAL
from ..stations.camera import axes
from ..surfaces.wind_formulas import STRONG
from ..tracer import tables
from ..tracer.tables import Triangles
from .snow import snow_surface
from .tables import Shot, Tables

REACH = 26.0
"""Metres from the eye within which caps are bodies; farther off what is scattered is whitened only."""
_STANDS = 2.1
"""Metres of snow on a metre of radius."""
_SHARE = 0.8
"""Of the depth on open ground, on what is wide enough."""
_STARTS, _FULL = 0.08, 0.72
"""Part of a normal toward the sky, or the wind, from which a cap begins, and from which it has its full depth."""
_LET_IN = 0.2
"""Radii by which the sides of a cap are sunk into what bears it."""
_LEAST = 0.002
"""Metres under which a cap is whitening and no body."""
_UP = np.array([0.0, 1.0, 0.0])
_RIME, _THIN = 0.016, 0.006
"""Metres of rime on the thinnest twigs at most, and the radius up to which twigs are as thin as that."""


def radii(mesh: Mesh) -> np.ndarray:
    """(V,) metres of the tightest curve of a mesh at each vertex: of a tube its radius; 1 where it is flat."""
    out = np.ones(len(mesh.positions))
    for a, b in ((0, 1), (1, 2), (2, 0)):
        one, other = mesh.faces[:, a], mesh.faces[:, b]
        apart = np.linalg.norm(mesh.positions[one] - mesh.positions[other], axis=1).astype(np.float64)
        turned = np.linalg.norm(mesh.normals[one] - mesh.normals[other], axis=1)
        found = np.where(turned > 0.05, apart / np.maximum(turned, 1e-6), 1.0)
        np.minimum.at(out, one, found)
        np.minimum.at(out, other, found)
    return out


def add_caps(
    out: Tables, shot: Shot, response: Response, mesh: Mesh, solid: np.ndarray, instances: Instances,
    placed: Triangles, roofed: np.ndarray | None,
) -> None:  # fmt: skip
    """Put the caps of some instances of a mesh into the tables.

    Parameters
    ----------
    solid : (slots,) bool, which of the mesh's slots are wood or stone
    placed : the instances' own triangles, as they stand
    roofed : (N,) bool, which of them stand under a roof; None: none
    """
    weather = shot.scene.site.weather
    snow = response.takes_snow * weather.fallen.snow * _SHARE * max(0.0, 1 - weather.wind / STRONG)
    toward = np.array(weather.fallen.rime)
    rime = response.takes_frost * float(np.linalg.norm(toward)) * _RIME
    faces = mesh.faces[solid[mesh.slots]]
    near = np.linalg.norm(instances.position - axes(shot.station)[0], axis=1) < REACH
    if max(snow, rime) < _LEAST or not len(faces):
        return
    if roofed is not None:
        near &= ~roofed
    chosen = np.flatnonzero(near)
    if not len(chosen):
        return
    at = placed.positions.reshape(len(instances), -1, 3)[chosen].astype(np.float64)
    taken = instances.taken(chosen)
    found = [capped(mesh, faces, taken, at, snow)] if snow >= _LEAST else []
    if rime >= _LEAST:
        found.append(rimed(mesh, faces, taken, at, rime, toward / np.linalg.norm(toward)))
    for cap in found:
        if cap is not None:
            _add(out, shot.scene, *cap)


def _add(out: Tables, scene: Scene, positions: np.ndarray, normals: np.ndarray, corners: np.ndarray) -> None:
    uv = np.column_stack([positions[:, 0] + positions[:, 1], -positions[:, 2]]).astype(np.float32)
    vertices = tables.packed_vertices(uv, normals, np.ones_like(normals))
    surface = snow_surface(out, scene.material(MATERIAL))
    words = np.column_stack([corners, np.full(len(corners), surface)]).astype(np.uint32)
    out.parts.append(Triangles(positions.astype(np.float32), vertices, words))


def capped(
    mesh: Mesh, faces: np.ndarray, instances: Instances, at: np.ndarray, snow: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """(M, 3) positions, (M, 3) normals and (K, 3) corners of caps on `faces` of instances that stand `at` (N, V, 3).

    `snow` is the most metres anything bears. None where nothing looks up.
    """
    radius = _sized(mesh, instances)
    return _grown(mesh, faces, instances, at, np.minimum(snow, _STANDS * radius) * _uneven(at), _UP)


def rimed(
    mesh: Mesh, faces: np.ndarray, instances: Instances, at: np.ndarray, rime: float, toward: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """The same of rime, which grows into the wind: ragged, and the farther out the thinner what bears it is.

    `rime` is the most metres, `toward` (3,) where the wind comes from.
    """
    thin = np.clip(_THIN / np.maximum(_sized(mesh, instances), 1e-4), 0, 1)
    # Feathers: each place of the skin has grown out by itself.
    ragged = 0.35 + 1.3 * np.modf(np.abs(np.sin(at @ np.array([127.1, 311.7, 74.7])) * 43758.5))[0]
    return _grown(mesh, faces, instances, at, rime * thin * ragged, toward)


def _sized(mesh: Mesh, instances: Instances) -> np.ndarray:
    """(N, V) metres: `radii` of the instances as they stand."""
    return radii(mesh)[None] * instances.scale[:, None].astype(np.float64)


def _grown(
    mesh: Mesh, faces: np.ndarray, instances: Instances, at: np.ndarray, depth: np.ndarray, toward: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """A second skin, `depth` (N, V) metres out on what looks `toward`."""
    normals, radius = _turned(instances, mesh.normals.astype(np.float64)), _sized(mesh, instances)
    t = np.clip((normals @ toward - _STARTS) / (_FULL - _STARTS), 0, 1)
    up = t * t * (3 - 2 * t)
    lies = up[:, faces].max(axis=2) > 0
    lies &= depth[:, faces].max(axis=2) > _LEAST
    instance, face = np.nonzero(lies)
    if not len(instance):
        return None
    moved = at + np.where(up > 0, 0, -_LET_IN * radius)[..., None] * normals
    moved += (depth * up)[..., None] * toward
    bent = normals + 0.9 * toward * up[..., None]
    bent /= np.maximum(np.linalg.norm(bent, axis=2, keepdims=True), 1e-9)
    flat = instance[:, None] * at.shape[1] + faces[face]
    used, corners = np.unique(flat, return_inverse=True)
    return moved.reshape(-1, 3)[used], bent.reshape(-1, 3)[used], corners.reshape(-1, 3)


def _uneven(at: np.ndarray) -> np.ndarray:
    """(N, V) about 1: some has slipped off here, more has caught there."""
    x, y, z = (at[..., k] for k in range(3))
    wave = np.sin(31 * x + 7 * y + 3 * np.sin(19 * z)) + np.sin(23 * z - 11 * y + 2 * np.sin(27 * x))
    return np.asarray(np.clip(0.85 + 0.3 * wave, 0.15, 1.4))


def _turned(instances: Instances, vectors: np.ndarray) -> np.ndarray:
    """(N, V, 3) a mesh's normals as its instances stand."""
    rows = Rotation.from_quat(instances.rotation).as_matrix()
    mirrored = np.where(instances.mirrored[:, None], np.array([-1.0, 1, 1]), 1.0)
    return np.einsum("nij,nvj->nvi", rows, vectors[None] * mirrored[:, None])
