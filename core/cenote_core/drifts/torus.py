"""A grid over points that finds those too near to a place.

Its cells are two radii wide, so that eight of them hold all that can be too near. The grid repeats in all three
directions (it is a torus), so that it can stay small while neighbours in space stay neighbours in memory; a point
from another turn of the torus is told apart by its distance.
"""

from __future__ import annotations

import numpy as np
from numba import njit, uint64


def longer(array: np.ndarray, room: int) -> np.ndarray:
    """The array with room for more at its end."""
    out = np.empty((room, *array.shape[1:]), array.dtype)
    out[: len(array)] = array
    return out


class Torus:
    """Points in a grid that repeats: `heads` the first point of each cell, `following` the next in the same cell.

    The points it starts with are kept in the order of the cells, so that those of a cell lie together in memory.
    """

    def __init__(self, positions: np.ndarray, coming: int, radius: float, bounds: np.ndarray) -> None:
        self.inverse = 0.5 / radius
        bits = _bits(bounds, self.inverse, len(positions) + coming)
        self.bits = (int(bits[0]), int(bits[1]), int(bits[2]))
        self.position = np.empty((len(positions) + coming, 3), np.float32)
        self.following = np.empty(len(positions) + coming, np.int32)
        self.heads = np.full(1 << sum(self.bits), -1, np.int32)
        _fill(positions, self.inverse, self.bits, self.heads, self.following, self.position)

    def make_room(self, room: int) -> None:
        if room > len(self.following):
            self.position, self.following = longer(self.position, room), longer(self.following, room)


def _bits(bounds: np.ndarray, inverse: float, points: int) -> np.ndarray:
    """How many bits of the cell's number along x, y and z are told apart: as many as are used, while cells are few."""
    wanted = np.ceil(np.log2(np.maximum((bounds[1] - bounds[0]) * inverse, 1.0) + 2.0)).astype(np.int64)
    most = max(6, int(4 * points).bit_length())
    while wanted.sum() > most:
        wanted[np.argmax(wanted)] -= 1
    return wanted


@njit(inline="always")
def _along_x(x: int, bits: tuple[int, int, int]) -> int:
    return x & ((1 << bits[0]) - 1)


@njit(inline="always")
def _along_y(y: int, bits: tuple[int, int, int]) -> int:
    return (y & ((1 << bits[1]) - 1)) << (bits[0] + bits[2])


@njit(inline="always")
def _along_z(z: int, bits: tuple[int, int, int]) -> int:
    return (z & ((1 << bits[2]) - 1)) << bits[0]


@njit(inline="always")
def cell_of(x: float, y: float, z: float, inverse: float, bits: tuple[int, int, int]) -> int:
    """Cell of the torus; x runs fastest, height slowest."""
    flat = _along_x(cell(x, inverse), bits) | _along_z(cell(z, inverse), bits)
    return flat | _along_y(cell(y, inverse), bits)


@njit(inline="always")
def cell(x: float, inverse: float) -> int:
    return np.int64(np.floor(np.float64(x) * inverse))  # type: ignore[return-value]


@njit(cache=True, nogil=True)
def _fill(
    positions: np.ndarray, inverse: float, bits: tuple[int, int, int], heads: np.ndarray, following: np.ndarray,
    out: np.ndarray,
) -> None:  # fmt: skip
    """Counting sort of points by their cell, and the chains through them."""
    own = np.empty(len(positions), np.int32)
    starts = np.zeros(len(heads) + 1, np.int32)
    for n in range(len(positions)):
        at = cell_of(positions[n, 0], positions[n, 1], positions[n, 2], inverse, bits)
        own[n] = at
        starts[at + 1] += 1
    for c in range(len(heads)):
        starts[c + 1] += starts[c]
    for n in range(len(positions)):
        at = own[n]
        to = starts[at]
        starts[at] += 1
        out[to] = positions[n]
        following[to] = heads[at]
        heads[at] = to


@njit(cache=True, nogil=True)
def too_near(
    x: float, y: float, z: float, positions: np.ndarray, inverse: float, bits: tuple[int, int, int],
    heads: np.ndarray, following: np.ndarray, limit: float,
) -> int:  # fmt: skip
    """A point that lies too near, or −1.

    Cells are at least two radii wide, so only the own cell and those on the nearer side of each axis matter.
    """
    fx, fy, fz = x * inverse, y * inverse, z * inverse
    cx, cy, cz = np.int64(np.floor(fx)), np.int64(np.floor(fy)), np.int64(np.floor(fz))
    ox = _along_x(cx - 1 if fx - cx < 0.5 else cx + 1, bits)
    oy = _along_y(cy - 1 if fy - cy < 0.5 else cy + 1, bits)
    oz = _along_z(cz - 1 if fz - cz < 0.5 else cz + 1, bits)
    cx, cy, cz = _along_x(cx, bits), _along_y(cy, bits), _along_z(cz, bits)
    for step in range(8):
        at = (ox if step & 1 else cx) | (oy if step & 4 else cy) | (oz if step & 2 else cz)
        m = np.int64(heads[uint64(at)])
        while m >= 0:
            ex, ey, ez = positions[uint64(m), 0] - x, positions[uint64(m), 1] - y, positions[uint64(m), 2] - z
            if ex * ex + ey * ey + ez * ez < limit:
                return m  # type: ignore[return-value]
            m = np.int64(following[uint64(m)])
    return -1
