"""Tangents of a mesh: the direction in which u grows along the surface, for normal maps in files."""

from __future__ import annotations

import numpy as np


def tangents(positions: np.ndarray, faces: np.ndarray, normals: np.ndarray, uv: np.ndarray) -> np.ndarray:
    """(V, 4) float32: unit tangents square to the normals, and which way the bitangent points.

    The mean over the faces around each vertex, by area in the picture (Lengyel 2001); the bitangent, along which v grows,
    is the fourth value times normal × tangent. Where coordinates say nothing, any direction in the surface is given.

    Parameters
    ----------
    positions, normals : (V, 3), normals of unit length
    faces : (F, 3) int
    uv : (V, 2), v upward
    """
    p, t = positions[faces].astype(np.float64), uv[faces].astype(np.float64)
    e1, e2, d1, d2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0], t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
    turned = np.where(d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0] < 0, -1.0, 1.0)[:, None]
    along_u = _around((e1 * d2[:, 1:2] - e2 * d1[:, 1:2]) * turned, faces, len(positions))
    along_v = _around((e2 * d1[:, 0:1] - e1 * d2[:, 0:1]) * turned, faces, len(positions))
    along_u -= normals * _dot(along_u, normals)
    length = np.linalg.norm(along_u, axis=1, keepdims=True)
    # Square to the normal and to whichever axis is least along it.
    axis = np.eye(3)[np.abs(normals).argmin(axis=1)]
    any_one = np.cross(axis, normals)
    any_one /= np.maximum(np.linalg.norm(any_one, axis=1, keepdims=True), 1e-12)
    out = np.where(length > 1e-12, along_u / np.maximum(length, 1e-12), any_one)
    hand = np.where(_dot(np.cross(normals, out), along_v) < 0, -1.0, 1.0)
    return np.concatenate([out, hand], axis=1).astype(np.float32)


def _dot(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.einsum("ij,ij->i", a, b)[:, None]


def _around(values: np.ndarray, faces: np.ndarray, count: int) -> np.ndarray:
    """(V, 3) sums of what the faces around each vertex have, (F, 3)."""
    corners = faces.ravel()
    sums = [np.bincount(corners, np.repeat(values[:, k], 3), count) for k in range(3)]
    return np.stack(sums, axis=1).astype(np.float64)
