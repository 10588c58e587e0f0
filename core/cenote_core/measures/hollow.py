"""Hollow: height of a place of the ground against the mean of its surroundings."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import uniform_filter


def hollow_map(y: np.ndarray, cell: float, reach: float) -> np.ndarray:
    """(R, C) heights → (R, C) float32 metres above the mean within `reach`: negative in hollows, positive on ridges.

    The topographic position index (Weiss, *Topographic Position and Landforms Analysis*, 2001) with a square
    surrounding of side 2 · reach.
    """
    side = max(3, 2 * int(round(reach / cell)) + 1)
    return np.asarray(y - uniform_filter(y, side, mode="nearest"), np.float32)
