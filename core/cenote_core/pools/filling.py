"""Hollows filled with what runs into them, spilling from one into the next.

Hollows are found by flooding from the rim inward (Barnes, Lehman and Mulla, *Priority-flood*, 2014). What runs into one
fills it from its lowest place up; when it is full the rest runs on to where it spills (after Barnes, Callaghan and
Wickert, *Fill-Spill-Merge*, 2020, with hollows that spill into each other taken as one).
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass

import numpy as np

from ..base.kernels import kernel
from ..columns.grid import stepped

OFF = -1
"""In place of a hollow's number: off the grid."""


@dataclass(frozen=True)
class Hollows:
    """The hollows of a surface.

    Attributes
    ----------
    of : (R, C) int64 which hollow each node lies in, −1 for none
    spill : (H,) float64 height at which each is full, metres
    below : (H,) int64 the hollow each spills into, `OFF` for none; always one with a lower number
    drains_to : (R, C) int64 flat number of the node each drains to, −1 where water leaves
    order : (N,) int64 flat numbers of nodes as the flood came to them
    """

    of: np.ndarray
    spill: np.ndarray
    below: np.ndarray
    drains_to: np.ndarray
    order: np.ndarray


@kernel
def _flood(
    height: np.ndarray, joined: np.ndarray, leaves: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    rows, columns = height.shape
    count = rows * columns
    of, parent = np.full(count, -1, np.int64), np.full(count, -1, np.int64)
    seen = np.zeros(count, np.bool_)
    order, done = np.zeros(count, np.int64), 0
    spill, below = np.zeros(count), np.zeros(count, np.int64)
    hollows = 0
    heap = [(0.0, np.int64(0))]
    heap.pop()
    # A hollow is flooded in full before the flood goes on, so that it is one however many ways lead into it.
    pit, deep = np.zeros(count, np.int64), 0
    levels = np.zeros(count)
    for at in range(count):
        if leaves[at // columns, at % columns]:
            heapq.heappush(heap, (height[at // columns, at % columns], np.int64(at)))
            seen[at] = True
    while deep > 0 or len(heap):
        if deep > 0:
            deep -= 1
            at = int(pit[deep])
            here = levels[at]
        else:
            here, top = heapq.heappop(heap)
            at = int(top)
        order[done] = at
        done += 1
        r, c = at // columns, at % columns
        for k in range(4):
            if not joined[r, c, k]:
                continue
            nr, nc = stepped(r, c, k)
            n = nr * columns + nc
            if seen[n]:
                continue
            seen[n] = True
            parent[n] = at
            if height[nr, nc] < here:
                if of[at] >= 0 and spill[of[at]] == here:
                    of[n] = of[at]
                else:
                    of[n] = hollows
                    spill[hollows] = here
                    # Down the way the flood came lies where it spills to.
                    down = at
                    while down >= 0 and of[down] < 0:
                        down = parent[down]
                    below[hollows] = of[down] if down >= 0 else -1
                    hollows += 1
                levels[n] = here
                pit[deep] = n
                deep += 1
            else:
                heapq.heappush(heap, (height[nr, nc], np.int64(n)))
    return of, parent, order[:done], spill[:hollows], below[:hollows]


def hollows_of(height: np.ndarray, joined: np.ndarray, leaves: np.ndarray) -> Hollows:
    """Find the hollows of a surface.

    Parameters
    ----------
    height : (R, C) float64 metres; nan where there is nothing
    joined : (R, C, 4) bool, does water pass to the neighbour? (`columns.grid.STEPS`)
    leaves : (R, C) bool, nodes at which water leaves
    """
    of, parent, order, spill, below = _flood(height, joined, leaves)
    return Hollows(of.reshape(height.shape), spill, below, parent.reshape(height.shape), order)


@kernel
def _gathered(
    of: np.ndarray, parent: np.ndarray, order: np.ndarray, volume: np.ndarray, hollows: int
) -> tuple[np.ndarray, np.ndarray]:
    """(H,) volumes that run into each hollow by themselves, and (N,) what leaves at each node."""
    into, off = np.zeros(hollows), np.zeros(len(of))
    running = volume.copy()
    for k in range(len(order) - 1, -1, -1):
        at = order[k]
        if of[at] >= 0:
            into[of[at]] += running[at]
        elif parent[at] >= 0:
            running[parent[at]] += running[at]
        else:
            off[at] += running[at]
    return into, off


@dataclass(frozen=True)
class Filled:
    """Water in hollows.

    Attributes
    ----------
    level : (H,) height of the water in each, metres; −inf where there is none
    stored : (H,) m³ in each
    off : (R, C) m³ that leave at each node
    """

    level: np.ndarray
    stored: np.ndarray
    off: np.ndarray


def fill(height: np.ndarray, hollows: Hollows, volume: np.ndarray, area: float) -> Filled:
    """Let water run.

    Parameters
    ----------
    height : (R, C) float64 metres
    volume : (R, C) float64 m³ that comes down on each node and does not soak away
    area : m² of a node
    """
    flat, of = height.ravel(), hollows.of.ravel()
    coming, off = _gathered(of, hollows.drains_to.ravel(), hollows.order, volume.ravel(), len(hollows.spill))
    by_hollow = np.argsort(of, kind="stable")
    first = np.searchsorted(of[by_hollow], np.arange(len(hollows.spill) + 1))
    level, stored = np.full(len(hollows.spill), -np.inf), np.zeros(len(hollows.spill))
    outlet = _outlets(hollows)
    # Hollows are numbered from below: those above have spilled before it is a lower one's turn.
    for number in range(len(hollows.spill) - 1, -1, -1):
        nodes = by_hollow[first[number] : first[number + 1]]
        level[number], stored[number] = _risen(np.sort(flat[nodes]), hollows.spill[number], coming[number], area)
        over = coming[number] - stored[number]
        if over <= 0:
            continue
        if hollows.below[number] >= 0:
            coming[hollows.below[number]] += over
        else:
            off[outlet[number]] += over
    return Filled(level, stored, off.reshape(height.shape))


def _risen(heights: np.ndarray, spill: float, volume: float, area: float) -> tuple[float, float]:
    """How high a volume stands over sorted heights, and how much of it stays below the spill."""
    if volume <= 0:
        return -np.inf, 0.0
    # Volume under a level that has just come to each node.
    steps = np.arange(1, len(heights)) * np.diff(heights) * area
    under = np.concatenate([[0.0], np.cumsum(steps)])
    k = int(np.searchsorted(under, volume, side="right")) - 1
    level = heights[k] + (volume - under[k]) / ((k + 1) * area)
    if level >= spill:
        full = float(((spill - heights) * area).sum())
        return spill, min(full, volume)
    return float(level), float(volume)


def _outlets(hollows: Hollows) -> np.ndarray:
    """(H,) flat numbers of the nodes at which what spills from each leaves the grid, for those that spill off it."""
    of, parent = hollows.of.ravel(), hollows.drains_to.ravel()
    out = np.zeros(len(hollows.spill), np.int64)
    seen = np.zeros(len(hollows.spill), bool)
    for at in hollows.order:
        number = of[at]
        if number < 0 or seen[number]:
            continue
        seen[number] = True
        down = at
        while parent[down] >= 0:
            down = parent[down]
        out[number] = down
    return out
