"""Darts thrown on triangles, and the points already lying that most of them come too close to.

A dart that is too near is forgotten where it falls. The darts of a face lie together, as do the faces of a run and the
points about them (`hash_grid.py`), so what lies about a few faces is gathered once for all their darts.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined, kernel, parallel_kernel, prange, uint64
from ..hashing import hash_combine, splitmix64, unit
from .hash_grid import gather, nearest, nearest_of

CHUNKS = 512
"""Faces are shared out in at most this many runs, whatever the number of threads."""
SCATTER = 389
"""A prime, so that steps of it reach every run of a number that is a power of two."""
_GROUP = 16.0
"""Faces next to each other share what is gathered about them while their box is no wider than so many reaches."""
_ROOM = 320
"""Points that are gathered at most."""


_BINS = 256


class SurfaceSampler:
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


@kernel
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


@parallel_kernel
def _sequences(keys: np.ndarray, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """For each face a hash its sequence of darts starts from, and a number in [0, 1) for when it gets its first."""
    starts, out = np.empty(len(keys), np.uint64), np.empty(len(keys), np.float64)
    for f in prange(len(keys)):
        chance = hash_combine(uint64(seed), keys[f])
        out[f] = unit(chance)
        starts[f] = splitmix64(chance)
    return starts, out


class DartBatch:
    """Room for the darts of one level, used again by every level; pages never written to take no memory.

    Attributes
    ----------
    spot : (room, 4) float32, where a dart lies, and the squared distance of the nearest point
    dart : (room, 2) int32, face, and number of the dart on it
    """

    def __init__(self, areas: np.ndarray, per_area: float) -> None:
        room = int(areas.sum() * per_area) + 2 * len(areas) + 2 * CHUNKS
        self.spot, self.dart = np.empty((room, 4), np.float32), np.empty((room, 2), np.int32)
        self._area_before = np.concatenate([[0.0], np.cumsum(areas)])

    def starts(self, reached: np.ndarray, firsts: np.ndarray, per_area: float) -> np.ndarray:
        """Where each chunk of the faces reached may write from on: a dart a face, and what its area may bring more."""
        last = np.append(reached, len(self._area_before) - 1)[firsts]
        most = self._area_before[last] * per_area
        return most.astype(np.int64) + firsts + np.arange(len(firsts))


@kernel
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


_SHAKEN = 0.5
"""How far, in parts of the mean distance of the darts thrown so far."""


@inlined()
def weights(start: int, n: int) -> tuple[float, float]:
    """Weights of the second and third corner at dart `n` of a face whose sequence has this start."""
    u = np.float64(np.int64(start >> uint64(32))) * (1.0 / 4294967296.0) + n * _R2_U
    v = np.float64(np.int64(start & uint64(0xFFFFFFFF))) * (1.0 / 4294967296.0) + n * _R2_V
    # The sequence comes ever nearer to a lattice, in which many darts lie at the same few distances: it is shaken.
    shaken = splitmix64(uint64(start) + uint64(n))
    far = _SHAKEN / np.sqrt(n + 1.0)
    u += np.float64(np.int64(shaken >> uint64(32))) * (1.0 / 4294967296.0) * far
    v += np.float64(np.int64(shaken & uint64(0xFFFFFFFF))) * (1.0 / 4294967296.0) * far
    u, v = u - np.floor(u), v - np.floor(v)
    # The half of the square beyond the diagonal is folded back.
    if u + v > 1.0:
        return 1.0 - u, 1.0 - v
    return u, v


@kernel
def _emit(
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
            u, v = weights(starts[f], n)
            place[at, 0], place[at, 1], place[at, 2] = ax + u * bx + v * dx, ay + u * by + v * dy, az + u * bz + v * dz
            on[at], number[at] = f, n
            at += 1


@inlined()
def name_of(sequence: int, number: int) -> int:
    """Identity of a dart: the same wherever else darts are thrown."""
    return splitmix64(uint64(sequence) + uint64(number))


@kernel
def _group(place: np.ndarray, on: np.ndarray, begin: int, wide: float, low: np.ndarray, high: np.ndarray) -> int:
    """End of the darts from `begin` on that lie on one face, or on several in a box no wider than `wide`; its box."""
    for k in range(3):
        low[k] = high[k] = place[begin, k]
    end = begin
    while end < len(place):
        for k in range(3):
            reaches = max(high[k], place[end, k]) - min(low[k], place[end, k])
            if reaches > wide and on[end] != on[begin]:
                return end
        for k in range(3):
            low[k], high[k] = min(low[k], place[end, k]), max(high[k], place[end, k])
        end += 1
    return end


@parallel_kernel
def throw_darts(
    frames: np.ndarray, sequences: np.ndarray, areas: np.ndarray, chance: np.ndarray, reached: np.ndarray,
    before: float, after: float, lying: np.ndarray, cells: np.ndarray, inverse: float, bits: tuple[int, int, int],
    radius: float, reach: float, firsts: np.ndarray, starts: np.ndarray, spot: np.ndarray, dart: np.ndarray,
) -> np.ndarray:  # fmt: skip
    """Throw the darts of one level and keep those that no point lies nearer to than `radius`.

    They are written from `starts` of their chunk on, with the squared distance of the nearest point, at most that of
    `reach`; returned is how many each chunk kept.
    """
    chunks = len(firsts) - 1
    kept = np.zeros(chunks, np.int64)
    limit, most = np.float32(radius * radius), np.float32(reach * reach)
    for turn in prange(chunks):
        # In a scattered order, so that threads get equal shares where faces differ much in size.
        q = turn * SCATTER % chunks
        run = reached[firsts[q] : firsts[q + 1]]
        first, end = _counts(run, areas, chance, before, after)
        total = (end - first).sum()
        if total == 0:
            continue
        # First where they all fall, then which are free: the first has no branches to guess wrong.
        place, on, own = np.empty((total, 3), np.float32), np.empty(total, np.int32), np.empty(total, np.int32)
        _emit(frames, sequences, run, first, end, place, on, own)
        at, begin = starts[q], 0
        low, high, about = np.empty(3, np.float32), np.empty(3, np.float32), np.empty((3, _ROOM), np.float32)
        while begin < total:
            stop = _group(place, on, begin, np.float32(_GROUP * reach), low, high)
            found = -1
            if stop - begin > 2:
                found = gather(low, high, reach, lying, cells, inverse, bits, about)
            for n in range(begin, stop):
                x, y, z = place[n, 0], place[n, 1], place[n, 2]
                if found >= 0:
                    free = nearest_of(x, y, z, about, found, most)
                else:
                    free = nearest(x, y, z, lying, cells, inverse, bits, limit, most)
                if free < limit:
                    continue
                spot[at, 0], spot[at, 1], spot[at, 2], spot[at, 3] = x, y, z, free
                dart[at, 0], dart[at, 1] = on[n], own[n]
                at += 1
            begin = stop
        kept[q] = at - starts[q]
    return kept
