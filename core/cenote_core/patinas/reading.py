"""Reading tiling pictures at points: bilinear, from as many sides as count there."""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined


@inlined()
def bilinear(image: np.ndarray, channel: int, u: float, v: float) -> float:
    """Repeating bilinear reading, row 0 at v = 1 as pictures are stored."""
    size = image.shape[0]
    x = (u - np.floor(u)) * size - 0.5
    y = (1.0 - (v - np.floor(v))) * size - 0.5
    fx, fy = np.floor(x), np.floor(y)
    x0, y0 = int(fx) % size, int(fy) % size
    x1, y1 = (x0 + 1) % size, (y0 + 1) % size
    fx, fy = x - fx, y - fy
    top = image[y0, x0, channel] * (1 - fx) + image[y0, x1, channel] * fx
    low = image[y1, x0, channel] * (1 - fx) + image[y1, x1, channel] * fx
    return top * (1 - fy) + low * fy


@inlined()
def read_sides(image: np.ndarray, channel: int, places: np.ndarray, shares: np.ndarray, n: int, tile: float) -> float:
    """A picture at a point, seen from all sides that count there."""
    value = 0.0
    for side in range(shares.shape[1]):
        if shares[n, side] > 0:
            value += shares[n, side] * bilinear(image, channel, places[n, side, 0] / tile, places[n, side, 1] / tile)
    return value
