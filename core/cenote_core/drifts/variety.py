"""How the single things of a drift differ: size, turn, lean, sink, tint, and which asset of the mix each is."""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined, kernel, parallel_kernel, prange, uint64
from ..hashing import hash_combine, splitmix64, uniform, unit
from ..materials.tile import linear_colour
from ..plan import DriftPlan

_TRIES = 9
_OWN_TRIES = 6
"""So many tries with the asset that chance gave, in other turns and sizes; only then with others. So weights are kept."""


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

    Going through columns of cells, and in each through the points in order, each draws a few candidates from its
    identity and takes the one least like what lies within `reach`. It depends on all places of the drift and not on
    which of them stand, so that a change of rules or density changes no plant. Of nine colours of columns, those of
    one are never neighbours: they are worked through in parallel with the same result for any number of threads.

    Parameters
    ----------
    weights : (A,) of the assets
    reach : float, metres

    Returns
    -------
    asset (N,) int32, turn (N,) float64 0..1, size (N,) float64 0..1
    """
    total = np.cumsum(weights) / max(float(np.sum(weights)), 1e-12)
    cells = np.floor(positions[:, [0, 2]] / np.float32(reach)).astype(np.int64)
    cells -= cells.min(axis=0, initial=0) - 1
    wide = int(cells[:, 1].max(initial=0)) + 2
    key = cells[:, 0] * wide + cells[:, 1]
    order = np.argsort(key, kind="stable")
    key = key[order]
    firsts = np.flatnonzero(np.diff(key, prepend=-1))
    colour = (key[firsts] // wide) % 3 * 3 + key[firsts] % wide % 3
    asset = np.full(len(order), -1, np.int32)
    turn, size = np.zeros(len(order)), np.zeros(len(order))
    laid = np.ascontiguousarray(positions[order], np.float32), identity[order]
    for c in range(9):
        _choose(firsts[colour == c], key, wide, *laid, total, np.float32(reach * reach), asset, turn, size)
    back = np.empty_like(order)
    back[order] = np.arange(len(order))
    return asset[back], turn[back], size[back]


@inlined()
def _drawn(seed: int, total: np.ndarray) -> int:
    a = 0
    at = unit(seed)
    while a < len(total) - 1 and at >= total[a]:
        a += 1
    return a


@inlined()
def _unlike(turn: float, size: float, other_turn: float, other_size: float) -> float:
    """How far two plants of one asset differ; from about a half on nobody takes them for twins."""
    apart = abs(turn - other_turn)
    return max(min(apart, 1.0 - apart) * 6.0, abs(size - other_size) * 2.0)


@parallel_kernel
def _choose(
    firsts: np.ndarray, key: np.ndarray, wide: int, points: np.ndarray, identity: np.ndarray, total: np.ndarray,
    limit: float, asset: np.ndarray, turn: np.ndarray, size: np.ndarray,
) -> None:  # fmt: skip
    """Choose for the points of some columns, given by the first point of each; `key` numbers the column of each point."""
    for q in prange(len(firsts)):
        here = key[firsts[q]]
        low, high = np.empty(3, np.int64), np.empty(3, np.int64)
        for dx in range(3):
            # Three columns beside each other along z are one run of points.
            low[dx] = np.searchsorted(key, here + (dx - 1) * wide - 1)
            high[dx] = np.searchsorted(key, here + (dx - 1) * wide + 2)
        around = np.empty(512, np.int64)
        n = firsts[q]
        while n < len(key) and key[n] == here:
            count = 0
            for dx in range(3):
                for m in range(low[dx], high[dx]):
                    if asset[m] < 0 or count == 512:
                        continue
                    ex, ey, ez = points[m, 0] - points[n, 0], points[m, 1] - points[n, 1], points[m, 2] - points[n, 2]
                    if ex * ex + ey * ey + ez * ez < limit:
                        around[count] = m
                        count += 1
            asset[n], turn[n], size[n] = _least_alike(identity[n], total, around[:count], asset, turn, size)
            n += 1


@kernel
def _least_alike(
    identity: int, total: np.ndarray, around: np.ndarray, asset: np.ndarray, turn: np.ndarray, size: np.ndarray
) -> tuple[int, float, float]:
    """Of the candidates of one identity, the first that is clearly unlike all around, or else the least like them."""
    best, chosen = -1.0, (0, 0.0, 0.0)
    a = _drawn(splitmix64(identity), total)
    for k in range(_TRIES):
        seed = splitmix64(identity + uint64(k) * uint64(0x9E3779B97F4A7C15))
        if k >= _OWN_TRIES:
            a = _drawn(seed, total)
        t, s = unit(hash_combine(seed, uint64(3))), unit(hash_combine(seed, uint64(4)))
        worst = 10.0
        for m in around:
            if asset[m] == a:
                worst = min(worst, _unlike(t, s, turn[m], size[m]))
                if worst <= best:
                    break
        if worst > best:
            best, chosen = worst, (a, t, s)
        if worst > 0.45:
            break
    return chosen


def leaning(normals: np.ndarray, follow: float, lean: float, identity: np.ndarray) -> np.ndarray:
    """(N, 3) own axis of each instance: between upright and the surface's normal, then leaned at random."""
    return _leaned(
        np.ascontiguousarray(normals, np.float64), follow, np.radians(lean), uniform(identity, 1), uniform(identity, 2)
    )


