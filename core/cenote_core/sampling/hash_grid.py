"""A grid over points that finds those near a place.

Its cells are two reaches wide, so that eight of them hold all that can be within reach. The grid repeats in all three
directions (it is a torus), so that it can stay small while neighbours in space stay neighbours in memory; a point
from another turn of the torus is told apart by its distance.

Distances are reckoned in float32 everywhere, with the same roundings, so that it makes no difference which of the
ways below finds them.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined, kernel, parallel_kernel, prange, uint64

LANES = 32
"""Distances reckoned at once by `nearest_of`, as the compiler lays it out."""
_SHARE_BITS = 1
"""Cells are filled in so many shares side by side, as a power of two."""


class HashGrid:
    """Points in a grid that repeats, kept in the order of its cells: cell c holds those from starts[c] to starts[c + 1].

    `order` numbers them as they were given. `heads` is room for chains through points that come later (-1: none yet).
    """

    def __init__(self, positions: np.ndarray, reach: float, bounds: np.ndarray) -> None:
        self.inverse = 0.5 / reach
        bits = _bits(bounds, self.inverse, len(positions))
        self.bits = (int(bits[0]), int(bits[1]), int(bits[2]))
        self.heads = np.full(1 << sum(self.bits), -1, np.int32)
        self.starts, self.position, self.order = _fill(positions, self.inverse, self.bits)


def _bits(bounds: np.ndarray, inverse: float, points: int) -> np.ndarray:
    """How many bits of the cell's number along x, y and z are told apart: as many as are used, while cells are few."""
    wanted = np.ceil(np.log2(np.maximum((bounds[1] - bounds[0]) * inverse, 1.0) + 2.0)).astype(np.int64)
    most = max(6, int(4 * points).bit_length())
    while wanted.sum() > most:
        wanted[np.argmax(wanted)] -= 1
    return wanted


@inlined()
def _along_x(x: int, bits: tuple[int, int, int]) -> int:
    return x & ((1 << bits[0]) - 1)


@inlined()
def _along_y(y: int, bits: tuple[int, int, int]) -> int:
    return (y & ((1 << bits[1]) - 1)) << (bits[0] + bits[2])


@inlined()
def _along_z(z: int, bits: tuple[int, int, int]) -> int:
    return (z & ((1 << bits[2]) - 1)) << bits[0]


@inlined()
def flat(x: int, y: int, z: int, bits: tuple[int, int, int]) -> int:
    """Cell of the torus; x runs fastest, height slowest."""
    return _along_x(x, bits) | _along_z(z, bits) | _along_y(y, bits)


@inlined()
def cell(x: float, inverse: float) -> int:
    """The cell along one axis that a coordinate lies in; `inverse` of the width of a cell."""
    return np.int64(np.floor(np.float64(x) * inverse))  # type: ignore[return-value]


@inlined()
def cell_of(places: np.ndarray, n: int, inverse: float, bits: tuple[int, int, int]) -> int:
    """The number of the cell that the n-th of places (N, 3) lies in."""
    return flat(cell(places[n, 0], inverse), cell(places[n, 1], inverse), cell(places[n, 2], inverse), bits)


