"""Cells: space cut up around seeded points, as crust, crazing and cracks are."""

from __future__ import annotations

import numpy as np

from ..hashing import hash_combine_prehashed, prehash
from .kernels import parallel_kernel, prange, uint64


@parallel_kernel
def _cells(positions: np.ndarray, size: float, seed: int, out: np.ndarray) -> None:
    for n in prange(len(positions)):
        x, y, z = positions[n, 0] / size, positions[n, 1] / size, positions[n, 2] / size
        ix, iy, iz = int(np.floor(x)), int(np.floor(y)), int(np.floor(z))
        first, second, which = 1e9, 1e9, 0.0
        for i in range(-1, 2):
            edge = hash_combine_prehashed(uint64(seed), prehash(uint64(ix + i)))
            for j in range(-1, 2):
                row = hash_combine_prehashed(edge, prehash(uint64(iy + j)))
                for k in range(-1, 2):
                    h = hash_combine_prehashed(row, prehash(uint64(iz + k)))
                    # Three numbers of 20 bits from one hash.
                    px = ix + i + (h & uint64(0xFFFFF)) / 1048576.0
                    py = iy + j + ((h >> uint64(20)) & uint64(0xFFFFF)) / 1048576.0
                    pz = iz + k + ((h >> uint64(40)) & uint64(0xFFFFF)) / 1048576.0
                    d = np.sqrt((x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2)
                    if d < first:
                        first, second = d, first
                        which = (h >> uint64(44)) / 1048576.0
                    elif d < second:
                        second = d
        out[n, 0], out[n, 1], out[n, 2] = first, second, which


def cells(positions: np.ndarray, size: float, seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Distances to the nearest and second nearest of seeded points, one in each cube of a lattice (Worley 1996).

    Parameters
    ----------
    positions : (N, 3), metres
    size : float
        Width of a cube of the lattice, metres.

    Returns
    -------
    (N,) float32 nearest and second nearest in widths, and a number 0..1 of the nearest point.
    """
    out = np.empty((len(positions), 3), np.float32)
    _cells(np.ascontiguousarray(positions, np.float64), size, seed, out)
    return out[:, 0], out[:, 1], out[:, 2]
