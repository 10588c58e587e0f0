"""Bricks: a sparse grid over points, in which conflicts between darts are found and work is shared out.

A brick holds 4³ cells, each two radii wide. Bricks of one of eight colours are never neighbours.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit, prange

SIDE = 4


@njit(cache=True, inline="always")
def cell(x: float, inverse: float) -> int:
    """Number of the cell, two radii wide, along one axis."""
    return np.int64(np.floor(np.float64(x) * inverse))  # type: ignore[return-value]


@dataclass(frozen=True)
class Bricks:
    """The occupied bricks: `place` (B, 3) their coordinates, `around` (B, 27) the numbers of their neighbours,
    −1 where there is none, and `of` (N,) the brick of each point."""

    place: np.ndarray
    around: np.ndarray
    of: np.ndarray


_MOST_IN_GRID = 40_000_000


def find_bricks(positions: np.ndarray, inverse: float, corners: np.ndarray) -> Bricks:
    """Number the bricks that hold any point, in order of their place; `corners` (2, 3) bound all points."""
    low = np.floor(corners[0] * inverse).astype(np.int64) // 4 - 1
    high = np.floor(corners[1] * inverse).astype(np.int64) // 4 + 1
    shape = high - low + 1
    keys = _brick_keys(positions, inverse, low, shape)
    if int(np.prod(shape.astype(object))) <= _MOST_IN_GRID:
        grid = np.full(int(np.prod(shape)), -1, np.int32)
        _mark(keys, grid)
        used = np.flatnonzero(grid >= 0)
        grid[used] = np.arange(len(used), dtype=np.int32)
        numbers = grid[keys] if len(keys) < 1000 else _looked_up(grid, keys)
        return Bricks(_places(used, low, shape), _around_in_grid(used, grid, shape), numbers)
    used, inverse_of = np.unique(keys, return_inverse=True)
    return Bricks(_places(used, low, shape), _around_sorted(used, shape), inverse_of.astype(np.int32))


@njit(cache=True, nogil=True, parallel=True)
def _brick_keys(positions: np.ndarray, inverse: float, low: np.ndarray, shape: np.ndarray) -> np.ndarray:
    out = np.empty(len(positions), np.int64)
    for n in prange(len(positions)):
        x = (cell(positions[n, 0], inverse) >> 2) - low[0]
        y = (cell(positions[n, 1], inverse) >> 2) - low[1]
        z = (cell(positions[n, 2], inverse) >> 2) - low[2]
        out[n] = (x * shape[1] + y) * shape[2] + z
    return out


@njit(cache=True, nogil=True, parallel=True)
def _mark(keys: np.ndarray, grid: np.ndarray) -> None:
    for n in prange(len(keys)):
        grid[keys[n]] = 0  # every thread writes the same


@njit(cache=True, nogil=True, parallel=True)
def _looked_up(grid: np.ndarray, keys: np.ndarray) -> np.ndarray:
    out = np.empty(len(keys), np.int32)
    for n in prange(len(keys)):
        out[n] = grid[keys[n]]
    return out


def _places(used: np.ndarray, low: np.ndarray, shape: np.ndarray) -> np.ndarray:
    return np.column_stack([used // (shape[1] * shape[2]), used // shape[2] % shape[1], used % shape[2]]) + low


def _steps(shape: np.ndarray) -> list[int]:
    return [int(((n % 3 - 1) * shape[1] + ((n // 3) % 3 - 1)) * shape[2] + (n // 9 - 1)) for n in range(27)]


def _around_in_grid(used: np.ndarray, grid: np.ndarray, shape: np.ndarray) -> np.ndarray:
    # The grid has an empty border, so no step leaves it.
    return np.column_stack([grid[used + step] for step in _steps(shape)])


def _around_sorted(used: np.ndarray, shape: np.ndarray) -> np.ndarray:
    out = np.empty((len(used), 27), np.int32)
    for n, step in enumerate(_steps(shape)):
        at = np.minimum(np.searchsorted(used, used + step), len(used) - 1)
        out[:, n] = np.where(used[at] == used + step, at, -1)
    return out


@njit(cache=True, nogil=True)
def grouped(brick_of: np.ndarray, first: int, bricks: int) -> tuple[np.ndarray, np.ndarray]:
    """Counting sort of the darts (not the points already lying) by brick."""
    starts = np.zeros(bricks + 1, np.int64)
    for n in range(first, len(brick_of)):
        starts[brick_of[n] + 1] += 1
    for b in range(bricks):
        starts[b + 1] += starts[b]
    at = starts[:-1].copy()
    order = np.empty(len(brick_of) - first, np.int32)
    for n in range(first, len(brick_of)):
        b = brick_of[n]
        order[at[b]] = n
        at[b] += 1
    return order, starts


def by_colour(place: np.ndarray) -> list[np.ndarray]:
    colour = (place[:, 0] & 1) | ((place[:, 1] & 1) << 1) | ((place[:, 2] & 1) << 2)
    return [np.flatnonzero(colour == c).astype(np.int32) for c in range(8)]
