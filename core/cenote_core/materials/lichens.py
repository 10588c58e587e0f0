"""Lichens: crusts that grow outward year by year."""

from __future__ import annotations

import numpy as np

from .material import Material, material
from .tile import blur, cells, colour, mix, ramp, smooth, spectral, warped

_TILE = 0.6
_ROOM = (0.35, 0.62, 0.5)
"""Share of the places that stay empty, by the age of what would grow there."""
_RIM = 0.62
"""Radius of a grown thallus against the space it has."""
_HOLLOW = 0.86
"""Crusts above this number have died out in the middle."""


def lichen(size: int, seed: int) -> Material:
    """Crusts on stone: lobed rosettes of three ages, paler and thicker at the rim, with dark fruits. 0.6 m."""
    across_by, down_by = (blur(spectral(size, 0.09, 2.2, seed + k), 0.004) - 0.5 for k in (7, 8))
    height = np.zeros((size, size), np.float32)
    base = np.zeros((size, size, 3), np.float32) + colour("#6e6b62")
    for k, (across, pale, dark) in enumerate(
        ((7, "#c9cbb4", "#8e937c"), (13, "#d2ac45", "#96722a"), (22, "#dcdcd0", "#a5a699"))
    ):
        near, _, who = (warped(f, across_by, down_by, 0.022) for f in cells(size, across, seed + 20 + k))
        grown = _RIM * (0.35 + 0.65 * who)
        at = near / np.maximum(grown, 1e-3)
        lies = smooth(1.06, 0.96, at) * (who > _ROOM[k])
        rim = np.exp(-(((at - 0.9) / 0.1) ** 2)) * lies
        areoles = 1 - smooth(0.02, 0.2, _cracks(size, across * 14, seed + 40 + k))
        rings = 0.5 + 0.5 * np.cos(at * 26)
        # Each stands at a level of its own, so that where fewer lie whole crusts are missing and not all but their rims.
        middle = 1 - 0.5 * smooth(0.45, 0.2, at) * (who > _HOLLOW)
        up = lies * (0.25 + 0.5 * who + 0.10 * rim + 0.05 * rings - 0.10 * areoles * (at < 0.85)) * middle
        fruits = _fruits(size, across * 11, seed + 60 + k) * lies * (at < 0.8)
        skin = ramp(0.55 * rim + 0.25 * rings + 0.2 * (1 - areoles), (0.15, dark), (0.7, pale))
        skin = mix(skin, skin * 0 + colour("#3a342b"), fruits)
        over = lies * (up >= height)
        base = mix(base, skin, over)
        height = np.maximum(height, up + 0.2 * fruits)
    grain = spectral(size, 0.008, 0.1, seed + 90)
    base = base * (0.9 + 0.2 * grain)[..., None]
    return material(np.clip(base, 0, 1), 0.92 - 0.06 * grain, np.clip(height, 0, 1), _TILE, 0.003)


def _cracks(size: int, across: int, seed: int) -> np.ndarray:
    """Distance to the cracks between areoles, 0 in them."""
    near, second, _ = cells(size, across, seed)
    return np.asarray(second - near)


def _fruits(size: int, across: int, seed: int) -> np.ndarray:
    """Small round dark fruits, on one areole in four."""
    near, _, who = cells(size, across, seed)
    return np.asarray(smooth(0.34, 0.2, near) * (who > 0.75))
