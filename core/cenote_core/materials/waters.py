"""The surface of water. Each takes a size and a seed."""

from __future__ import annotations

import numpy as np

from .material import Material, material
from .tile import spectral


def still_water(size: int, seed: int) -> Material:
    """Water a breath of air has passed over: long low ripples and some shorter ones. 0.9 m."""
    height = 0.65 * spectral(size, 0.3, 1.8, seed, 1.6) + 0.35 * spectral(size, 0.09, 1.6, seed + 1, 1.3)
    white = np.ones((size, size, 3), np.float32)
    return material(white, 1.0, np.clip(height, 0, 1), 0.9, 0.0004, metalness=1.0)
