"""How droplets grow on a surface: all take up water, those that touch merge, and new ones form in the gaps.

After Beysens and Knobler, *Growth of breath figures* (1986): merging keeps the volume and the middle of the water, and
once it has begun the share of the surface that is covered levels off near 0.55, while sizes go on growing.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from ..base.kernels import inlined, kernel

GROWS = 1.07
"""Radii grow by this from step to step."""
_RELAXES = 0.8
"""Share of a merged drop's memory of its parents that is left a step later."""
_REMEMBERED = 0.3
"""How much of the shape of two that have met the new one starts with."""
_SAME_SIDE = 0.3
"""Cosine between normals under which droplets lie on different sides of something thin."""
_SETTLES = 3
"""Rounds in the end in which those still meet that others have grown into."""
_MEET = 0.01
"""Share of droplets that have met a neighbour from when on their growth is followed."""
_LEVEL = 3.0
"""Radii of droplets that are listed together differ by no more than this."""
_LOG_LEVEL = float(np.log(_LEVEL))


@dataclass(frozen=True)
class Droplets:
    """Droplets on a surface.

    Attributes
    ----------
    at, normal : (N, 3) float64 metres and unit vectors
    volume : (N,) float64 m³
    memory : (N, 3) float64 the direction its parents lay in times how far it is longer that way than wide; 0 for round
    name : (N,) int64 where it began, for what else is its own
    """

    at: np.ndarray
    normal: np.ndarray
    volume: np.ndarray
    memory: np.ndarray
    name: np.ndarray

    def __len__(self) -> int:
        return len(self.volume)

    def only(self, keep: np.ndarray) -> Droplets:
        """Those that `keep` picks."""
        return Droplets(*(getattr(self, name)[keep] for name in self.__dataclass_fields__))


def joined(parts: list[Droplets]) -> Droplets:
    """Several behind one another."""
    names = Droplets.__dataclass_fields__
    return Droplets(*(np.concatenate([getattr(part, name) for part in parts]) for name in names))


def grown(at: np.ndarray, normal: np.ndarray, start: np.ndarray, foot: float, until: float, shape: float) -> Droplets:
    """Droplets that began at sites (N, 3), after growth.

    Parameters
    ----------
    start : (N,) int64 the step at which each site begins; those that are covered by then never do, but for the first
    foot : radius of the foot at which they begin, metres
    until : radius to which one that met no other has grown, metres
    shape : volume over the cube of the foot's radius, for the contact angle
    """
    count = len(at)
    if not count:
        nothing = np.zeros((0, 3))
        return Droplets(nothing, nothing, np.zeros(0), nothing, np.zeros(0, np.int64))
    # Neighbours in space are neighbours in memory, which is quicker.
    cells = np.floor(np.asarray(at, np.float64) / max(float(np.sqrt(_spread(at) / count)) * 4, 1e-9)).astype(np.int64)
    order = np.lexsort((cells[:, 0], cells[:, 1], cells[:, 2], start))
    places, normals = np.array(at, np.float64)[order], np.array(normal, np.float64)[order]
    begins_at = np.asarray(start, np.int64)[order]
    first, skipped = _until_they_meet(places[begins_at == begins_at[0]], foot, until)
    steps = max(int(np.ceil(np.log(max(until / first, 1.0)) / np.log(GROWS))), 0)
    begins_at = np.maximum(begins_at - skipped, 0)
    radius, memory, alive = np.full(count, first), np.zeros((count, 3)), np.zeros(count, np.bool_)
    begins = np.searchsorted(begins_at, np.arange(steps + 2), side="left")
    _run(places, normals, radius, memory, alive, begins, steps, foot, first)
    on = np.flatnonzero(alive)
    return Droplets(places[on], normals[on], shape * radius[on] ** 3, memory[on], order[on].astype(np.int64))


def steps_until(foot: float, until: float) -> int:
    """Steps in which a lone droplet grows from one radius to another."""
    return max(int(np.ceil(np.log(max(until / foot, 1.0)) / np.log(GROWS))), 0)


def _spread(at: np.ndarray) -> float:
    """Square metres, about, over which places are spread."""
    size = np.sort(np.ptp(at, axis=0))
    return float(max(size[2] * size[1], 1e-12))


def _until_they_meet(at: np.ndarray, foot: float, until: float) -> tuple[float, int]:
    """Radius of droplets that begin at places by the time the first of them meet, and steps gone by until then."""
    if len(at) < 2:
        return foot, 0
    apart = cKDTree(at).query(at, k=2)[0][:, 1]
    steps = int(np.log(max(min(float(np.quantile(apart, _MEET)) / 2, until) / foot, 1.0)) / np.log(GROWS))
    return foot * GROWS**steps, steps


def covered(foot: np.ndarray, area: float) -> float:
    """Share of an area that droplets with feet of these radii cover."""
    return float(np.pi * (foot * foot).sum() / area)


