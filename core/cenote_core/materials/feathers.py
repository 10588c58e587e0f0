"""Frost on glass: ferns of ice that grow from a few seeds, each rib with barbs at the angle of ice crystals.

Given as the order in which places are frozen, so that a threshold lets them grow.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import kernel
from .tile import spectral

_SEEDS = 20
_LONG = (0.22, 0.5)
"""Length of a main rib, in tiles."""
_ANGLE = np.radians(58.0)
"""Between a rib and its barbs: ice grows along axes sixty degrees apart."""
_BARBS = 0.017
"""Tiles between two barbs of a rib."""
_THINNEST = 0.8
"""Pixels of radius of the thinnest barb: thinner ones would fall apart."""
_FINEST = 0.012
"""Ribs shorter than this bear no barbs of their own."""
_FIRST, _LAST = 1.0, 0.84
"""Order of what is frozen first and of the tips."""
_HAZE = 0.72
"""Order of the dull film between ferns, which comes last."""


def feathers(size: int, seed: int) -> np.ndarray:
    """(size, size) float32 order 0..1 in which a pane freezes over, 1 first; repeats at its rim."""
    rng = np.random.default_rng(seed)
    out = (_HAZE * spectral(size, 0.09, 1.0, seed)).astype(np.float32)
    bent = spectral(size, 0.4, 1.5, seed + 1).astype(np.float64)
    stack = []
    for _ in range(_SEEDS):
        start, way = rng.random(2), rng.random() * 2 * np.pi
        for fan in rng.choice(6, rng.integers(2, 4), replace=False):
            long = _LONG[0] + (_LONG[1] - _LONG[0]) * rng.random()
            stack.append((start[0], start[1], way + fan * np.pi / 3 + rng.normal(0, 0.12), long, _FIRST))
    for x, y, way, long, order in stack:
        _rib(out, bent, x, y, way, long, order, rng.random() - 0.5, 0)
    return out


@kernel
def _rib(
    out: np.ndarray,
    bent: np.ndarray,
    x: float,
    y: float,
    way: float,
    long: float,
    order: float,
    curl: float,
    depth: int,
) -> None:
    """Freeze a rib and, from time to time along it, barbs to both sides."""
    size = out.shape[0]
    steps = max(int(long * size), 2)
    each = max(int(_BARBS * size / (1 + depth)), 3)
    for step in range(steps):
        t = step / steps
        row, column = int(y * size) % size, int(x * size) % size
        way += (curl * 1.6 + (bent[row, column] - 0.5) * 1.4) / steps
        x, y = x + np.cos(way) / size, y + np.sin(way) / size
        here = order - (order - _LAST) * t
        _dot(out, x * size, y * size, here, max(_THINNEST, (1.5 - 0.9 * t) / (1 + 0.7 * depth)))
        if depth < 2 and step % each == each - 1 and long > _FINEST:
            # Barbs are longest a little above the root, and shorter toward the tip.
            reach = long * (0.46 if depth == 0 else 0.42) * (0.25 + t) ** 0.5 * (1 - t) ** 0.8
            uneven = 0.75 + 0.5 * bent[(row * 7) % size, (column * 5) % size]
            for side in (-1.0, 1.0):
                _rib(out, bent, x, y, way + side * _ANGLE, reach * uneven, here - 0.02, -0.25 * side, depth + 1)


@kernel
def _dot(out: np.ndarray, x: float, y: float, order: float, radius: float) -> None:
    size = out.shape[0]
    reach = int(radius + 1.5)
    for row in range(int(y) - reach, int(y) + reach + 1):
        for column in range(int(x) - reach, int(x) + reach + 1):
            away = np.sqrt((row + 0.5 - y) ** 2 + (column + 0.5 - x) ** 2)
            share = min(1.0, max(0.0, radius + 0.5 - away))
            value = order * share
            if value > out[row % size, column % size]:
                out[row % size, column % size] = value
