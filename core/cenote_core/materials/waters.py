"""The surface of water. Each takes a size and a seed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .material import Material, material, to_bytes
from .tile import cells, smooth, spectral

_RINGS, _SPREADS = 70, 0.085
"""Drops that have just fallen on a tile, and the widest ring in tiles."""
_CREST = 0.006
"""Width of a crest, in tiles."""


def still_water(size: int, seed: int) -> Material:
    """Water a breath of air has passed over: long low ripples and some shorter ones. 0.9 m."""
    height = 0.65 * spectral(size, 0.3, 1.8, seed, 1.6) + 0.35 * spectral(size, 0.09, 1.6, seed + 1, 1.3)
    white = np.ones((size, size, 3), np.float32)
    return material(white, 1.0, np.clip(height, 0, 1), 0.9, 0.0004, metalness=1.0)


def drops(size: int, seed: int) -> Material:
    """Drops of all sizes beside one another, each a cap of a ball, the largest 2 mm of radius; nothing between. 0.06 m.

    Of the colour is only a shade left, for the surface shows through: darker at the upper rim, brighter where the light
    that a drop has bundled comes out at its lower side.
    """
    tile, rng = 0.06, np.random.Generator(np.random.Philox(seed + 3))
    radii = (
        np.concatenate([rng.uniform(a, b, n) for a, b, n in ((1.3, 2.0, 55), (0.6, 1.2, 160), (0.15, 0.5, 1400))]) / 1e3
    )
    height, shade = np.zeros((size, size)), np.full((size, size), 0.65)
    at = (np.arange(size) + 0.5) / size * tile
    placed = np.zeros((0, 3))
    for radius in radii:
        for x, y in rng.random((12, 2)) * tile:
            apart = np.abs((placed[:, :2] - [x, y] + tile / 2) % tile - tile / 2)
            if (np.hypot(*apart.T) > placed[:, 2] + radius).all():
                break
        else:
            continue
        placed = np.vstack([placed, [x, y, radius]])
        reach = int(np.ceil(radius / tile * size)) + 2
        rows, columns = ((int(v / tile * size) + np.arange(-reach, reach + 1)) % size for v in (y, x))
        dx, dy = ((at[k] - v + tile / 2) % tile - tile / 2 for k, v in ((columns, x), (rows, y)))
        away = np.hypot(dx[None], dy[:, None]) / radius
        inside = away < 1
        # A contact angle of 65°: the ball the cap is of is so many times as wide as its foot.
        ball = 1 / np.sin(np.radians(65))
        cap = radius * (np.sqrt(np.maximum(ball**2 - away**2, 0)) - np.sqrt(ball**2 - 1))
        lower = dy[:, None] / radius
        cell = np.ix_(rows, columns)
        height[cell] = np.where(inside, np.maximum(height[cell], cap), height[cell])
        shade[cell] = np.where(inside, 0.62 + 0.16 * lower * away - 0.12 * smooth(0.8, 1.0, away), shade[cell])
    depth = float(height.max())
    white = np.repeat(np.clip(shade, 0, 1)[..., None], 3, axis=-1)
    # A picture's brightness is held by a curve for the eye; the shade is reckoned in light.
    made = material(white ** (1 / 2.2), 0.05, height / depth, tile, depth)
    # Of a film the height says where it lies: up to the very rim of each drop.
    return replace(made, height=to_bytes((height / depth) ** 0.35))


def foam(size: int, seed: int) -> Material:
    """Foam: bubbles of all sizes side by side, large ones with a window in their middle, and gaps. 0.3 m."""
    alpha = np.zeros((size, size), np.float32)
    light = np.full((size, size), 0.8, np.float32)
    for across, layer in ((26, 0), (61, 1)):
        near, second, who = cells(size, across, seed + layer)
        wall = smooth(0.30, 0.06, second - near)
        there = who > (0.45, 0.25)[layer]
        film = np.where(there, np.maximum(wall, 0.35), 0.0)
        light = np.where(film > alpha, 0.72 + 0.25 * wall, light)
        alpha = np.maximum(alpha, film)
    drift = spectral(size, 0.3, 1.4, seed + 5)
    alpha = np.clip(alpha * smooth(0.2, 0.55, drift) + 0.25 * smooth(0.5, 0.8, drift), 0, 1)
    white = np.repeat(light[..., None], 3, axis=-1) * np.array([1.0, 0.985, 0.955], np.float32)
    return material(white, 0.45, alpha, 0.3, 0.002, alpha=alpha)


def rain_rings(size: int, seed: int) -> Material:
    """Water that it rains on: rings of all ages, each a few crests that run outward and flatten. 0.9 m."""
    rng = np.random.Generator(np.random.Philox(seed + 7))
    height = 0.25 * (spectral(size, 0.2, 1.8, seed) - 0.5).astype(np.float64)
    at = (np.arange(size) + 0.5) / size
    for x, y, age in rng.random((_RINGS, 3)):
        # Over the rim of the tile it goes on at the other side.
        dx, dy = (np.abs((at - place + 0.5) % 1.0 - 0.5) for place in (x, y))
        away = np.hypot(dx[None], dy[:, None])
        radius = _SPREADS * age
        crests = np.cos((away - radius) / _CREST * 2) * np.exp(-(((away - radius) / (2.2 * _CREST)) ** 2))
        height += 0.5 * (1 - age) ** 1.5 * crests
    white = np.ones((size, size, 3), np.float32)
    return material(white, 1.0, np.clip(0.5 + 0.5 * height, 0, 1), 0.9, 0.0016, metalness=1.0)
