"""Noise: seeded fractal unevenness in metres."""

from __future__ import annotations

import numpy as np

from ..hashing import hash_combine_prehashed, prehash
from .kernels import inlined, kernel, parallel_kernel, prange, uint64


@inlined()
def _gradient(h: int, x: float, y: float, z: float) -> float:
    k = int(h % uint64(12))
    # The twelve edge directions of a cube (Perlin, Improving Noise, 2002).
    if k < 4:
        return (x if k & 1 else -x) + (y if k & 2 else -y)
    if k < 8:
        return (x if k & 1 else -x) + (z if k & 2 else -z)
    return (y if k & 1 else -y) + (z if k & 2 else -z)


@inlined()
def _fade(t: float) -> float:
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


@kernel
def _noise3(x: float, y: float, z: float, seed: int) -> float:
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    ix, iy, iz = int(fx), int(fy), int(fz)
    x, y, z = x - fx, y - fy, z - fz
    u, v, w = _fade(x), _fade(y), _fade(z)
    # What several of the eight corners share is hashed once. On a level sheet the upper four have no weight.
    layers = 1 if y == 0.0 else 2
    along_z = (prehash(uint64(iz)), prehash(uint64(iz + 1)))
    total = 0.0
    for j in range(layers):
        along_y = prehash(uint64(iy + j))
        for i in range(2):
            edge = hash_combine_prehashed(hash_combine_prehashed(uint64(seed), prehash(uint64(ix + i))), along_y)
            share = (u if i else 1 - u) * (v if j else 1 - v)
            total += share * (1 - w) * _gradient(hash_combine_prehashed(edge, along_z[0]), x - i, y - j, z)
            total += share * w * _gradient(hash_combine_prehashed(edge, along_z[1]), x - i, y - j, z - 1)
    return total


@parallel_kernel
def _fractal(positions: np.ndarray, size: float, detail: int, seed: int, ridged: float, out: np.ndarray) -> None:
    for n in prange(len(positions)):
        scale = 1.0 / size
        weight, total, norm = 1.0, 0.0, 0.0
        for octave in range(detail):
            wave = _noise3(
                positions[n, 0] * scale, positions[n, 1] * scale, positions[n, 2] * scale, seed + octave * 7919
            )
            # Ridges: the noise folded at its middle and turned over (Musgrave 1994), kept to the same mean.
            total += weight * (wave + ridged * (0.37 - 1.6 * abs(wave) - wave))
            norm += weight
            weight *= 0.5
            scale *= 2.0
        # A gradient noise of this kind has a standard deviation near 0.27; 0.5 + 0.9 t spans most of 0..1.
        out[n] = min(1.0, max(0.0, 0.5 + 0.9 * total / norm))


def noise(positions: np.ndarray, size: float, detail: int, seed: int, ridged: float = 0.0) -> np.ndarray:
    """Fractal gradient noise (Perlin 2002 gradients, hashed lattice, octaves halved in size and weight).

    Parameters
    ----------
    positions : (N, 3) float32, metres
    size : float
        Width of the largest patch, metres.
    detail : int
        Number of octaves.
    ridged : float
        0 soft humps, 1 sharp ridges.

    Returns
    -------
    (N,) float32 in 0..1, mean 0.5
    """
    out = np.empty(len(positions), np.float32)
    _fractal(np.ascontiguousarray(positions, np.float32), size, detail, seed, ridged, out)
    return out