@parallel_kernel
def _leaned(normals: np.ndarray, follow: float, most: float, by: np.ndarray, toward: np.ndarray) -> np.ndarray:
    out = np.empty((len(normals), 3))
    for n in prange(len(normals)):
        nx, ny, nz = normals[n, 0], normals[n, 1], normals[n, 2]
        x, y, z = nx * follow, ny * follow + 1 - follow, nz * follow
        length = np.sqrt(x * x + y * y + z * z)
        if length > 1e-6:
            x, y, z = x / length, y / length, z / length
        else:
            x, y, z = nx, ny, nz
        # A frame about the axis: across it, off whichever of x and z it leans to less.
        if abs(x) < 0.9:
            sx, sy, sz = 0.0, z, -y
        else:
            sx, sy, sz = y, -x, 0.0
        across = max(np.sqrt(sx * sx + sy * sy + sz * sz), 1e-9)
        sx, sy, sz = sx / across, sy / across, sz / across
        ox, oy, oz = y * sz - z * sy, z * sx - x * sz, x * sy - y * sx
        angle, heading = most * np.sqrt(by[n]), toward[n] * 2 * np.pi
        a, c, s = np.sin(angle), np.cos(heading), np.sin(heading)
        upright = np.cos(angle)
        out[n, 0] = x * upright + (c * sx + s * ox) * a
        out[n, 1] = y * upright + (c * sy + s * oy) * a
        out[n, 2] = z * upright + (c * sz + s * oz) * a
    return out


def rotation(up: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """(N, 4) quaternions x, y, z, w: first a turn about y (radians), then the shortest arc from y to `up`."""
    return _turned(np.ascontiguousarray(up, np.float64), np.ascontiguousarray(turn, np.float64))


@parallel_kernel
def _turned(up: np.ndarray, turn: np.ndarray) -> np.ndarray:
    out = np.empty((len(up), 4))
    for n in prange(len(up)):
        ax, az, aw = up[n, 2], -up[n, 0], 1.0 + up[n, 1]
        if aw < 1e-6:
            ax, az, aw = 1.0, 0.0, 0.0
        length = np.sqrt(ax * ax + az * az + aw * aw)
        ax, az, aw = ax / length, az / length, aw / length
        y, w = np.sin(turn[n] / 2), np.cos(turn[n] / 2)
        out[n, 0], out[n, 1] = ax * w - az * y, aw * y
        out[n, 2], out[n, 3] = az * w + ax * y, aw * w
    return out


def mirrored(plan: DriftPlan, identity: np.ndarray) -> np.ndarray:
    """(N,) bool: which are seen as in a mirror, by identity."""
    return np.asarray(uniform(identity, 9) < plan.variety.mirrored)


def tints(plan: DriftPlan, identity: np.ndarray) -> np.ndarray:
    """(N, 3) float64 factors on the colour: the drift's own spread of brightness and warmth, matched to the scene."""
    bright = 1 + plan.variety.tint * (uniform(identity, 6) - 0.5) * 1.4
    warm = plan.variety.tint * (uniform(identity, 7) - 0.5)
    out = np.column_stack([bright * (1 + 0.9 * warm), bright, bright * (1 - 0.9 * warm)])
    return np.asarray(out * linear_colour(plan.match.tint) * plan.match.gain)
