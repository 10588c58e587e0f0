"""Aspect: how far a surface faces away from a compass direction."""

from __future__ import annotations

import numpy as np


def compass(degrees: float) -> np.ndarray:
    """(2,) unit direction in x and z of a compass bearing: 0 north is −z, 90 east is +x."""
    angle = np.radians(degrees)
    return np.array([np.sin(angle), -np.cos(angle)])


def aspect(normals: np.ndarray, toward: float) -> np.ndarray:
    """(N, 3) normals → (N,) float32 degrees between where they face and a bearing, 0 to 180.

    Level places face every way; they count as 90°, half way between.
    """
    flat = normals[:, [0, 2]].astype(np.float64)
    length = np.hypot(flat[:, 0], flat[:, 1])
    cosine = (flat @ compass(toward)) / np.maximum(length, 1e-9)
    angle = np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0)))
    return np.where(length < 1e-4, 90.0, angle).astype(np.float32)