@parallel_kernel
def _fill(
    positions: np.ndarray, inverse: float, bits: tuple[int, int, int]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Counting sort of points by their cell: where each cell starts, the points in that order, and their numbers.

    Each thread has a share of the cells to itself, and goes through all points for those that lie there.
    """
    own = np.empty(len(positions), np.int32)
    for n in prange(len(positions)):
        own[n] = cell_of(positions, n, inverse, bits)
    width = bits[0] + bits[1] + bits[2] - _SHARE_BITS
    starts = np.zeros((1 << (width + _SHARE_BITS)) + 1, np.int32)
    for share in prange(1 << _SHARE_BITS):
        for n in range(len(own)):
            if own[n] >> width == share:
                starts[uint64(own[n] + 1)] += 1
    for c in range(len(starts) - 1):
        starts[c + 1] += starts[c]
    out, order = np.empty((len(positions), 3), np.float32), np.empty(len(positions), np.int32)
    for share in prange(1 << _SHARE_BITS):
        first = share << width
        ends = starts[first + 1 : first + (1 << width) + 1].copy()
        for n in range(len(own) - 1, -1, -1):
            if own[n] >> width != share:
                continue
            at = uint64(own[n] - first)
            ends[at] -= 1
            order[uint64(ends[at])] = n
            for k in range(3):
                out[uint64(ends[at]), k] = positions[n, k]
    return starts, out, order


@inlined()
def distance_sq(positions: np.ndarray, m: int, x: float, y: float, z: float) -> float:
    """Squared distance of point `m` from a place, float32."""
    ex, ey, ez = positions[uint64(m), 0] - x, positions[uint64(m), 1] - y, positions[uint64(m), 2] - z
    return ex * ex + ey * ey + ez * ez


@inlined()
def corner_cells(x: float, y: float, z: float, inverse: float, bits: tuple[int, int, int]) -> tuple[int, ...]:
    """Parts along x, y and z of the own cell and of that on the nearer side: any of each together is one of eight.

    Where the torus is one cell wide both are the same, and every point is met twice, which does no harm.
    """
    fx, fy, fz = np.float64(x) * inverse, np.float64(y) * inverse, np.float64(z) * inverse
    cx, cy, cz = np.int64(np.floor(fx)), np.int64(np.floor(fy)), np.int64(np.floor(fz))
    ox = _along_x(cx - 1 if fx - cx < 0.5 else cx + 1, bits)
    oy = _along_y(cy - 1 if fy - cy < 0.5 else cy + 1, bits)
    oz = _along_z(cz - 1 if fz - cz < 0.5 else cz + 1, bits)
    return _along_x(cx, bits), ox, _along_y(cy, bits), oy, _along_z(cz, bits), oz


@kernel
def nearest(
    x: float, y: float, z: float, positions: np.ndarray, starts: np.ndarray, inverse: float,
    bits: tuple[int, int, int], limit: float, reach: float,
) -> float:  # fmt: skip
    """Squared distance of the nearest point, at most `reach` (squared); −1 as soon as one is nearer than `limit`."""
    cx, ox, cy, oy, cz, oz = corner_cells(x, y, z, inverse, bits)
    found = reach
    for step in range(8):
        at = (ox if step & 1 else cx) | (oy if step & 4 else cy) | (oz if step & 2 else cz)
        for m in range(starts[uint64(at)], starts[uint64(at) + uint64(1)]):
            distance = distance_sq(positions, m, x, y, z)
            if distance < limit:
                return np.float32(-1.0)  # type: ignore[return-value]
            found = min(found, distance)
    return found


@inlined()
def part_of_row(begin: int, end: int, bits: tuple[int, int, int], part: int) -> tuple[int, int]:
    """First and last cell of a part of the row of cells from `begin` to `end`.

    The cells of a row lie together, in two parts where the torus closes between them.
    """
    if begin <= end:
        return begin, end
    return (begin, begin | _along_x(-1, bits)) if part == 0 else (end & ~_along_x(-1, bits), end)


@inlined()
def neighbour_cells(at: int, bits: int) -> tuple[int, int]:
    """From which to which cell along an axis those beside cell `at` and itself lie: each once, however few there are."""
    return (at - 1, at + 1) if bits >= 2 else (0, (1 << bits) - 1)


@kernel
def gather(
    low: np.ndarray, high: np.ndarray, reach: float, positions: np.ndarray, starts: np.ndarray, inverse: float,
    bits: tuple[int, int, int], out: np.ndarray,
) -> int:  # fmt: skip
    """Copy all points within reach of a box into the columns of `out` (3, room); how many are used, −1 if too few.

    Points infinitely far, as it were, are added so that it is a whole number of `LANES`. A box of more cells than the torus has would meet points twice; it is not worth gathering for either.
    """
    ax, ay, az = low[0] - reach, low[1] - reach, low[2] - reach
    bx, by, bz = high[0] + reach, high[1] + reach, high[2] + reach
    first = (cell(ax, inverse), cell(ay, inverse), cell(az, inverse))
    last = (cell(bx, inverse), cell(by, inverse), cell(bz, inverse))
    for axis in range(3):
        if last[axis] - first[axis] >= min(1 << bits[axis], 6):
            return -1
    count = 0
    for y in range(first[1], last[1] + 1):
        for z in range(first[2], last[2] + 1):
            begin, end = flat(first[0], y, z, bits), flat(last[0], y, z, bits)
            for part in range(1 if begin <= end else 2):
                one, other = part_of_row(begin, end, bits, part)
                one, other = starts[uint64(one)], starts[uint64(other) + uint64(1)]
                if count + other - one > out.shape[1]:
                    return -1
                # Each is written down, and written over where it lies outside: there is no branch to guess wrong.
                for m in range(one, other):
                    p, q, r = positions[uint64(m), 0], positions[uint64(m), 1], positions[uint64(m), 2]
                    out[0, uint64(count)], out[1, uint64(count)], out[2, uint64(count)] = p, q, r
                    count += int((p >= ax) & (p <= bx) & (q >= ay) & (q <= by) & (r >= az) & (r <= bz))
    while count % LANES:
        out[0, count] = out[1, count] = out[2, count] = np.float32(1e18)
        count += 1
    return count


@kernel
def nearest_of(x: float, y: float, z: float, points: np.ndarray, count: int, reach: float) -> float:
    """Squared distance of the nearest of the first `count` columns of `points` (3, …), at most `reach` (squared).

    The least is found among the bits of the numbers: positive ones sort as their bits do, and only of whole numbers
    does the compiler take the least of several at once.
    """
    found = np.float32(reach).view(np.int32)
    for m in range(count):
        ex, ey, ez = points[0, m] - x, points[1, m] - y, points[2, m] - z
        found = min(found, np.float32(ex * ex + ey * ey + ez * ez).view(np.int32))
    return np.int32(found).view(np.float32)  # type: ignore[return-value]
