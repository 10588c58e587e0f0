"""Darts thrown on triangles, and the points already lying that most of them come too close to.

A dart that is too near is forgotten where it falls, and the darts of a face lie together, as do the points about
them (`torus.py`), which is what makes this fast.
"""

from __future__ import annotations

import numpy as np
from numba import njit, prange, uint64

from ..hashing import combine, mix, unit
from .torus import Torus, cell, cell_of, longer, too_near

CHUNKS = 512
"""Faces are shared out in at most this many runs, whatever the number of threads."""
SCATTER = 389
"""A prime, so that steps of it reach every run of a number that is a power of two."""
_LEVELS_A_GRID = 4
"""A grid serves this many levels of the ladder before its cells have become too wide."""


class Lying:
    """The points accepted so far, and a grid over them. Arrays are grown ahead; `count` of each are in use."""

    def __init__(self, room: int, bounds: np.ndarray) -> None:
        self.count = 0
        self.position = np.empty((room, 3), np.float32)
        self.face = np.empty(room, np.int32)
        self.bary = np.empty((room, 2), np.float32)
        self.identity = np.empty(room, np.uint64)
        self.rank = np.empty(room, np.float32)
        self.bounds = bounds
        self.grid = Torus(self.position[:0], 0, 1.0, bounds)
        self._levels = 0

    def parts(self) -> tuple[np.ndarray, ...]:
        return tuple(a[: self.count] for a in (self.position, self.face, self.bary, self.identity, self.rank))

    def prepare(self, radius: float, coming: int) -> None:
        """Have a grid that serves `radius`, with room for the points `coming` until it is made anew."""
        if self._levels % _LEVELS_A_GRID == 0:
            self.grid = Torus(self.position[: self.count], coming, radius, self.bounds)
        self._levels += 1

    def make_room(self, coming: int) -> None:
        """Room for that many points more, here and in the grid."""
        if self.count + coming > len(self.rank):
            room = int((self.count + coming) * 1.3) + 64
            for name in ("position", "face", "bary", "identity", "rank"):
                setattr(self, name, longer(getattr(self, name), room))
        self.grid.make_room(self.count + coming)


_BINS = 256


class Target:
    """Triangles to throw darts on, laid out for it: a corner and two edges of each, areas, sequences and chances.

    On coarse levels only few faces have got a dart. Faces are therefore also listed by chance in bins, and bins whose
    turn has not come are left out.
    """

    def __init__(
        self, positions: np.ndarray, faces: np.ndarray, keys: np.ndarray, areas: np.ndarray, seed: int
    ) -> None:
        self.frames, self.bounds = _frames(positions, faces)
        self.areas = areas
        self.area, self.largest = float(areas.sum()), float(areas.max())
        self.sequences, self.chance = _sequences(keys, np.uint64(seed))
        bins = (self.chance * _BINS).astype(np.uint8)
        self._by_bin = np.argsort(bins, kind="stable").astype(np.int32)
        self._bin_starts = np.searchsorted(bins[self._by_bin], np.arange(_BINS + 1)).astype(np.int64)
        self._all = np.arange(len(faces), dtype=np.int32)

    def reached(self, per_area: float) -> np.ndarray:
        """Numbers of the faces that have got any dart by the time `per_area` are thrown a square metre, ascending."""
        # A face has its first once chance + area · per_area reaches one.
        width = self.largest * per_area
        if width > 0.5:
            return self._all
        return np.sort(self._by_bin[self._bin_starts[int((1.0 - width) * _BINS)] :])


