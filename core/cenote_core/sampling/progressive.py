"""An order of points in which every beginning is itself well spread.

From all points those are chosen that keep twice the spacing, from these those that keep four times, and so on; each
time the elder are asked first, and each stays that no elder one lies too near to. (So many places can be asked at once
that it takes few rounds: Blelloch, Fineman and Shun, *Greedy Sequential Maximal Independent Set and Matching are
Parallel on Average*, 2012. The outcome is that of asking one after the other, whatever the number of threads.)

A point's gap is how far the nearest of those before it lies. In the order of gaps, the widest first, no two of all
points down to a gap lie nearer than it.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined, parallel_kernel, prange, uint64
from .hash_grid import HashGrid, distance_sq
from .neighbours import Neighbours, neighbours
from .surface_walk import SurfacePoints

_UNDECIDED, _STAYS, _GOES = 0, 1, 2
_RUNS = 512
_FIRST = np.float32(1e18)
"""Added to the age of those chosen: they come before all others."""


def insertion_radii(
    at: SurfacePoints, age: np.ndarray, near: Neighbours, spacing: float, bounds: np.ndarray, widest: float
) -> np.ndarray:
    """Gap of each point, squared; −1 for those that lie nearer than `spacing` to an elder one.

    Parameters
    ----------
    at : SurfacePoints, N points, whose identities decide between those of one age
    age : (N,) float32, the elder have the greater
    near : Neighbours of the points within twice the spacing
    spacing : float
        Metres.
    bounds : (2, 3) corners of a box about all points
    widest : float
        Gap of the very first, metres.
    """
    out = np.full(len(age), -1.0, np.float32)
    chosen = asked(at.position, age, at.identity, near, 2 * spacing)
    older = age + _FIRST * chosen
    staying = asked(at.position, older, at.identity, near, spacing)
    gap = _nearest_elder(at.position, older, at.identity, staying, *near.parts(), np.float32(4 * spacing * spacing))
    late = staying & ~chosen
    out[late] = gap[late]
    own, radius = np.flatnonzero(chosen), 2 * spacing
    while len(own) > 1:
        grid = HashGrid(np.take(at.position, own, axis=0), radius, bounds)
        own = own[grid.order]
        near = neighbours(grid, 2 * radius)
        older, named = age[own], at.identity[own]
        chosen = asked(grid.position, older, named, near, 2 * radius)
        all_stay, most = np.ones(len(own), np.bool_), np.float32(4 * radius * radius)
        gap = _nearest_elder(grid.position, older + _FIRST * chosen, named, all_stay, *near.parts(), most)
        out[own[~chosen]] = gap[~chosen]
        own, radius = own[chosen], 2 * radius
    out[own] = widest * widest
    return out


def asked(place: np.ndarray, age: np.ndarray, identity: np.ndarray, near: Neighbours, radius: float) -> np.ndarray:
    """(N,) bool: those no elder one that stays lies nearer to than `radius`."""
    state = np.zeros(len(age), np.uint8)
    left = np.full(min(_RUNS, max(1, len(age) // 64)), 1, np.int64)
    while left.any():
        _ask(state, left, place, age, identity, *near.parts(), np.float32(radius * radius))
    return state == _STAYS


@inlined()
def _elder(m: int, n: int, age: np.ndarray, identity: np.ndarray) -> bool:
    return age[m] > age[n] or (age[m] == age[n] and identity[m] > identity[n])


@parallel_kernel
def _ask(
    state: np.ndarray, left: np.ndarray, place: np.ndarray, age: np.ndarray, identity: np.ndarray,
    starts: np.ndarray, counts: np.ndarray, others: np.ndarray, limit: float,
) -> None:  # fmt: skip
    """Decide all points whose elders near by are decided; `left` counts for each run those that are not.

    Runs read what others are just writing. A point once decided stays so, and one that is found undecided is asked
    again: it makes no difference to the outcome.
    """
    runs = len(left)
    for q in prange(runs):
        first, last = q * len(age) // runs, (q + 1) * len(age) // runs
        more = left[q] > 0
        while more:
            more, waiting = False, 0
            for n in range(first, last):
                if state[n] != _UNDECIDED:
                    continue
                x, y, z, verdict = place[n, 0], place[n, 1], place[n, 2], _STAYS
                for e in range(starts[n], starts[n] + counts[n]):
                    m = uint64(others[e])
                    if state[m] == _GOES or not _elder(m, n, age, identity) or distance_sq(place, m, x, y, z) >= limit:
                        continue
                    if state[m] == _STAYS:
                        verdict = _GOES
                        break
                    verdict = _UNDECIDED
                if verdict == _UNDECIDED:
                    waiting += 1
                else:
                    state[n] = verdict
                    more = True
            left[q] = waiting
            more = more and waiting > 0


@parallel_kernel
def _nearest_elder(
    place: np.ndarray, age: np.ndarray, identity: np.ndarray, staying: np.ndarray, starts: np.ndarray,
    counts: np.ndarray, others: np.ndarray, most: float,
) -> np.ndarray:  # fmt: skip
    """(N,) float32: squared distance of the nearest elder one that stays, at most `most`."""
    out = np.empty(len(age), np.float32)
    for n in prange(len(age)):
        x, y, z = place[n, 0], place[n, 1], place[n, 2]
        found = most
        for e in range(starts[n], starts[n] + counts[n]):
            m = uint64(others[e])
            if staying[m] and _elder(m, n, age, identity):
                found = min(found, distance_sq(place, m, x, y, z))
        out[n] = found
    return out
