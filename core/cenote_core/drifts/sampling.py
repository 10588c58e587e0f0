"""Spaced points on any surfaces: progressive dart throwing.

A universal ladder of radii, each 2^(1/6) below the one before, is thrown down to the spacing asked for; a last
throw at exactly that spacing fills up. Every level adds darts between those already lying, so every prefix of
the result is itself well spaced (hierarchical dart throwing after White, Cline, Egbert, *Poisson Disk Point
Sets by Hierarchical Dart Throwing*, 2007; on surfaces after Cline et al., *Dart Throwing on Surfaces*, 2009).
Ladder levels do not depend on the spacing, so points keep their places when it changes.

Conflicts are found in bricks of 4³ cells two radii wide. Bricks of one of eight colours are never neighbours, so
they are worked through in parallel and the result is the same for any number of threads.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit, prange, uint64

from ..errors import TooHeavyError
from ..hashing import combine, mix, unit
from .bricks import SIDE, by_colour, cell, find_bricks, grouped

LADDER_TOP = 1024.0
LADDER_STEP = 2.0 ** (-1 / 6)
DARTS = 3.0
"""Darts thrown per r² of surface on a ladder level."""
DARTS_LAST = 6.0
"""On the last level, where gaps would be seen."""
PACKING = 0.57
"""Points per r² that such a throw ends with, measured. Throwing at once, without levels, would approach the
random sequential limit 4 · 0.547 / π = 0.6965, but its prefixes would not be spaced."""
MOST_POINTS = 6_000_000
_MARGIN = 1.0 + 2e-6  # spacing also holds for positions read back as float32


@dataclass(frozen=True)
class SpacedPoints:
    """Points in progressive order.

    Attributes
    ----------
    positions : (N, 3) float32
    face : (N,) int32, index into the faces given
    bary : (N, 2) float32, weights of each face's second and third corner
    identity : (N,) uint64, stays the same for the same dart
    rank : (N,) float32, points per square metre from which on this point stands; ascending
    """

    positions: np.ndarray
    face: np.ndarray
    bary: np.ndarray
    identity: np.ndarray
    rank: np.ndarray

    def __len__(self) -> int:
        return len(self.positions)


def full_density(spacing: float) -> float:
    """The most points per square metre that keep `spacing` metres apart by this method."""
    return PACKING / (spacing * spacing)


def ladder(spacing: float, extent: float) -> list[float]:
    """Radii from about `extent` down to exactly `spacing`, metres."""
    radius = LADDER_TOP
    while radius * LADDER_STEP > extent and radius * LADDER_STEP > spacing:
        radius *= LADDER_STEP
    radii = []
    while radius > spacing * (1 + 1e-9):
        radii.append(radius)
        radius *= LADDER_STEP
    return [*radii, spacing]


def spaced_points(
    positions: np.ndarray, faces: np.ndarray, face_keys: np.ndarray, areas: np.ndarray, spacing: float, seed: int
) -> SpacedPoints:
    """Throw darts on triangles until no more than small gaps are left.

    Parameters
    ----------
    positions : (V, 3) float32, metres
    faces : (F, 3) int32
    face_keys : (F,) uint64
        Stable identity of each face, so that other surfaces may come and go without moving these points.
    areas : (F,) float64, square metres; 0 keeps a face free
    spacing : float
        No two points come closer, in a straight line, metres.
    seed : int

    Raises
    ------
    TooHeavyError
        If more than about six million points would be needed.
    """
    expected = float(areas.sum()) * full_density(spacing)
    if expected > MOST_POINTS:
        raise TooHeavyError(
            f"A spacing of {spacing:g} m on {areas.sum():,.0f} m² would need {expected:,.0f} places; "
            f"at most {MOST_POINTS:,}. Choose a wider spacing or fewer surfaces."
        )
    empty = np.zeros((0, 3), np.float32)
    state = (
        empty,
        np.zeros(0, np.int32),
        np.zeros((0, 2), np.float32),
        np.zeros(0, np.uint64),
        np.zeros(0, np.float32),
    )
    if areas.sum() <= 0:
        return SpacedPoints(*state)
    used = positions[np.unique(faces)].astype(np.float64)
    corners = np.stack([used.min(axis=0), used.max(axis=0)])
    extent = float(np.linalg.norm(corners[1] - corners[0]))
    below = 0.0
    for radius in ladder(spacing, extent):
        last = radius == spacing
        darts = DARTS_LAST if last else DARTS
        state = _throw(state, positions, faces, face_keys, areas, corners, radius, below, darts, seed)
        below = full_density(radius)
    order = np.argsort(state[4], kind="stable")
    return SpacedPoints(*(part[order] for part in state))


_State = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]


def _throw(
    state: _State,
    positions: np.ndarray,
    faces: np.ndarray,
    face_keys: np.ndarray,
    areas: np.ndarray,
    corners: np.ndarray,
    radius: float,
    below: float,
    darts: float,
    seed: int,
) -> _State:
    """One level: throw darts at `radius` between the points already lying."""
    level_seed = np.uint64(combine(np.uint64(seed), np.float64(radius).view(np.uint64)))
    counts = _dart_counts(areas, face_keys, level_seed, darts / (radius * radius))
    starts = np.zeros(len(counts) + 1, np.int64)
    np.cumsum(counts, out=starts[1:])
    total = int(starts[-1])
    if total == 0:
        return state
    lying = len(state[0])
    all_positions = np.empty((lying + total, 3), np.float32)
    all_positions[:lying] = state[0]
    face = np.empty(total, np.int32)
    bary = np.empty((total, 2), np.float32)
    identity = np.empty(total, np.uint64)
    _darts(positions, faces, face_keys, starts, level_seed, all_positions, lying, face, bary, identity)
    inverse = 0.5 / radius
    bricks = find_bricks(all_positions, inverse, corners)
    order, starts_in = grouped(bricks.of, lying, len(bricks.place))
    heads = np.full((len(bricks.place), SIDE**3), -1, np.int32)
    following = np.full(lying + total, -1, np.int32)
    _insert(all_positions, bricks.of, lying, inverse, heads, following)
    accepted = np.zeros(total, np.bool_)
    for chosen in by_colour(bricks.place):
        if len(chosen):
            _settle(chosen, bricks.around, order, starts_in, all_positions, lying, radius, heads, following, accepted)
    new = np.flatnonzero(accepted)
    rank = _ranks(identity[new], below, full_density(radius))
    return (
        np.concatenate([state[0], all_positions[lying:][new]]),
        np.concatenate([state[1], face[new]]),
        np.concatenate([state[2], bary[new]]),
        np.concatenate([state[3], identity[new]]),
        np.concatenate([state[4], rank]),
    )


@njit(cache=True, nogil=True, parallel=True)
def _dart_counts(areas: np.ndarray, keys: np.ndarray, seed: int, per_area: float) -> np.ndarray:
    out = np.empty(len(areas), np.int64)
    for f in prange(len(areas)):
        expected = areas[f] * per_area
        out[f] = int(expected + unit(combine(uint64(seed), keys[f]))) if expected > 0 else 0
    return out


@njit(cache=True, nogil=True, parallel=True)
def _darts(
    positions: np.ndarray,
    faces: np.ndarray,
    keys: np.ndarray,
    starts: np.ndarray,
    seed: int,
    out: np.ndarray,
    first: int,
    face: np.ndarray,
    bary: np.ndarray,
    identity: np.ndarray,
) -> None:
    for f in prange(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        face_seed = combine(combine(uint64(seed), keys[f]), uint64(17))
        for n in range(starts[f], starts[f + 1]):
            h = combine(face_seed, uint64(n - starts[f]))
            root = np.sqrt(unit(h))
            v = root * unit(mix(h))
            u = root - v
            for k in range(3):
                p = positions[a, k]
                out[first + n, k] = p + u * (positions[b, k] - p) + v * (positions[c, k] - p)
            face[n] = f
            bary[n, 0] = u
            bary[n, 1] = v
            identity[n] = h


@njit(cache=True, nogil=True)
def _insert(
    positions: np.ndarray,
    brick_of: np.ndarray,
    count: int,
    inverse: float,
    heads: np.ndarray,
    following: np.ndarray,
) -> None:
    for n in range(count):
        x, y, z = (cell(positions[n, 0], inverse), cell(positions[n, 1], inverse), cell(positions[n, 2], inverse))
        at = (x & 3) + 4 * (y & 3) + 16 * (z & 3)
        following[n] = heads[brick_of[n], at]
        heads[brick_of[n], at] = n


@njit(cache=True, nogil=True)
def _conflict(
    x: float,
    y: float,
    z: float,
    brick: int,
    cx: int,
    cy: int,
    cz: int,
    sx: int,
    sy: int,
    sz: int,
    neighbours: np.ndarray,
    heads: np.ndarray,
    following: np.ndarray,
    positions: np.ndarray,
    limit: float,
) -> bool:
    """Cells are two radii wide, so only the own cell and those on the nearer side of each axis matter."""
    for step in range(8):
        ax, ay, az = cx, cy, cz
        if step & 1:
            ax += sx
        if step & 2:
            az += sz
        if step & 4:
            ay += sy
        other = brick
        if ax < 0 or ax > 3 or ay < 0 or ay > 3 or az < 0 or az > 3:
            other = neighbours[brick, 13 + (ax >> 2) + 3 * (ay >> 2) + 9 * (az >> 2)]
            if other < 0:
                continue
        m = heads[other, (ax & 3) + 4 * (ay & 3) + 16 * (az & 3)]
        while m >= 0:
            ex, ey, ez = positions[m, 0] - x, positions[m, 1] - y, positions[m, 2] - z
            if ex * ex + ey * ey + ez * ez < limit:
                return True
            m = following[m]
    return False


@njit(cache=True, nogil=True, parallel=True)
def _settle(
    bricks: np.ndarray,
    neighbours: np.ndarray,
    order: np.ndarray,
    starts: np.ndarray,
    positions: np.ndarray,
    lying: int,
    radius: float,
    heads: np.ndarray,
    following: np.ndarray,
    accepted: np.ndarray,
) -> None:
    limit = (radius * _MARGIN) ** 2
    inverse = 0.5 / radius
    for q in prange(len(bricks)):
        b = bricks[q]
        count = starts[b + 1] - starts[b]
        # A stride through the brick's darts instead of their order by face, which would leave a pattern.
        stride = (7919 if count % 7919 else 7907) % max(count, 1)
        step = -stride
        for _ in range(count):
            step += stride
            if step >= count:
                step -= count
            n = order[starts[b] + step]
            x, y, z = np.float64(positions[n, 0]), np.float64(positions[n, 1]), np.float64(positions[n, 2])
            gx, gy, gz = cell(x, inverse), cell(y, inverse), cell(z, inverse)
            sx = -1 if x * inverse - gx < 0.5 else 1
            sy = -1 if y * inverse - gy < 0.5 else 1
            sz = -1 if z * inverse - gz < 0.5 else 1
            cx, cy, cz = gx & 3, gy & 3, gz & 3
            if _conflict(x, y, z, b, cx, cy, cz, sx, sy, sz, neighbours, heads, following, positions, limit):
                continue
            at = cx + 4 * cy + 16 * cz
            following[n] = heads[b, at]
            heads[b, at] = n
            accepted[n - lying] = True


@njit(cache=True, nogil=True, parallel=True)
def _ranks(identity: np.ndarray, low: float, high: float) -> np.ndarray:
    out = np.empty(len(identity), np.float32)
    for n in prange(len(identity)):
        out[n] = low + (high - low) * unit(mix(identity[n] ^ uint64(0x5DEECE66D)))
    return out
