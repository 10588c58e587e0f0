"""Grounds of loose pieces: pebbles, bark chips, leaf soil. Each takes a size and a seed.

Pieces are let down one after another, the smallest and lowest first; where two meet the higher one shows.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.kernels import kernel
from .material import Material, material
from .tile import mix, ramp, smooth, spectral

PEBBLE, CHIP, LEAF = 0, 1, 2
_NONE = -1


@dataclass(frozen=True)
class Strewn:
    """What shows at each texel, all (S, S).

    Attributes
    ----------
    height : 0..1, of the highest piece there; 0 where there is none
    tone : 0..1, one number a piece
    along, across : where in its piece, each -1..1
    on : is there a piece?
    """

    height: np.ndarray
    tone: np.ndarray
    along: np.ndarray
    across: np.ndarray
    on: np.ndarray


@kernel
def _within(shape: int, a: float, b: float, ragged: float) -> float:
    """Height of a piece over its foot, 0..1, at a place in it; below 0 outside."""
    if shape == PEBBLE:
        # A little squarer than an ellipse.
        return 1.0 - abs(a) ** 2.3 - abs(b) ** 2.3
    if shape == CHIP:
        end = 0.88 + 0.1 * np.sin(4.0 * b + 40.0 * ragged) + 0.02 * np.sin(23.0 * b + 9.0 * ragged)
        side = 0.8 + 0.2 * np.sin(2.6 * a + 31.0 * ragged)
        return min(1.0, 12.0 * min(end - abs(a), 0.6 * (side - abs(b))))
    t = 0.5 + 0.5 * a
    if t <= 0.0 or t >= 1.0:
        return -1.0
    half = np.sin(np.pi * t**0.8) ** 0.85
    return half - abs(b)


@kernel
def _strew(
    at: np.ndarray, half: np.ndarray, turn: np.ndarray, level: np.ndarray, rise: np.ndarray, lean: np.ndarray,
    shape: int, height: np.ndarray, owner: np.ndarray, along: np.ndarray, across: np.ndarray,
) -> None:  # fmt: skip
    size = len(height)
    for n in range(len(at)):
        c, s = np.cos(turn[n]), np.sin(turn[n])
        reach = int(np.ceil(half[n].max() * size * 1.05)) + 1
        middle_row, middle_column = int(at[n, 1] * size), int(at[n, 0] * size)
        for i in range(-reach, reach + 1):
            for j in range(-reach, reach + 1):
                x = (middle_column + j + 0.5) / size - at[n, 0]
                y = (middle_row + i + 0.5) / size - at[n, 1]
                a, b = (x * c + y * s) / half[n, 0], (y * c - x * s) / half[n, 1]
                if abs(a) > 1.0 or abs(b) > 1.0:
                    continue
                inside = _within(shape, a, b, lean[n, 1])
                if inside <= 0.0:
                    continue
                if shape == LEAF:
                    # Rims curl up from the midrib, and the tip with them.
                    body = 0.65 + 0.2 * b * b * (0.6 + lean[n, 1]) + 0.1 * a * a
                else:
                    body = np.sqrt(inside) if shape == PEBBLE else min(1.0, inside + 0.5)
                here = level[n] + rise[n] * body + lean[n, 0] * a
                row, column = (middle_row + i) % size, (middle_column + j) % size
                if here > height[row, column]:
                    height[row, column] = here
                    owner[row, column] = n
                    along[row, column], across[row, column] = a, b


@kernel
def _apart(at: np.ndarray, radius: np.ndarray) -> np.ndarray:
    """(N,) which of round pieces stay, the last first, if none may lie on another."""
    stays = np.zeros(len(at), np.bool_)
    for n in range(len(at) - 1, -1, -1):
        free = True
        for m in range(n + 1, len(at)):
            if stays[m]:
                dx, dy = abs(at[n, 0] - at[m, 0]), abs(at[n, 1] - at[m, 1])
                dx, dy = min(dx, 1.0 - dx), min(dy, 1.0 - dy)
                if dx * dx + dy * dy < (radius[n] + radius[m]) ** 2:
                    free = False
                    break
        stays[n] = free
    return stays


def strewn(
    size: int, seed: int, shape: int, count: int, length: tuple[float, float], slim: tuple[float, float], rise: float
) -> Strewn:
    """Let pieces down on an empty tile.

    Parameters
    ----------
    length : half a piece's length from and to, shares of the tile; short ones are more frequent
    slim : width over length, from and to
    rise : height of a piece, 0..1 of the relief
    """
    rng = np.random.Generator(np.random.Philox(seed))
    long = length[0] + (length[1] - length[0]) * rng.random(count) ** 2
    long = np.sort(long)
    half = np.column_stack([long, long * rng.uniform(*slim, count)])
    lean = np.column_stack([rng.uniform(-0.1, 0.1, count), rng.random(count)])
    at, turn, tone = rng.random((count, 2)), rng.random(count) * 2 * np.pi, rng.random(count).astype(np.float32)
    # Tone and level hang together with nothing else: a bright piece is no higher than a dark one.
    level = rng.random(count) * (0.94 - rise) + 0.02
    high = rise * (0.6 + 0.4 * long / length[1])
    if shape == PEBBLE:
        # Stones do not reach through each other; they lie side by side, at nearly one level.
        level *= 0.3
        stays = _apart(at, half.mean(axis=1) * 0.94)
        at, half, turn, tone, level, high, lean = (v[stays] for v in (at, half, turn, tone, level, high, lean))
    height, along, across = (np.zeros((size, size), np.float32) for _ in range(3))
    owner = np.full((size, size), _NONE, np.int32)
    _strew(at, half, turn, level, high, lean, shape, height, owner, along, across)
    return Strewn(height, np.where(owner >= 0, tone[owner], 0), along, across, owner >= 0)


def _over(below: np.ndarray, under: np.ndarray, top: Strewn, above: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Height and colour of pieces on a ground: whichever of the two is higher."""
    shows = smooth(-0.02, 0.02, top.height - below) * top.on
    return np.maximum(below, top.height * top.on), mix(under, above, shows)


