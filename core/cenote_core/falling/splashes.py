"""Crowns of droplets where drops hit: a ring that flies up and outward, and falls.

A crown's speed and number of droplets grow with that of the drop (after Mundo, Sommerfeld and Tropea, *Droplet-wall
collisions*, 1995, in round figures); each droplet then flies freely.
"""

from __future__ import annotations

import numpy as np

from ..base.compass import compass
from ..base.physics import GRAVITY
from ..hashing import uniform
from ..mesh.rays import RayScene
from .drops import N0, Falling, falls_at, slope_of

LIFE = 0.13
"""Seconds in which a crown flies up and is gone."""
DROPLETS = 7
REACH = 8.0
"""Metres from the eye within which crowns are seen."""
_SEEN = 1.6
"""Millimetres across of the smallest drop whose crown is seen."""
_MOST = 4000
_UP, _OUT = (0.35, 0.75), (0.25, 0.6)
"""Metres a second by which droplets fly up and outward."""
_SIZE = (0.0005, 0.0013)
_ABOVE = 40.0
"""Metres above what is looked for from which drops are followed."""
_PLACES, _MOST_PLACES = 7.0, 16_000
"""Places a square metre where the plate shows crowns one after another, and of a whole site at most."""
_LEVEL = 0.3
"""Upward part of a normal under which drops glance off."""
_SHUTTER = 1 / 120


def hits_a_second(rain: float) -> float:
    """Drops whose crowns are seen that hit a square metre in a second, for rain in mm/h."""
    if rain <= 0:
        return 0.0
    slope = slope_of(rain)
    large = np.exp(-slope * _SEEN) / slope * N0
    return float(large * falls_at(np.array([_SEEN + 1 / slope]))[0])


def rained_on(standing: RayScene, low: np.ndarray, high: np.ndarray, wind_from: float, wind: float) -> np.ndarray:
    """(N, 3) float32 places within a box of the ground where rain hits, evenly over what lies open to it."""
    size = np.maximum(high - low, 1e-3)
    count = int(min(_PLACES * size[0] * size[2], _MOST_PLACES))
    number = np.arange(count).astype(np.uint64)
    start = np.column_stack([uniform(number, 41), np.ones(count), uniform(number, 42)]) * size + low
    way = _way(wind_from, wind)
    start = start - way * (_ABOVE / -way[1])
    met = standing.meet(start.astype(np.float32), np.tile(way.astype(np.float32), (count, 1)), 2 * _ABOVE + size[1])
    return np.asarray(met.positions[met.hit & (met.normals[:, 1] > _LEVEL)], np.float32)


def _way(wind_from: float, wind: float) -> np.ndarray:
    """(3,) unit vector along which drops of two millimetres come."""
    level = -compass(wind_from) * wind
    way = np.array([level[0], -float(falls_at(np.array([2.0]))[0]), level[1]])
    return np.asarray(way / np.linalg.norm(way))


def rain_hits(
    standing: RayScene, eye: np.ndarray, rain: float, wind_from: float, wind: float, moment: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Where drops have hit within the last moment: (N, 3) places, (N, 3) normals, (N,) seconds since.

    The same for the same moment; none where nothing is met.
    """
    wanted = int(hits_a_second(rain) * LIFE * (2 * REACH) ** 2)
    count = min(wanted, _MOST)
    rng = np.random.Generator(np.random.Philox(key=[877, int(round(moment * 1000)) + 1]))
    reach = REACH * np.sqrt(count / max(wanted, 1))
    drawn = rng.random((count, 3))
    way = _way(wind_from, wind)
    about = np.column_stack([drawn[:, 0] * 2 - 1, np.zeros(count), drawn[:, 1] * 2 - 1]) * max(reach, 2.0)
    # From high above, so that roofs and walls catch what would not come down here.
    start = eye + about - way * _ABOVE
    if not count:
        return np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0)
    met = standing.meet(start.astype(np.float32), np.tile(way.astype(np.float32), (count, 1)), 2 * _ABOVE)
    hit = met.hit
    return met.positions[hit].astype(np.float64), met.normals[hit].astype(np.float64), drawn[hit, 2] * LIFE


def crowns(at: np.ndarray, normals: np.ndarray, age: np.ndarray) -> Falling:
    """Droplets of crowns (N, 3) seconds (N,) after the hit, on surfaces with normals (N, 3)."""
    count = len(at)
    name = np.repeat(np.abs(np.asarray(at, np.float64)).sum(axis=1).view(np.uint64), DROPLETS)
    name = name * np.uint64(31) + np.tile(np.arange(DROPLETS), count).astype(np.uint64)
    turn = (np.tile(np.arange(DROPLETS), count) + 0.8 * uniform(name, 1)) * (2 * np.pi / DROPLETS)
    up, foot, seconds = (np.repeat(v, DROPLETS, axis=0) for v in (normals, at, age))
    side = np.cross(up, np.where(np.abs(up[:, :1]) < 0.7, [[1.0, 0, 0]], [[0, 0, 1.0]]))
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-9)
    outward = side * np.cos(turn)[:, None] + np.cross(up, side) * np.sin(turn)[:, None]
    between = lambda limits, k: limits[0] + (limits[1] - limits[0]) * uniform(name, k)  # noqa: E731
    start = outward * between(_OUT, 2)[:, None] + up * between(_UP, 3)[:, None]
    fallen = np.array([0, -GRAVITY, 0])
    where = foot + start * seconds[:, None] + 0.5 * fallen * seconds[:, None] ** 2
    velocity = start + fallen * seconds[:, None]
    flies = ((where - foot) * up).sum(axis=1) > 0
    return Falling(where[flies], velocity[flies], between(_SIZE, 4)[flies], _SHUTTER)
