"""Barks, and the surface of grass blades. All tile."""

from __future__ import annotations

import numpy as np

from .material import Material, material
from .tile import cells, colour, mix, ramp, smooth, spectral


def bark_birch(size: int, seed: int) -> Material:
    """White birch bark with dark bands of pores and black breaks near the foot. Tiles; 0.8 m."""
    band = spectral(size, 0.12, 1.1, seed, 0.08)
    drift = spectral(size, 0.4, 1.5, seed + 1)
    fine = spectral(size, 0.03, 0.5, seed + 2, 0.4)
    lenticel = np.clip((band - 0.68) * 9, 0, 1)
    broken = np.clip((drift + 0.25 * fine - 0.83) * 8, 0, 1)
    base = ramp(0.6 * drift + 0.4 * fine, (0.2, "#b3aa9c"), (0.5, "#d0c9bd"), (0.8, "#e0dbd1"))
    base = mix(base, colour("#4b4138"), 0.75 * lenticel)
    base = mix(base, colour("#2c2723"), 0.9 * broken)
    return material(base, 0.7, np.clip(0.6 + 0.15 * fine - 0.25 * lenticel - 0.35 * broken, 0, 1), 0.8, 0.008)


def twig_bark(size: int, seed: int) -> Material:
    """Dark red-brown bark of twigs and canes. Tiles; 0.4 m."""
    fine = spectral(size, 0.06, 0.8, seed, 4.0)
    drift = spectral(size, 0.4, 1.5, seed + 1)
    base = ramp(0.5 * fine + 0.5 * drift, (0.2, "#3a2c24"), (0.5, "#54412f"), (0.8, "#6f5a45"))
    return material(base, 0.8, fine, 0.4, 0.004)


def blade(size: int, seed: int) -> Material:
    """Surface of grass blades: fine lengthwise ribs; colour comes from the vertices."""
    rib = spectral(size, 0.08, 0.7, seed, 20.0)
    base = 0.78 + 0.22 * rib[..., None] * np.ones(3, np.float32)
    return material(base, 0.6, rib, 0.1, 0.001, translucency=0.45)


def bark_alder(size: int, seed: int) -> Material:
    """Grey-brown bark broken into upright plates, with a little green on it. Tiles; 0.7 m."""
    near, second, who = cells(size, 9, seed, 4)
    crack = smooth(0.02, 0.22, second - near)
    fine = spectral(size, 0.05, 0.7, seed + 1, 0.4)
    drift = spectral(size, 0.5, 1.6, seed + 2)
    base = ramp(0.45 * fine + 0.35 * who + 0.2 * drift, (0.2, "#4b433a"), (0.5, "#675d50"), (0.85, "#867b6c"))
    base = mix(base, colour("#2b2620"), 0.85 * (1 - crack))
    base = mix(base, colour("#5f6a45"), 0.45 * smooth(0.6, 0.9, drift))
    return material(base, 0.88, np.clip(0.25 + 0.55 * crack + 0.2 * fine, 0, 1), 0.7, 0.014)


def bark_rowan(size: int, seed: int) -> Material:
    """Smooth grey bark with lying pores. Tiles; 0.6 m."""
    band = spectral(size, 0.1, 1.0, seed, 0.12)
    fine = spectral(size, 0.04, 0.7, seed + 1)
    drift = spectral(size, 0.5, 1.6, seed + 2)
    base = ramp(0.5 * drift + 0.5 * fine, (0.2, "#6d675e"), (0.5, "#878076"), (0.85, "#a39b8f"))
    base = mix(base, colour("#4a443c"), 0.6 * np.clip((band - 0.7) * 8, 0, 1))
    return material(base, 0.75, np.clip(0.5 + 0.2 * fine - 0.2 * (band > 0.72), 0, 1), 0.6, 0.005)


def bark_pine(size: int, seed: int) -> Material:
    """Plated bark, red-orange where it is young and grey in the cracks. Tiles; 0.8 m."""
    near, second, who = cells(size, 6, seed, 4)
    plate = smooth(0.03, 0.3, second - near)
    fine = spectral(size, 0.06, 0.8, seed + 1)
    flake = spectral(size, 0.15, 1.2, seed + 2, 0.6)
    base = ramp(0.5 * fine + 0.3 * who + 0.2 * flake, (0.2, "#6a4632"), (0.5, "#8f6142"), (0.85, "#b98358"))
    base = mix(base, colour("#3c322b"), 0.9 * (1 - plate))
    return material(base, 0.85, np.clip(0.2 + 0.6 * plate + 0.2 * flake, 0, 1), 0.8, 0.02)
