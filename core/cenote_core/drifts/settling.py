"""The darts of one level held against each other: who of those that came too near to no older point may stay.

Chance decides who is asked first, so the result is the same for any number of threads and any order of the faces. It
is decided block by block: the blocks of one colour lie so far apart that they are settled side by side.
"""

from __future__ import annotations

import numpy as np
from numba import njit, prange, uint64

from ..hashing import mix, unit
from .darts import Hand, Target, name_of, weights
from .torus import Torus, apart, cell, cell_of, eight, flat

_BLOCK = 3
"""Bits of a cell's number within its block: blocks are 8 cells, which are 16 reaches, to a side."""
_TASK_BITS = 18
"""Of the words the darts are sorted by: three for the colour, the others for the block."""
_UNDERSTATED = 0.05
"""Gaps that were not seen the end of are told by up to this share narrower, which keeps the order of gaps true."""


class Lying:
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


def settle(
    lying: Lying, hand: Hand, target: Target, starts: np.ndarray, kept: np.ndarray, grid: Torus,
    radius: float, reach: float,
) -> None:  # fmt: skip
    """Add to the points lying those darts that may stay.

    Parameters
    ----------
    starts, kept : (C,) int64
        Where the darts of each chunk begin in the hand, and how many were kept.
    grid : Torus
        Of the level; its chains are used up.
    radius : float
        No two may come closer, metres.
    reach : float
        Radius of the level before, metres.
    """
    total = int(kept.sum())
    index_bits = max(1, total.bit_length())
    words = turns(
        starts, kept, hand.position, hand.face, hand.number, target.sequences, grid.inverse, grid.bits, index_bits
    )
    words.sort()
    tasks = (words >> np.uint64(64 - _TASK_BITS)).astype(np.int64)
    begins = np.concatenate([[0], np.flatnonzero(np.diff(tasks)) + 1, [total]]) if total else np.zeros(1, np.int64)
    colours = np.searchsorted(tasks[begins[:-1]] >> (_TASK_BITS - 3), np.arange(9))
    place = places_of(starts, kept, words, index_bits)
    position = hand.position[place]
    gap = hand.gap[place]
    stays = np.zeros(total, np.bool_)
    following = np.empty(total, np.int32)
    _settle(position, gap, stays, begins, colours, grid.heads, following, grid.inverse, grid.bits, radius)
    chosen = np.flatnonzero(stays)
    lying.make_room(len(chosen))
    _lay(
        chosen, place, position, gap, hand.face, hand.number, target.sequences, reach, lying.count,
        lying.position, lying.bary, lying.face, lying.gap, lying.identity,
    )  # fmt: skip
    lying.count += len(chosen)


@njit(cache=True, nogil=True)
def turns(
    starts: np.ndarray, kept: np.ndarray, position: np.ndarray, face: np.ndarray, number: np.ndarray,
    sequences: np.ndarray, inverse: float, bits: tuple[int, int, int], index_bits: int,
) -> np.ndarray:  # fmt: skip
    """Words to sort the darts by: colour and block, as much of their own hash as there is room for, and at last their number.

    The colour is by whether the block's number is odd along each axis. Blocks that fall together on the torus get the
    same word: they share cells, and are settled one after the other.
    """
    out = np.empty(kept.sum(), np.uint64)
    at = 0
    for q in range(len(kept)):
        for n in range(starts[q], starts[q] + kept[q]):
            x, y = cell(position[n, 0], inverse) >> _BLOCK, cell(position[n, 1], inverse) >> _BLOCK
            z = cell(position[n, 2], inverse) >> _BLOCK
            colour = (x & 1) | (y & 1) << 1 | (z & 1) << 2
            block = flat(x << _BLOCK, y << _BLOCK, z << _BLOCK, bits) >> _BLOCK
            own = name_of(sequences[face[n]], number[n])
            task = uint64(colour << (_TASK_BITS - 3) | block & ((1 << (_TASK_BITS - 3)) - 1))
            word = task << uint64(64 - _TASK_BITS) | own >> uint64(_TASK_BITS)
            out[at] = word >> uint64(index_bits) << uint64(index_bits) | uint64(at)
            at += 1
    return out


