"""Places strewn evenly over triangles, the same for the same triangles."""

from __future__ import annotations

import numpy as np

from ..hashing import uniform
from .mesh import Mesh

_NAMES = np.uint64(65537)
"""More than there are places on any triangle."""


def strewn(mesh: Mesh, faces: np.ndarray, density: float, channel: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places on some faces of a mesh, about `density` a square metre.

    Returns (N,) the face of each, (N, 3) shares of its corners, (N,) uint64 names. Three channels of the faces'
    identities are used up (places evenly over a triangle: Osada et al., *Shape distributions*, 2002).
    """
    corners = mesh.positions[mesh.faces[faces]].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    expected = np.linalg.norm(across, axis=1) / 2 * density
    count = (expected + uniform(faces.astype(np.uint64), channel)).astype(np.int64)
    face = np.repeat(faces, count)
    within = np.arange(len(face)) - np.repeat(np.cumsum(count) - count, count)
    name = face.astype(np.uint64) * _NAMES + within.astype(np.uint64)
    a, b = uniform(name, channel + 1), uniform(name, channel + 2)
    root = np.sqrt(a)
    return face, np.stack([1 - root, root * (1 - b), root * b], axis=1), name
