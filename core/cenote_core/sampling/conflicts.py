"""The darts of one level held against each other: who of those that came too near to no older point may stay.

Chance decides who is asked first, so the result is the same for any number of threads and any order of the faces. It
is decided block by block: the blocks of one colour lie so far apart that they are settled side by side.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined, kernel, parallel_kernel, prange, uint64
from ..hashing import splitmix64, unit
from .darts import DartBatch, SurfaceSampler, name_of, weights
from .hash_grid import HashGrid, cell, cell_of, corner_cells, distance_sq, flat

_BLOCK = 3
"""Bits of a cell's number within its block: blocks are 8 cells, which are 16 reaches, to a side."""
_TASK_BITS = 18
"""Of the words the darts are sorted by: three for the colour, the others for the block."""
_UNDERSTATED = 0.05
"""Gaps that were not seen the end of are told by up to this share narrower, which keeps the order of gaps true."""


class Accepted:
    """The points accepted so far. Arrays are made with room; `count` of each are in use.

    `gap` is how far the nearest older point lay at least, squared.
    """

    def __init__(self, room: int) -> None:
        self.count = 0
        self.position, self.bary = np.empty((room, 3), np.float32), np.empty((room, 2), np.float32)
        self.face, self.gap = np.empty(room, np.int32), np.empty(room, np.float32)
        self.identity = np.empty(room, np.uint64)

    def make_room(self, coming: int) -> None:
        if self.count + coming > len(self.gap):
            room = int((self.count + coming) * 1.3) + 64
            for name in ("position", "bary", "face", "gap", "identity"):
                old = getattr(self, name)
                new = np.empty((room, *old.shape[1:]), old.dtype)
                new[: self.count] = old[: self.count]
                setattr(self, name, new)


def resolve_conflicts(
    lying: Accepted, hand: DartBatch, target: SurfaceSampler, starts: np.ndarray, kept: np.ndarray, grid: HashGrid,
    radius: float, reach: float,
) -> None:  # fmt: skip
    """Add to the points lying those darts that may stay.

    Parameters
    ----------
    starts, kept : (C,) int64
        Where the darts of each chunk begin in the hand, and how many were kept.
    grid : HashGrid
        Of the level; its chains are used up.
    radius : float
        No two may come closer, metres.
    reach : float
        Radius of the level before, metres.
    """
    total = int(kept.sum())
    index_bits = max(1, total.bit_length())
    words, where = turns(starts, kept, hand.spot, hand.dart, target.sequences, grid.inverse, grid.bits, index_bits)
    words.sort()
    begins, colours = tasks_of(words)
    spot = _gathered(words, index_bits, where, hand.spot)
    following = np.empty(total, np.int32)
    gap = _resolve(words, index_bits, spot, begins, colours, grid.heads, following, grid.inverse, grid.bits, radius)
    staying = _staying(kept, gap)
    lying.make_room(int(staying.sum()))
    _lay(
        starts, kept, staying, gap, hand.spot, hand.dart, target.sequences, reach, lying.count,
        lying.position, lying.bary, lying.face, lying.gap, lying.identity,
    )  # fmt: skip
    lying.count += int(staying.sum())


