"""Decal pictures: colour with alpha and relief. They do not tile; row 0 is the top."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import distance_transform_edt, gaussian_filter

from .material import Material, material
from .tile import ramp, smooth, spectral


def crack(size: int, seed: int) -> Material:
    """A branching crack with spalled edges, drawn as random walks that fork and thin out."""
    rng = np.random.Generator(np.random.Philox(seed))
    width = np.zeros((size, size), np.float32)

    def walk(x: float, y: float, angle: float, steps: int, thick: float, forks: int) -> None:
        heading = angle
        for k in range(steps):
            # Straight for a while, then a kink, always drawn back to the way it runs.
            angle += 0.012 * (heading - angle) + rng.normal(0, 0.035)
            if rng.random() < 0.03:
                angle = heading + rng.normal(0, 0.55)
            x, y = x + np.cos(angle) / size * 1.0, y + np.sin(angle) / size * 1.0
            if not (0.02 < x < 0.98 and 0.02 < y < 0.98):
                return
            here = thick * (1 - k / steps) ** 0.6
            col, row = int(x * size), int(y * size)
            width[row, col] = max(width[row, col], here)
            if forks and rng.random() < 0.007:
                turn = rng.choice([-1, 1]) * rng.uniform(0.5, 1.1)
                walk(x, y, angle + turn, int(steps * 0.45), here * 0.6, forks - 1)

    walk(0.10, 0.12, 0.75, int(size * 1.2), 1.0, 3)
    walk(0.47, 0.50, 2.4, int(size * 0.5), 0.6, 2)
    distance, nearest = distance_transform_edt(width == 0, return_indices=True)
    thick = gaussian_filter(width[nearest[0], nearest[1]], 2)
    texel = 512 / size
    ragged = distance * texel + (spectral(size, 0.03, 0.6, seed + 1) - 0.5) * 3.0
    core = smooth(3.2, 1.0, ragged / np.maximum(thick, 0.15) * 0.75)
    spall = smooth(15, 4, ragged + (spectral(size, 0.08, 1.0, seed + 2) - 0.5) * 26) * (thick > 0.3)
    fine = spectral(size, 0.03, 0.5, seed + 3)
    rgb = ramp(fine, (0.2, "#8f897d"), (0.8, "#a49d90"))
    rgb = rgb * (1 - core[..., None]) + core[..., None] * np.array([0.07, 0.06, 0.05], np.float32)
    alpha = np.maximum(core, 0.55 * spall)
    height = 0.8 - 0.2 * spall - 0.6 * core
    return material(rgb, np.float32(0.93), np.clip(height, 0, 1), 0.0, 0.02, alpha=alpha)


def leak(size: int, seed: int) -> Material:
    """A leak stain: dark wet source at the top, rust-brown runs that thin and dry downward, pale salt rims."""
    rng = np.random.Generator(np.random.Philox(seed))
    rows, cols = np.mgrid[0:size, 0:size] / size
    drift = spectral(size, 0.3, 1.4, seed, 5.0)
    fine = spectral(size, 0.04, 0.7, seed + 1, 6.0)
    soft = spectral(size, 0.25, 1.5, seed + 2)
    body = np.zeros((size, size), np.float32)
    for _ in range(26):
        centre = 0.5 + rng.normal(0, 0.13)
        length = np.clip(rng.gamma(3.0, 0.19) * (1 - 1.2 * abs(centre - 0.5)), 0.08, 0.96)
        thick = rng.uniform(0.008, 0.045)
        wander = (np.interp(rows[:, 0], np.linspace(0, 1, 9), rng.normal(0, 0.012, 9)))[:, None]
        spread = thick * (0.7 + 0.5 * rows)
        profile = np.exp(-(((cols - centre - wander + (fine - 0.5) * 0.02) / spread) ** 2))
        body = np.maximum(body, profile * smooth(length, length * 0.35, rows + 0.10 * (drift - 0.5)))
    source = np.exp(-(((cols - 0.5) / 0.25) ** 2)) * smooth(0.20, 0.03, rows + 0.16 * (soft - 0.5))
    edge = smooth(0.0, 0.06, rows) * smooth(0.0, 0.08, cols) * smooth(1.0, 0.92, cols)
    stain = np.clip(np.maximum(body, source) * edge, 0, 1)
    stain *= 0.75 + 0.5 * fine
    tone = 0.6 * stain + 0.4 * drift
    rgb = ramp(tone, (0.1, "#8a6748"), (0.4, "#67452c"), (0.7, "#402c20"), (1.0, "#231c18"))
    salt = smooth(0.10, 0.22, stain) * smooth(0.42, 0.26, stain) * smooth(0.45, 0.7, soft)
    rgb = rgb * (1 - 0.6 * salt[..., None]) + 0.6 * salt[..., None] * np.array([0.74, 0.70, 0.63], np.float32)
    alpha = np.clip(smooth(0.04, 0.75, stain) * 0.88 + 0.3 * salt, 0, 0.92)
    return material(
        rgb, np.clip(0.85 - 0.35 * stain, 0, 1), np.full((size, size), 0.5, np.float32), 0.0, 0.001, alpha=alpha
    )