@njit(cache=True, nogil=True)
def places_of(starts: np.ndarray, kept: np.ndarray, words: np.ndarray, index_bits: int) -> np.ndarray:
    """Where in the hand the darts lie whose numbers are the last bits of the words, in that order."""
    place = np.empty(kept.sum(), np.int64)
    at = 0
    for q in range(len(kept)):
        for n in range(starts[q], starts[q] + kept[q]):
            place[at] = n
            at += 1
    out = np.empty(len(words), np.int64)
    for k in range(len(words)):
        out[k] = place[words[k] & ((uint64(1) << uint64(index_bits)) - uint64(1))]
    return out


@njit(cache=True, nogil=True, parallel=True)
def _settle(
    position: np.ndarray, gap: np.ndarray, stays: np.ndarray, begins: np.ndarray, colours: np.ndarray,
    heads: np.ndarray, following: np.ndarray, inverse: float, bits: tuple[int, int, int], radius: float,
) -> None:  # fmt: skip
    """Ask the darts one after the other; one that stays joins the chain of its cell, and its gap is made exact."""
    limit = np.float32(radius * radius)
    for colour in range(8):
        if colours[colour] == colours[colour + 1]:
            continue
        for task in prange(colours[colour], colours[colour + 1]):
            for n in range(begins[task], begins[task + 1]):
                free = _nearest_chained(n, position, heads, following, inverse, bits, limit, gap[n])
                if free < limit:
                    continue
                gap[n] = free
                stays[n] = True
                at = cell_of(position, n, inverse, bits)
                following[n] = heads[at]
                heads[at] = n


@njit(cache=True, nogil=True)
def _nearest_chained(
    n: int, position: np.ndarray, heads: np.ndarray, following: np.ndarray, inverse: float,
    bits: tuple[int, int, int], limit: float, reach: float,
) -> float:  # fmt: skip
    """Squared distance of the nearest in the chains, at most `reach`; −1 as soon as one is nearer than `limit`."""
    x, y, z = position[n, 0], position[n, 1], position[n, 2]
    cx, ox, cy, oy, cz, oz = eight(x, y, z, inverse, bits)
    found = reach
    for step in range(8):
        at = (ox if step & 1 else cx) | (oy if step & 4 else cy) | (oz if step & 2 else cz)
        m = np.int64(heads[uint64(at)])
        while m >= 0:
            distance = apart(position, m, x, y, z)
            if distance < limit:
                return np.float32(-1.0)  # type: ignore[return-value]
            found = min(found, distance)
            m = np.int64(following[uint64(m)])
    return found


@njit(cache=True, nogil=True, parallel=True)
def _lay(
    chosen: np.ndarray, place: np.ndarray, position: np.ndarray, gap: np.ndarray, face: np.ndarray,
    number: np.ndarray, sequences: np.ndarray, reach: float, count: int, out_position: np.ndarray, out_bary: np.ndarray,
    out_face: np.ndarray, out_gap: np.ndarray, out_identity: np.ndarray,
) -> None:  # fmt: skip
    """Write the chosen darts behind the `count` points that lie.

    Gaps as wide as was looked are told from each other by chance, or their order would be that of the blocks.
    """
    most = np.float32(reach * reach)
    for k in prange(len(chosen)):
        n, to = chosen[k], count + k
        own = place[n]
        sequence = sequences[face[own]]
        for axis in range(3):
            out_position[to, axis] = position[n, axis]
        out_identity[to] = name_of(sequence, number[own])
        widest = gap[n] >= most
        out_gap[to] = most * (1.0 - _UNDERSTATED * unit(mix(out_identity[to]))) if widest else gap[n]
        out_face[to] = face[own]
        out_bary[to, 0], out_bary[to, 1] = weights(sequence, number[own])
