"""Who lies near whom: for every point of a set those within reach, listed once and used many times."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.kernels import kernel, parallel_kernel, prange, uint64
from .hash_grid import HashGrid, cell, cell_of, flat, neighbour_cells, part_of_row

_RUNS = 512
"""Points are listed in at most this many runs side by side, whatever the number of threads."""
_EACH = 14
"""Room for so many neighbours a point; points a spacing apart on a plane have about nine within two spacings."""
_ABOUT = 16
"""Room for so many times as many in the cells about a point."""


@dataclass(frozen=True)
class Neighbours:
    """Lists of neighbours: those of point n are `others[starts[n] : starts[n] + counts[n]]`. It is one of them itself.

    Attributes
    ----------
    starts : (N,) int64
    counts : (N,) int32
    others : (room,) int32
    """

    starts: np.ndarray
    counts: np.ndarray
    others: np.ndarray

    def parts(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        return self.starts, self.counts, self.others


def neighbours(grid: HashGrid, reach: float) -> Neighbours:
    """Neighbours within `reach`, metres, of each point of a grid, numbered as they lie in it.

    The grid is one made for half that reach, whose cells are as wide as it.
    """
    each = _EACH
    while True:
        lists = _listed(grid.position, grid.starts, grid.inverse, grid.bits, np.float32(reach * reach), each)
        if lists[1].min(initial=0) >= 0:
            return Neighbours(*lists)
        each *= 2


@parallel_kernel
def _listed(
    positions: np.ndarray, cells: np.ndarray, inverse: float, bits: tuple[int, int, int], reach: float, each: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Starts, counts and others, with room for `each` a point on the mean of a run; −1 counted where that is too little."""
    total = len(positions)
    runs = min(_RUNS, max(1, total // 64))
    starts, counts = np.empty(total, np.int64), np.empty(total, np.int32)
    others = np.empty(total * each + 1, np.int32)
    for q in prange(runs):
        first, last = q * total // runs, (q + 1) * total // runs
        at, room = first * each, last * each
        about, number = np.empty((3, each * _ABOUT), np.float32), np.empty(each * _ABOUT, np.int32)
        square = np.empty(each * _ABOUT, np.float32)
        # Points of one cell lie behind each other; what lies about it is gathered for all of them.
        own, found = np.int64(-1), 0
        for n in range(first, last):
            here = cell_of(positions, n, inverse, bits)
            if here != own:
                own, found = here, _gather(n, positions, cells, inverse, bits, about, number)
            starts[n] = at
            if found < 0 or at + found > room:
                counts[n] = -1
                continue
            _squares(positions[n, 0], positions[n, 1], positions[n, 2], about, found, square)
            at = _written(number, square, found, reach, at, others)
            counts[n] = at - starts[n]
    return starts, counts, others


@kernel
def _squares(x: float, y: float, z: float, about: np.ndarray, found: int, out: np.ndarray) -> None:
    """Squared distances of the first `found` columns of `about` (3, …) from a place."""
    for m in range(found):
        ex, ey, ez = about[0, m] - x, about[1, m] - y, about[2, m] - z
        out[m] = ex * ex + ey * ey + ez * ez


@kernel
def _written(number: np.ndarray, square: np.ndarray, found: int, reach: float, at: int, others: np.ndarray) -> int:
    """Write those within reach to `others` from `at` on; returned is where it ended.

    Each is written down, and written over where it lies too far off: there is no branch to guess wrong.
    """
    for m in range(found):
        others[uint64(at)] = number[m]
        at += int(square[m] < reach)
    return at


@kernel
def _gather(
    n: int, positions: np.ndarray, cells: np.ndarray, inverse: float, bits: tuple[int, int, int], about: np.ndarray,
    number: np.ndarray,
) -> int:  # fmt: skip
    """Copy the points of the cell of point `n` and of those beside it, and their numbers; how many, −1 if too many."""
    first_x, last_x = neighbour_cells(cell(positions[n, 0], inverse), bits[0])
    first_y, last_y = neighbour_cells(cell(positions[n, 1], inverse), bits[1])
    first_z, last_z = neighbour_cells(cell(positions[n, 2], inverse), bits[2])
    count = 0
    for y in range(first_y, last_y + 1):
        for z in range(first_z, last_z + 1):
            begin, end = flat(first_x, y, z, bits), flat(last_x, y, z, bits)
            for part in range(1 if begin <= end else 2):
                one, other = part_of_row(begin, end, bits, part)
                for m in range(cells[uint64(one)], cells[uint64(other) + uint64(1)]):
                    if count == len(number):
                        return -1
                    for k in range(3):
                        about[k, count] = positions[uint64(m), k]
                    number[count] = m
                    count += 1
    return count
