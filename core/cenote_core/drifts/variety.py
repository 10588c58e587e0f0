"""How the single things of a drift differ: size, turn, lean, sink, tint, and which asset of the mix each is."""

from __future__ import annotations

import numpy as np
from numba import njit, uint64

from ..hashing import combine, mix, uniform, unit
from ..plan import DriftPlan

ASSET_SLOTS = 4096
_TRIES = 6


def own_sizes(plan: DriftPlan, identity: np.ndarray, share: np.ndarray | None = None) -> np.ndarray:
    """(N,) sizes from identities within the plan's range and bias; `share` (N,) 0..1 in place of chance."""
    variety = plan.variety
    bias = 2.0 ** (-1.6 * variety.size_bias)
    drawn = uniform(identity, 4) if share is None else share
    return np.asarray(variety.size_min + (variety.size_max - variety.size_min) * drawn**bias)


def unlike_neighbours(
    positions: np.ndarray, identity: np.ndarray, weights: np.ndarray, reach: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Asset, turn and size of each, chosen so that near ones are not twins.

    Going through the points in order, each draws a few candidates from its identity and takes the one least like
    what lies within `reach`. It depends on all places of the drift and not on which of them stand, so that a change
    of rules or density changes no plant.

    Parameters
    ----------
    weights : (A,) of the assets
    reach : float, metres

    Returns
    -------
    asset (N,) int32, turn (N,) float64 0..1, size (N,) float64 0..1
    """
    total = np.cumsum(weights) / max(float(np.sum(weights)), 1e-12)
    asset = np.zeros(len(positions), np.int32)
    turn, size = np.zeros(len(positions)), np.zeros(len(positions))
    _choose(np.ascontiguousarray(positions, np.float64), identity, total, reach, _TRIES, asset, turn, size)
    return asset, turn, size


@njit(cache=True, nogil=True)
def _choose(
    points: np.ndarray,
    identity: np.ndarray,
    total: np.ndarray,
    reach: float,
    tries: int,
    asset: np.ndarray,
    turn: np.ndarray,
    size: np.ndarray,
) -> None:
    slots = 1
    while slots < 2 * len(points) + 16:
        slots *= 2
    heads = np.full(slots, -1, np.int64)
    following = np.full(len(points), -1, np.int64)
    around = np.empty(512, np.int64)
    for n in range(len(points)):
        cx, cz = int(np.floor(points[n, 0] / reach)), int(np.floor(points[n, 2] / reach))
        count = 0
        for dx in range(-1, 2):
            for dz in range(-1, 2):
                h = combine(uint64(cx + dx), uint64(cz + dz)) & uint64(slots - 1)
                m = heads[int(h)]
                while m >= 0 and count < 512:
                    ex, ey, ez = points[m, 0] - points[n, 0], points[m, 1] - points[n, 1], points[m, 2] - points[n, 2]
                    if ex * ex + ey * ey + ez * ez < reach * reach:
                        around[count] = m
                        count += 1
                    m = following[m]
        best = -1.0
        for k in range(tries):
            seed = mix(identity[n] + uint64(k) * uint64(0x9E3779B97F4A7C15))
            a = 0
            drawn = unit(seed)
            while a < len(total) - 1 and drawn >= total[a]:
                a += 1
            t, s = unit(combine(seed, uint64(3))), unit(combine(seed, uint64(4)))
            worst = 10.0
            for q in range(count):
                m = around[q]
                if asset[m] != a:
                    continue
                dt = abs(turn[m] - t)
                dt = min(dt, 1.0 - dt) * 2.0
                worst = min(worst, max(dt * 3.0, abs(size[m] - s) * 2.0))
            # The first candidate that is clearly unlike all others is taken, so that weights are kept.
            if worst > best:
                best = worst
                asset[n], turn[n], size[n] = a, t, s
            if worst > 0.45:
                break
        h = combine(uint64(cx), uint64(cz)) & uint64(slots - 1)
        following[n] = heads[int(h)]
        heads[int(h)] = n


def leaning(normals: np.ndarray, follow: float, lean: float, identity: np.ndarray) -> np.ndarray:
    """(N, 3) own axis of each instance: between upright and the surface's normal, then leaned at random."""
    up = normals * follow + np.array([0, 1.0, 0]) * (1 - follow)
    length = np.linalg.norm(up, axis=1, keepdims=True)
    up = np.where(length > 1e-6, up / np.maximum(length, 1e-6), normals)
    angle = np.radians(lean) * np.sqrt(uniform(identity, 1))
    heading = uniform(identity, 2) * 2 * np.pi
    side = np.cross(up, np.where(np.abs(up[:, :1]) < 0.9, [[1.0, 0, 0]], [[0, 0, 1.0]]))
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-9)
    other = np.cross(up, side)
    tilt = np.cos(heading)[:, None] * side + np.sin(heading)[:, None] * other
    return np.asarray(up * np.cos(angle)[:, None] + tilt * np.sin(angle)[:, None])


def rotation(up: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """(N, 4) quaternions x, y, z, w: first a turn about y (radians), then the shortest arc from y to `up`."""
    arc = np.column_stack([up[:, 2], np.zeros(len(up)), -up[:, 0], 1.0 + up[:, 1]])
    flipped = arc[:, 3] < 1e-6
    arc[flipped] = [1.0, 0, 0, 0]
    arc /= np.linalg.norm(arc, axis=1, keepdims=True)
    y, w = np.sin(turn / 2), np.cos(turn / 2)
    ax, az, aw = arc[:, 0], arc[:, 2], arc[:, 3]
    return np.column_stack([ax * w - az * y, aw * y, az * w + ax * y, aw * w])


def tints(plan: DriftPlan, identity: np.ndarray) -> np.ndarray:
    """(N, 3) float64 factors on the colour: the drift's own spread of brightness and warmth, matched to the scene."""
    bright = 1 + plan.variety.tint * (uniform(identity, 6) - 0.5) * 1.4
    warm = plan.variety.tint * (uniform(identity, 7) - 0.5)
    out = np.column_stack([bright * (1 + 0.9 * warm), bright, bright * (1 - 0.9 * warm)])
    from ..materials.material import srgb_to_linear

    text = plan.match.tint
    colour = srgb_to_linear(np.array([int(text[k : k + 2], 16) / 255 for k in (1, 3, 5)], np.float32))
    return np.asarray(out * colour * plan.match.gain)
