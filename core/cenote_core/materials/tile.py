"""Tiling fields: the periodic noises materials are made from. Every field is (N, N) float32, mostly 0..1."""

from __future__ import annotations

import numpy as np
from scipy import fft
from scipy.ndimage import gaussian_filter

from ..base.kernels import parallel_kernel, prange, uint64
from ..hashing import hash_combine, unit
from .material import srgb_to_linear


def spectral(size: int, wavelength: float, power: float, seed: int, stretch: float = 1.0) -> np.ndarray:
    """Periodic fractal noise by filtering white noise in the frequency domain.

    Parameters
    ----------
    wavelength : float
        Longest wave, as a share of the tile.
    power : float
        Amplitude falls as frequency^−power; 1 rough, 2 smooth.
    stretch : float
        Above 1 the noise is drawn out along v (rows).
    """
    rng = np.random.Generator(np.random.Philox(seed))
    # Single precision is far more than a byte a texel needs, and half the work.
    spectrum = fft.rfft2(rng.standard_normal((size, size)).astype(np.float32))
    fy = (fft.fftfreq(size)[:, None] * size * stretch).astype(np.float32)
    fx = (fft.rfftfreq(size)[None, :] * size).astype(np.float32)
    radius = np.hypot(fx, fy)
    lowest = 1.0 / wavelength
    gain = np.where(radius > 0, np.maximum(radius, lowest) ** -power, 0.0)
    gain *= 1.0 / (1.0 + (lowest * 0.5 / np.maximum(radius, 1e-4)) ** 4)
    field = fft.irfft2(spectrum * gain, s=(size, size))
    return ranked(field)


def ranked(field: np.ndarray) -> np.ndarray:
    """Spread to mean 0.5 with most values inside 0..1 (two and a half standard deviations)."""
    return np.clip(0.5 + (field - field.mean()) / (5.0 * field.std() + 1e-12), 0, 1).astype(np.float32)


_NEAREST_FIRST = np.array(
    sorted(((j, i) for j in range(-2, 3) for i in range(-2, 3)), key=lambda at: (at[0] ** 2 + at[1] ** 2, at))
)


@parallel_kernel
def _cells(size: int, nx: int, ny: int, seed: int, near: np.ndarray, second: np.ndarray, who: np.ndarray) -> None:
    for row in prange(size):
        for col in range(size):
            x, y = col * nx / size, row * ny / size
            cx, cy = int(np.floor(x)), int(np.floor(y))
            d1, d2, best = 1e9, 1e9, 0.0
            for step in range(25):
                # The middle cell and those about it first: most of the others are then too far to matter.
                j, i = cy + _NEAREST_FIRST[step, 0], cx + _NEAREST_FIRST[step, 1]
                dx, dy = max(i - x, x - i - 1.0, 0.0), max(j - y, y - j - 1.0, 0.0)
                if dx * dx + dy * dy >= d2:
                    continue
                h = hash_combine(hash_combine(uint64(seed), uint64(i % nx)), uint64(j % ny))
                px, py = i + unit(h) - x, j + unit(hash_combine(h, uint64(1))) - y
                d = px * px + py * py
                if d < d1:
                    d2 = d1
                    d1 = d
                    best = unit(hash_combine(h, uint64(2)))
                elif d < d2:
                    d2 = d
            near[row, col] = np.sqrt(d1)
            second[row, col] = np.sqrt(d2)
            who[row, col] = best


def cells(size: int, across: int, seed: int, down: int | None = None) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Periodic cellular pattern (Worley 1996): distance to the nearest seed, to the second, number of the cell.

    Distances are in cell widths, the number is uniform in 0..1.
    """
    near, second, who = (np.empty((size, size), np.float32) for _ in range(3))
    _cells(size, across, down or across, seed, near, second, who)
    return near, second, who


def smooth(low: float, high: float, value: np.ndarray) -> np.ndarray:
    """Smoothstep from `low` to `high`."""
    t = np.clip((value - low) / (high - low), 0, 1)
    return (t * t * (3 - 2 * t)).astype(np.float32)


def blur(field: np.ndarray, share: float) -> np.ndarray:
    """Periodic Gaussian blur; `share` of the tile is one standard deviation."""
    return gaussian_filter(field, share * field.shape[0], mode="wrap").astype(np.float32)


def warped(field: np.ndarray, dx: np.ndarray, dy: np.ndarray, share: float) -> np.ndarray:
    """The field read at places shifted by (dx − ½, dy − ½) · 2 · share of the tile, periodic."""
    size = field.shape[0]
    rows, cols = np.mgrid[0:size, 0:size]
    y = (rows + (dy - 0.5) * 2 * share * size).round().astype(int) % size
    x = (cols + (dx - 0.5) * 2 * share * size).round().astype(int) % size
    return np.asarray(field[y, x])


def mix(a: np.ndarray, b: np.ndarray, t: np.ndarray) -> np.ndarray:
    """a where t is 0, b where it is 1; colours (…, 3) blend with a field (…)."""
    t = t[..., None] if np.ndim(a) == 3 or np.ndim(b) == 1 else t
    return np.asarray(a * (1 - t) + b * t, np.float32)


def colour(text: str) -> np.ndarray:
    """'#rrggbb' as three numbers 0..1, still sRGB."""
    return np.array([int(text[k : k + 2], 16) / 255 for k in (1, 3, 5)], np.float32)


def linear_colour(text: str) -> np.ndarray:
    """'#rrggbb' as three linear numbers 0..1."""
    return srgb_to_linear(colour(text))


def ramp(field: np.ndarray, *stops: tuple[float, str]) -> np.ndarray:
    """Colour by value between stops; (N, N) → (N, N, 3) sRGB."""
    places = [s[0] for s in stops]
    colours = np.array([colour(s[1]) for s in stops])
    return np.stack([np.interp(field, places, colours[:, k]) for k in range(3)], axis=-1).astype(np.float32)