def _hollow_shade(height: np.ndarray) -> np.ndarray:
    return (0.4 + 0.6 * smooth(0.08, 0.6, height))[..., None]


def pebbles(size: int, seed: int) -> Material:
    """Round pebbles of a brook in two sizes, in coarse sand. 1.2 m."""
    fine, drift = spectral(size, 0.02, 0.5, seed), spectral(size, 0.35, 1.5, seed + 1)
    grain = spectral(size, 0.006, 0.2, seed + 4)
    small = strewn(size, seed + 2, PEBBLE, 9000, (0.005, 0.012), (0.6, 0.95), 0.36)
    large = strewn(size, seed + 3, PEBBLE, 5000, (0.014, 0.034), (0.6, 0.95), 0.8)
    height = 0.06 + 0.08 * fine + 0.04 * drift
    base = ramp(fine, (0.2, "#5d5346"), (0.6, "#7b7060"), (0.9, "#978b77"))
    for lying in (small, large):
        kinds = ramp(lying.tone, (0, "#55565a"), (0.3, "#77756f"), (0.55, "#8d8474"), (0.8, "#8a6f5c"), (1, "#b3ada0"))
        # Some are banded; the bands run through a pebble whole and wander.
        banded = 0.07 * smooth(0.45, 0.5, (7.3 * lying.tone) % 1)
        band = 1 - banded * (0.5 + 0.5 * np.sin(5 * lying.across + 2 * drift + 50 * lying.tone))
        height, base = _over(height, base, lying, kinds * (band * (0.8 + 0.4 * grain))[..., None])
    return material(base * _hollow_shade(height), 0.72 + 0.2 * fine, np.clip(height, 0, 1), 1.2, 0.03)


def bark_chips(size: int, seed: int) -> Material:
    """Coarse bark chips as they are spread under shrubs. 1.2 m."""
    fine, drift = spectral(size, 0.012, 0.4, seed), spectral(size, 0.4, 1.5, seed + 1)
    small = strewn(size, seed + 2, CHIP, 5200, (0.006, 0.016), (0.3, 0.7), 0.2)
    large = strewn(size, seed + 3, CHIP, 2600, (0.014, 0.034), (0.25, 0.55), 0.26)
    height = 0.05 + 0.1 * fine
    base = ramp(fine, (0.2, "#2a211a"), (0.8, "#453628"))
    for lying in (small, large):
        kinds = ramp(
            lying.tone, (0, "#3a291e"), (0.35, "#5a3d2a"), (0.65, "#75543a"), (0.85, "#8a6a4c"), (1, "#9b8466")
        )
        grain = np.sin(lying.across * (14 + 18 * lying.tone) + 2.2 * fine + 40 * lying.tone)
        worn = (0.9 + 0.12 * grain + 0.22 * (fine - 0.5) + 0.12 * (drift - 0.5))[..., None]
        ridged = Strewn(lying.height + 0.012 * grain, lying.tone, lying.along, lying.across, lying.on)
        height, base = _over(height, base, ridged, kinds * worn)
    return material(base * _hollow_shade(height), 0.86 + 0.1 * fine, np.clip(height, 0, 1), 1.2, 0.035)


def leaf_soil(size: int, seed: int) -> Material:
    """Soil under trees: crumbs, rotted and whole fallen leaves in several layers, twigs. 1.2 m."""
    fine, drift = spectral(size, 0.015, 0.5, seed), spectral(size, 0.3, 1.5, seed + 1)
    rotted = strewn(size, seed + 2, LEAF, 3600, (0.008, 0.02), (0.5, 0.8), 0.2)
    whole = strewn(size, seed + 3, LEAF, 1500, (0.018, 0.032), (0.55, 0.8), 0.3)
    twigs = strewn(size, seed + 4, CHIP, 110, (0.03, 0.075), (0.025, 0.05), 0.12)
    height = 0.12 + 0.14 * fine + 0.12 * drift
    base = ramp(0.6 * fine + 0.4 * drift, (0.2, "#231c15"), (0.5, "#33291f"), (0.8, "#47392b"))
    tones = (
        (rotted, ((0, "#2c2118"), (0.5, "#43301f"), (1, "#5a4127"))),
        (whole, ((0, "#3a2a1c"), (0.4, "#553c25"), (0.65, "#66492b"), (0.85, "#7a5f3c"), (1, "#5e5a48"))),
        (twigs, ((0, "#3a2f27"), (1, "#6a5b4b"))),
    )
    for lying, kinds in tones:
        vein = smooth(0.07, 0.02, np.abs(lying.across)) + 0.5 * smooth(
            0.82, 1.0, np.cos(22 * lying.along - 9 * np.abs(lying.across))
        )
        worn = (0.86 + 0.28 * fine + 0.12 * vein)[..., None]
        height, base = _over(height, base, lying, ramp(lying.tone, *kinds) * worn)
    return material(base * _hollow_shade(height), 0.8 + 0.15 * fine, np.clip(height, 0, 1), 1.2, 0.03)