@parallel_kernel
def turns(
    starts: np.ndarray, kept: np.ndarray, spot: np.ndarray, dart: np.ndarray, sequences: np.ndarray,
    inverse: float, bits: tuple[int, int, int], index_bits: int,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Words to sort the darts by: colour and block, as much of their own hash as there is room for, and at last their number.

    The colour is by whether the block's number is odd along each axis. Blocks that fall together on the torus get the
    same word: they share cells, and are settled one after the other.

    Returns
    -------
    words : (N,) uint64
    where : (N,) int32, where in the hand the dart of each number lies
    """
    ends = np.cumsum(kept)
    words, where = np.empty(ends[-1], np.uint64), np.empty(ends[-1], np.int32)
    for q in prange(len(kept)):
        at = ends[q] - kept[q]
        for n in range(starts[q], starts[q] + kept[q]):
            x, y = cell(spot[n, 0], inverse) >> _BLOCK, cell(spot[n, 1], inverse) >> _BLOCK
            z = cell(spot[n, 2], inverse) >> _BLOCK
            colour = (x & 1) | (y & 1) << 1 | (z & 1) << 2
            block = flat(x << _BLOCK, y << _BLOCK, z << _BLOCK, bits) >> _BLOCK
            own = name_of(sequences[dart[n, 0]], dart[n, 1])
            task = uint64(colour << (_TASK_BITS - 3) | block & ((1 << (_TASK_BITS - 3)) - 1))
            word = task << uint64(64 - _TASK_BITS) | own >> uint64(_TASK_BITS)
            words[at] = word >> uint64(index_bits) << uint64(index_bits) | uint64(at)
            where[at] = n
            at += 1
    return words, where


@kernel
def tasks_of(words: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Of words in order: where each colour's blocks begin and end, and at which of those beginnings each colour does.

    Returns
    -------
    begins : (T + 1,) int64
    colours : (9,) int64
    """
    begins, colours = np.empty(min(len(words), 1 << _TASK_BITS) + 1, np.int64), np.zeros(9, np.int64)
    count, task = 0, np.int64(-1)
    for n in range(len(words)):
        own = np.int64(words[n] >> uint64(64 - _TASK_BITS))
        if own == task:
            continue
        for colour in range((task >> (_TASK_BITS - 3)) + 1, (own >> (_TASK_BITS - 3)) + 1):
            colours[colour] = count
        task = own
        begins[count] = n
        count += 1
    for colour in range((task >> (_TASK_BITS - 3)) + 1, 9):
        colours[colour] = count
    begins[count] = len(words)
    return begins[: count + 1], colours


@inlined()
def _number(word: int, index_bits: int) -> int:
    """The dart's number, which is the last bits of its word."""
    return word & ((uint64(1) << uint64(index_bits)) - uint64(1))


@parallel_kernel
def _gathered(words: np.ndarray, index_bits: int, where: np.ndarray, spot: np.ndarray) -> np.ndarray:
    """Spots of the darts in the order of the words."""
    out = np.empty((len(words), 4), np.float32)
    for k in prange(len(words)):
        n = where[_number(words[k], index_bits)]
        for part in range(4):
            out[k, part] = spot[n, part]
    return out


@parallel_kernel
def _resolve(
    words: np.ndarray, index_bits: int, spot: np.ndarray, begins: np.ndarray, colours: np.ndarray, heads: np.ndarray,
    following: np.ndarray, inverse: float, bits: tuple[int, int, int], radius: float,
) -> np.ndarray:  # fmt: skip
    """Ask the darts one after the other; one that stays joins the chain of its cell.

    Returns
    -------
    (N,) float32, by the numbers of the darts: squared distance of the nearest before; −1 for those that do not stay
    """
    limit = np.float32(radius * radius)
    gap = np.full(len(words), -1, np.float32)
    for colour in range(8):
        if colours[colour] == colours[colour + 1]:
            continue
        for task in prange(colours[colour], colours[colour + 1]):
            for n in range(begins[task], begins[task + 1]):
                free = _nearest_chained(n, spot, heads, following, inverse, bits, limit, spot[n, 3])
                if free < limit:
                    continue
                gap[_number(words[n], index_bits)] = free
                at = cell_of(spot, n, inverse, bits)
                following[n] = heads[at]
                heads[at] = n
    return gap


@kernel
def _nearest_chained(
    n: int, spot: np.ndarray, heads: np.ndarray, following: np.ndarray, inverse: float,
    bits: tuple[int, int, int], limit: float, reach: float,
) -> float:  # fmt: skip
    """Squared distance of the nearest in the chains, at most `reach`; −1 as soon as one is nearer than `limit`."""
    x, y, z = spot[n, 0], spot[n, 1], spot[n, 2]
    cx, ox, cy, oy, cz, oz = corner_cells(x, y, z, inverse, bits)
    found = reach
    for step in range(8):
        at = (ox if step & 1 else cx) | (oy if step & 4 else cy) | (oz if step & 2 else cz)
        m = np.int64(heads[uint64(at)])
        while m >= 0:
            distance = distance_sq(spot, m, x, y, z)
            if distance < limit:
                return np.float32(-1.0)  # type: ignore[return-value]
            found = min(found, distance)
            m = np.int64(following[uint64(m)])
    return found


@parallel_kernel
def _staying(kept: np.ndarray, gap: np.ndarray) -> np.ndarray:
    """How many darts of each chunk stay."""
    ends, out = np.cumsum(kept), np.zeros(len(kept), np.int64)
    for q in prange(len(kept)):
        count = 0
        for at in range(ends[q] - kept[q], ends[q]):
            count += gap[at] >= 0
        out[q] = count
    return out


@parallel_kernel
def _lay(
    starts: np.ndarray, kept: np.ndarray, staying: np.ndarray, gap: np.ndarray, spot: np.ndarray, dart: np.ndarray,
    sequences: np.ndarray, reach: float, count: int, out_position: np.ndarray, out_bary: np.ndarray,
    out_face: np.ndarray, out_gap: np.ndarray, out_identity: np.ndarray,
) -> None:  # fmt: skip
    """Write the darts that stay behind the `count` points that lie.

    Gaps as wide as was looked are told from each other by chance, or their order would be that of the faces.
    """
    most = np.float32(reach * reach)
    ends, before = np.cumsum(kept), count + np.cumsum(staying)
    for q in prange(len(kept)):
        to, first = before[q] - staying[q], ends[q] - kept[q]
        for at in range(first, ends[q]):
            if gap[at] < 0:
                continue
            own = starts[q] + at - first
            face, number = dart[own, 0], dart[own, 1]
            sequence = sequences[face]
            for axis in range(3):
                out_position[to, axis] = spot[own, axis]
            out_identity[to] = name_of(sequence, number)
            widest = gap[at] >= most
            out_gap[to] = most * (1.0 - _UNDERSTATED * unit(splitmix64(out_identity[to]))) if widest else gap[at]
            out_face[to] = face
            out_bary[to, 0], out_bary[to, 1] = weights(sequence, number)
            to += 1
