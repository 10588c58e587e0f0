"""Films, powders and crusts that patinas are made of. Each takes a size and a seed."""

from __future__ import annotations

import numpy as np

from .material import Material, material
from .tile import cells, colour, mix, ramp, smooth, spectral, warped


def wash(size: int, seed: int) -> Material:
    """A thin uneven film without a colour of its own: what water leaves behind, to be tinted. 1 m."""
    drift, fine = spectral(size, 0.3, 1.3, seed), spectral(size, 0.05, 0.8, seed + 1)
    grain = spectral(size, 0.010, 0.15, seed + 2)
    tone = 0.5 * drift + 0.3 * fine + 0.2 * grain
    base = ramp(tone, (0.2, "#c9c7c2"), (0.5, "#e6e4df"), (0.8, "#fbfaf7"))
    return material(
        base, 0.88 + 0.1 * (fine - 0.5), np.clip(0.4 * drift + 0.35 * fine + 0.25 * grain, 0, 1), 1.0, 0.0006
    )


def bared(size: int, seed: int) -> Material:
    """Grey wood where paint has come off in flakes, larger ones first; last scraps of primer stay. 1 m, grain upright."""
    grain = spectral(size, 0.10, 1.2, seed, 20.0)
    drift = spectral(size, 0.4, 1.5, seed + 1)
    wander = spectral(size, 0.05, 1.0, seed + 2), spectral(size, 0.05, 1.0, seed + 3)
    lost = np.zeros((size, size), np.float32)
    for k, across in enumerate((9, 21, 48)):
        _, _, who = cells(size, across, seed + 10 + k)
        lost += warped(who, *wander, 0.03) * (0.5, 0.3, 0.2)[k]
    crack = smooth(0.72, 0.84, spectral(size, 0.09, 1.0, seed + 4, 22.0))
    base = ramp(0.6 * grain + 0.4 * drift, (0.2, "#675f54"), (0.5, "#877e71"), (0.8, "#a29989"))
    base = mix(base, colour("#37302a"), 0.7 * crack)
    scraps = smooth(0.60, 0.52, lost) * smooth(0.45, 0.6, spectral(size, 0.03, 0.6, seed + 5))
    base = mix(base, colour("#b9b2a2"), 0.55 * scraps)
    height = 0.72 * smooth(0.2, 0.8, lost) + 0.16 * grain + 0.12 * drift - 0.15 * crack
    return material(base, 0.9 + 0.06 * crack, np.clip(height, 0, 1), 1.0, 0.004)


def verdigris(size: int, seed: int) -> Material:
    """Copper salts: pale green powder over darker crust, brown where it is thin. 0.6 m."""
    drift, fine = spectral(size, 0.3, 1.4, seed), spectral(size, 0.05, 0.9, seed + 1)
    grain = spectral(size, 0.010, 0.15, seed + 2)
    near, second, who = cells(size, 90, seed + 3)
    clod = smooth(0.05, 0.4, second - near) * (0.5 + 0.5 * who)
    tone = 0.35 * drift + 0.3 * fine + 0.2 * clod + 0.15 * grain
    base = ramp(tone, (0.15, "#4b4a36"), (0.35, "#3f6a5b"), (0.55, "#5f9581"), (0.8, "#9cc3ae"))
    return material(
        base, 0.9 + 0.08 * (grain - 0.5), np.clip(0.4 * fine + 0.35 * clod + 0.25 * grain, 0, 1), 0.6, 0.0012
    )


def salts(size: int, seed: int) -> Material:
    """Salt that has bloomed out of a wall: crumbs and fur of white crystals, thick in places and gone in others. 0.7 m."""
    drift, fine = spectral(size, 0.3, 1.3, seed), spectral(size, 0.04, 0.8, seed + 1)
    grain = spectral(size, 0.008, 0.1, seed + 2)
    near, _, who = cells(size, 120, seed + 3)
    crumb = np.sqrt(np.clip(1 - (near / 0.6) ** 2, 0, 1)) * (who > 0.35)
    tone = 0.3 * drift + 0.25 * fine + 0.25 * crumb + 0.2 * grain
    base = ramp(tone, (0.15, "#8d877c"), (0.45, "#b1aba0"), (0.8, "#d3cec4"))
    height = 0.35 * drift + 0.25 * fine + 0.30 * crumb + 0.10 * grain
    return material(base, 0.96 - 0.06 * grain, np.clip(height, 0, 1), 0.7, 0.003)


def sand(size: int, seed: int) -> Material:
    """Blown sand: grains of several tones in low ripples across the wind. 1 m."""
    drift = spectral(size, 0.4, 1.6, seed)
    grain, coarse = spectral(size, 0.005, 0.05, seed + 1), spectral(size, 0.014, 0.2, seed + 2)
    rows = np.mgrid[0:size, 0:size][0] / size
    ripple = 0.5 + 0.5 * np.sin(2 * np.pi * (9 * rows + 1.6 * (drift - 0.5) + 0.5 * spectral(size, 0.2, 1.4, seed + 3)))
    ripple = ripple**1.6 * smooth(0.3, 0.6, spectral(size, 0.5, 1.6, seed + 4))
    tone = 0.45 * grain + 0.3 * coarse + 0.15 * ripple + 0.1 * drift
    base = ramp(tone, (0.15, "#8a7656"), (0.4, "#b39c75"), (0.6, "#c9b48d"), (0.85, "#dccba9"))
    height = 0.55 * ripple + 0.2 * drift + 0.15 * coarse + 0.1 * grain
    return material(base, 0.95 - 0.05 * grain, np.clip(height, 0, 1), 1.0, 0.008)