@kernel
def _run(
    at: np.ndarray, normal: np.ndarray, radius: np.ndarray, memory: np.ndarray, alive: np.ndarray, begins: np.ndarray,
    steps: int, foot: float, first: float,
) -> None:  # fmt: skip
    count = len(radius)
    size = 16
    while size < 2 * count:
        size *= 2
    head, after = np.full(size, -1, np.int64), np.full(count, -1, np.int64)
    live, living = np.empty(count, np.int64), 0
    for step in range(steps + 1 + _SETTLES):
        kept, top = 0, 0
        for k in range(living):
            n = live[k]
            if alive[n]:
                live[kept] = n
                kept += 1
                if step <= steps:
                    radius[n] *= GROWS
                    for c in range(3):
                        memory[n, c] *= _RELAXES
                top = max(top, _level(radius[n], foot))
        living = kept
        head[:] = -1
        for k in range(living):
            _enter(at, radius, head, after, live[k], foot, size - 1)
        if step <= steps:
            # Those that begin at the outset have grown until they met.
            new = first if step == 0 else foot
            top = max(top, _level(new, foot))
            for n in range(begins[step], begins[step + 1] if step < steps else count):
                radius[n] = new
                # At the outset all are there; later ones only begin on what is bare.
                if step == 0 or _touched(at, normal, radius, head, after, alive, n, top, foot, size - 1) < 0:
                    alive[n] = True
                    live[living] = n
                    living += 1
                    _enter(at, radius, head, after, n, foot, size - 1)
        for k in range(living):
            n = live[k]
            while alive[n]:
                m = _touched(at, normal, radius, head, after, alive, n, top, foot, size - 1)
                if m < 0:
                    break
                # The larger one takes up the smaller.
                gone, stays = (n, m) if radius[n] < radius[m] or (radius[n] == radius[m] and n > m) else (m, n)
                _join(at, normal, radius, memory, stays, gone)
                alive[gone] = False


@inlined()
def _level(radius: float, foot: float) -> int:
    """Droplets are listed by their size too, so that none has to look among many of another size."""
    return max(0, int(np.log(radius / foot) / _LOG_LEVEL))


@inlined()
def _at(x: int, y: int, z: int, level: int, mask: int) -> int:
    """Where a cell's droplets of a level are listed; others may share the list."""
    return ((x * 73856093) ^ (y * 19349663) ^ (z * 83492791) ^ (level * 2654435761)) & mask


@inlined()
def _enter(
    at: np.ndarray, radius: np.ndarray, head: np.ndarray, after: np.ndarray, n: int, foot: float, mask: int
) -> None:
    level = _level(radius[n], foot)
    cell = 2 * foot * _LEVEL ** (level + 1)
    h = _at(int(np.floor(at[n, 0] / cell)), int(np.floor(at[n, 1] / cell)), int(np.floor(at[n, 2] / cell)), level, mask)
    after[n] = head[h]
    head[h] = n


@kernel
def _touched(
    at: np.ndarray, normal: np.ndarray, radius: np.ndarray, head: np.ndarray, after: np.ndarray, alive: np.ndarray,
    n: int, top: int, foot: float, mask: int,
) -> int:  # fmt: skip
    """A droplet as large as another or larger that touches it; −1 where there is none."""
    x, y, z = at[n, 0], at[n, 1], at[n, 2]
    for level in range(_level(radius[n], foot), top + 1):
        largest = foot * _LEVEL ** (level + 1)
        cell, reach = 2 * largest, radius[n] + largest
        for i in range(int(np.floor((x - reach) / cell)), int(np.floor((x + reach) / cell)) + 1):
            for j in range(int(np.floor((y - reach) / cell)), int(np.floor((y + reach) / cell)) + 1):
                for k in range(int(np.floor((z - reach) / cell)), int(np.floor((z + reach) / cell)) + 1):
                    m = head[_at(i, j, k, level, mask)]
                    while m >= 0:
                        if m != n and alive[m] and _meet(at, normal, radius, n, m):
                            return m
                        m = after[m]
    return -1


@inlined()
def _meet(at: np.ndarray, normal: np.ndarray, radius: np.ndarray, n: int, m: int) -> bool:
    dx, dy, dz = at[n, 0] - at[m, 0], at[n, 1] - at[m, 1], at[n, 2] - at[m, 2]
    apart = radius[n] + radius[m]
    if dx * dx + dy * dy + dz * dz >= apart * apart:
        return False
    facing = normal[n, 0] * normal[m, 0] + normal[n, 1] * normal[m, 1] + normal[n, 2] * normal[m, 2]
    return facing > _SAME_SIDE


@kernel
def _join(at: np.ndarray, normal: np.ndarray, radius: np.ndarray, memory: np.ndarray, n: int, m: int) -> None:
    a, b = radius[n] ** 3, radius[m] ** 3
    whole = a + b
    new = whole ** (1.0 / 3.0)
    dx, dy, dz = at[m, 0] - at[n, 0], at[m, 1] - at[n, 1], at[m, 2] - at[n, 2]
    away = np.sqrt(dx * dx + dy * dy + dz * dz)
    longer = _REMEMBERED * max(0.0, (away + radius[n] + radius[m]) / (2 * new) - 1.0)
    # A direction has no sign: what points the other way is turned round before it is added.
    dot = memory[n, 0] * dx + memory[n, 1] * dy + memory[n, 2] * dz
    sign = -1.0 if dot < 0 else 1.0
    step = (dx, dy, dz)
    length = 0.0
    for k in range(3):
        memory[n, k] = memory[n, k] * a / whole + sign * longer * step[k] / max(away, 1e-12)
        at[n, k] = (at[n, k] * a + at[m, k] * b) / whole
        normal[n, k] = (normal[n, k] * a + normal[m, k] * b) / whole
        length += normal[n, k] * normal[n, k]
    for k in range(3):
        normal[n, k] /= np.sqrt(max(length, 1e-12))
    radius[n] = new