@njit(cache=True, nogil=True)
def _frames(positions: np.ndarray, faces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """First corner and the edges from it to the second and third, (F, 9) float32, and (2, 3) corners of their box."""
    out = np.empty((len(faces), 9), np.float32)
    bounds = np.empty((2, 3))
    bounds[0], bounds[1] = np.inf, -np.inf
    for f in range(len(faces)):
        a, b, c = uint64(faces[f, 0]), uint64(faces[f, 1]), uint64(faces[f, 2])
        for k in range(3):
            p, q, r = positions[a, k], positions[b, k], positions[c, k]
            out[f, k], out[f, 3 + k], out[f, 6 + k] = p, q - p, r - p
            bounds[0, k] = min(bounds[0, k], p, q, r)
            bounds[1, k] = max(bounds[1, k], p, q, r)
    return out, bounds


@njit(cache=True, nogil=True, parallel=True)
def _sequences(keys: np.ndarray, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """For each face a hash its sequence of darts starts from, and a number in [0, 1) for when it gets its first."""
    starts, out = np.empty(len(keys), np.uint64), np.empty(len(keys), np.float64)
    for f in prange(len(keys)):
        chance = combine(uint64(seed), keys[f])
        out[f] = unit(chance)
        starts[f] = mix(chance)
    return starts, out


class Hand:
    """Room for the darts of one level, used again by every level; pages never written to take no memory."""

    def __init__(self, areas: np.ndarray, per_area: float) -> None:
        room = int(areas.sum() * per_area) + 2 * len(areas) + 2 * CHUNKS
        self.position, self.face = np.empty((room, 3), np.float32), np.empty(room, np.int32)
        self.bary, self.identity = np.empty((room, 2), np.float32), np.empty(room, np.uint64)
        self._area_before = np.concatenate([[0.0], np.cumsum(areas)])

    def starts(self, reached: np.ndarray, firsts: np.ndarray, per_area: float) -> np.ndarray:
        """Where each chunk of the faces reached may write from on: a dart a face, and what its area may bring more."""
        last = np.append(reached, len(self._area_before) - 1)[firsts]
        most = self._area_before[last] * per_area
        return most.astype(np.int64) + firsts + np.arange(len(firsts))


@njit(cache=True, nogil=True)
def _counts(
    reached: np.ndarray, areas: np.ndarray, chance: np.ndarray, before: float, after: float
) -> tuple[np.ndarray, np.ndarray]:
    """The numbers of each face's first dart on this level, and of its first on the next.

    A face gets its darts at an even pace as the darts thrown a square metre rise from `before` to `after`.
    """
    first, end = np.empty(len(reached), np.int32), np.empty(len(reached), np.int32)
    for k in range(len(reached)):
        f = uint64(reached[k])
        first[k] = np.int32(areas[f] * before + chance[f])
        end[k] = np.int32(areas[f] * after + chance[f])
    return first, end


_R2_U, _R2_V = 0.7548776662466927, 0.5698402909980532
"""Steps of the R₂ sequence, after Roberts, *The Unreasonable Effectiveness of Quasirandom Sequences*, 2018."""


@njit(inline="always")
def _weights(start: int, n: int) -> tuple[float, float]:
    """Weights of the second and third corner at dart `n` of a face whose sequence has this start."""
    u = np.float64(np.int64(start >> uint64(32))) * (1.0 / 4294967296.0) + n * _R2_U
    v = np.float64(np.int64(start & uint64(0xFFFFFFFF))) * (1.0 / 4294967296.0) + n * _R2_V
    u, v = u - np.floor(u), v - np.floor(v)
    # The half of the square beyond the diagonal is folded back.
    if u + v > 1.0:
        return 1.0 - u, 1.0 - v
    return u, v


@njit(cache=True, nogil=True)
def _fall(
    frames: np.ndarray, starts: np.ndarray, reached: np.ndarray, first: np.ndarray, end: np.ndarray,
    place: np.ndarray, on: np.ndarray, number: np.ndarray,
) -> None:  # fmt: skip
    """Where the darts of a run of faces fall.

    The darts of a face follow a sequence that fills it evenly from the first level to the last, so that few are
    wasted beside others.
    """
    at = 0
    for k in range(len(reached)):
        if first[k] == end[k]:
            continue
        f = uint64(reached[k])
        ax, ay, az = np.float64(frames[f, 0]), np.float64(frames[f, 1]), np.float64(frames[f, 2])
        bx, by, bz = np.float64(frames[f, 3]), np.float64(frames[f, 4]), np.float64(frames[f, 5])
        dx, dy, dz = np.float64(frames[f, 6]), np.float64(frames[f, 7]), np.float64(frames[f, 8])
        for n in range(first[k], end[k]):
            u, v = _weights(starts[f], n)
            place[at, 0], place[at, 1], place[at, 2] = ax + u * bx + v * dx, ay + u * by + v * dy, az + u * bz + v * dz
            on[at], number[at] = f, n
            at += 1


@njit(cache=True, nogil=True, parallel=True)
def throw_darts(
    frames: np.ndarray, sequences: np.ndarray, areas: np.ndarray, chance: np.ndarray, reached: np.ndarray,
    before: float, after: float, lying: np.ndarray, inverse: float, bits: tuple[int, int, int],
    heads: np.ndarray, following: np.ndarray, limit: float, firsts: np.ndarray, starts: np.ndarray,
    position: np.ndarray, face: np.ndarray, bary: np.ndarray, identity: np.ndarray,
) -> np.ndarray:  # fmt: skip
    """Throw the darts of one level and keep those no point lies too near to.

    They are written from `starts` of their chunk on; returned is how many each chunk kept.
    """
    chunks = len(firsts) - 1
    kept = np.zeros(chunks, np.int64)
    for turn in prange(chunks):
        # In a scattered order, so that threads get equal shares where faces differ much in size.
        q = turn * SCATTER % chunks
        run = reached[firsts[q] : firsts[q + 1]]
        first, end = _counts(run, areas, chance, before, after)
        total = (end - first).sum()
        if total == 0:
            continue
        # First where they all fall, then which are free: the first has no branches to guess wrong.
        place, on, number = np.empty((total, 3), np.float32), np.empty(total, np.int32), np.empty(total, np.int32)
        _fall(frames, sequences, run, first, end, place, on, number)
        at = starts[q]
        blocked = np.int64(-1)
        for n in range(total):
            x, y, z = np.float64(place[n, 0]), np.float64(place[n, 1]), np.float64(place[n, 2])
            # What was too near to the dart before is often too near to this one.
            if blocked >= 0:
                ex, ey, ez = lying[blocked, 0] - x, lying[blocked, 1] - y, lying[blocked, 2] - z
                if ex * ex + ey * ey + ez * ez < limit:
                    continue
            blocked = too_near(x, y, z, lying, inverse, bits, heads, following, limit)
            if blocked >= 0:
                continue
            position[at, 0], position[at, 1], position[at, 2] = place[n, 0], place[n, 1], place[n, 2]
            face[at] = on[n]
            identity[at] = mix(sequences[on[n]] + uint64(number[n]))
            bary[at, 0], bary[at, 1] = _weights(sequences[on[n]], number[n])
            at += 1
        kept[q] = at - starts[q]
    return kept


@njit(cache=True, nogil=True)
def turns(
    starts: np.ndarray, kept: np.ndarray, position: np.ndarray, identity: np.ndarray, inverse: float
) -> np.ndarray:
    """Words to sort the darts by, and at last their places: block of 16³ cells, own hash, number.

    Chance decides who comes first, block by block so that memory is read in runs. It does not depend on what lies
    elsewhere: surfaces may come and go.
    """
    out = np.empty(kept.sum(), np.uint64)
    at = 0
    for q in range(len(kept)):
        for n in range(starts[q], starts[q] + kept[q]):
            x, y, z = cell(position[n, 0], inverse), cell(position[n, 1], inverse), cell(position[n, 2], inverse)
            block = combine(uint64(x >> 4), combine(uint64(y >> 4), uint64(z >> 4)))
            out[at] = (block >> uint64(50)) << uint64(50) | (identity[n] >> uint64(40)) << uint64(26) | uint64(at)
            at += 1
    return out


@njit(cache=True, nogil=True)
def places_of(starts: np.ndarray, kept: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """Where in the hand the darts lie whose numbers are the last 26 bits of `turn`, in that order."""
    place = np.empty(kept.sum(), np.int64)
    at = 0
    for q in range(len(kept)):
        for n in range(starts[q], starts[q] + kept[q]):
            place[at] = n
            at += 1
    out = np.empty(len(turn), np.int64)
    for k in range(len(turn)):
        out[k] = place[turn[k] & uint64(0x3FFFFFF)]
    return out


@njit(cache=True, nogil=True)
def settle(
    order: np.ndarray, position: np.ndarray, face: np.ndarray, bary: np.ndarray, identity: np.ndarray, limit: float,
    level: int,
 grid: np.ndarray, inverse: float, bits: tuple[int, int, int], heads: np.ndarray,
    following: np.ndarray, count: int, out_position: np.ndarray, out_face: np.ndarray, out_bary: np.ndarray,
    out_identity: np.ndarray, out_rank: np.ndarray,
) -> int:  # fmt: skip
    """Hold the darts that were kept against each other, one after the other; those that stay join the `count` lying.

    Their ranks are the level and a chance below one. Returns how many lie then.
    """
    for n in order:
        x, y, z = np.float64(position[n, 0]), np.float64(position[n, 1]), np.float64(position[n, 2])
        if too_near(x, y, z, grid, inverse, bits, heads, following, limit) >= 0:
            continue
        at = cell_of(x, y, z, inverse, bits)
        for k in range(3):
            out_position[count, k] = grid[count, k] = position[n, k]
        following[count] = heads[at]
        heads[at] = count
        out_face[count], out_identity[count] = face[n], identity[n]
        out_bary[count, 0], out_bary[count, 1] = bary[n, 0], bary[n, 1]
        out_rank[count] = level + unit(mix(identity[n] ^ uint64(0x5DEECE66D)))
        count += 1
    return count
