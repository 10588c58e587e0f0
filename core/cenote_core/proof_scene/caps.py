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
from .rime import REACH as RIMED
from .rime import feathers
from .snow import snow_surface
from .tables import Shot, Tables

REACH = 26.0
"""Metres from the eye within which caps are bodies; farther off what is scattered is whitened only."""
_STANDS = 2.1
"""Metres of snow on a metre of radius."""
_SHARE = 0.8
"""Of the depth on open ground, on what is wide enough."""
_STARTS, _FULL = 0.08, 0.72
"""Upward part of a normal from which a cap begins, and from which it has its full depth."""
_LET_IN = 0.2
"""Radii by which the sides of a cap are sunk into what bears it."""
_LEAST = 0.002
"""Metres under which a cap is whitening and no body."""


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
    weather, eye = shot.scene.site.weather, axes(shot.station)[0]
    snow = response.takes_snow * weather.fallen.snow * _SHARE * max(0.0, 1 - weather.wind / STRONG)
    toward = np.array(weather.fallen.rime)
    rime = response.takes_frost * float(np.linalg.norm(toward))
    away = np.linalg.norm(instances.position - eye, axis=1)
    if roofed is not None:
        away = np.where(roofed, np.inf, away)
    stands = placed.positions.reshape(len(instances), -1, 3)
    wood = mesh.faces[solid[mesh.slots]]
    found = []
    if snow >= _LEAST and len(wood):
        chosen = np.flatnonzero(away < REACH)
        found.append(capped(mesh, wood, instances.taken(chosen), stands[chosen].astype(np.float64), snow))
    if rime > 0:
        # A tall plant may hang over the eye.
        low, high = mesh.bounds()
        chosen = np.flatnonzero(away < RIMED + float(np.linalg.norm(high - low)) * instances.scale)
        at, size = stands[chosen].astype(np.float64), _sized(mesh, instances.taken(chosen))
        found.append(feathers(mesh, mesh.faces, at, size, toward / rime, rime, eye))
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
    normals, radius = _turned(instances, mesh.normals.astype(np.float64)), _sized(mesh, instances)
    t = np.clip((normals[..., 1] - _STARTS) / (_FULL - _STARTS), 0, 1)
    up = t * t * (3 - 2 * t)
    depth = np.minimum(snow, _STANDS * radius) * _uneven(at)
    lies = up[:, faces].max(axis=2) > 0
    lies &= depth[:, faces].max(axis=2) > _LEAST
    instance, face = np.nonzero(lies)
    if not len(instance):
        return None
    moved = at + np.where(up > 0, 0, -_LET_IN * radius)[..., None] * normals
    moved[..., 1] += depth * up
    bent = normals + np.array([0, 0.9, 0]) * up[..., None]
    bent /= np.maximum(np.linalg.norm(bent, axis=2, keepdims=True), 1e-9)
    flat = instance[:, None] * at.shape[1] + faces[face]
    used, corners = np.unique(flat, return_inverse=True)
    return moved.reshape(-1, 3)[used], bent.reshape(-1, 3)[used], corners.reshape(-1, 3)


def _sized(mesh: Mesh, instances: Instances) -> np.ndarray:
    """(N, V) metres: `radii` of the instances as they stand."""
    return radii(mesh)[None] * instances.scale[:, None].astype(np.float64)


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
