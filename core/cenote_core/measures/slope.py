"""Slope: the angle between the surface's normal and straight up."""

from __future__ import annotations

import numpy as np


def slope(normals: np.ndarray) -> np.ndarray:
    """(N, 3) unit normals → (N,) float32 degrees: 0 level, 90 upright, 180 facing down."""
    return np.degrees(np.arccos(np.clip(normals[:, 1], -1.0, 1.0))).astype(np.float32)
