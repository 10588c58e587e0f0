"""Droplets too heavy for their slope: they run down, take up what lies in their way, leave a trail, and come to rest.

A drop holds on a slope as long as its weight along it is less than the pull of its rim, γ · width · (cos of the receding
angle − cos of the advancing one) (Furmidge, *Studies at phase interfaces*, 1962). What runs loses a film behind it that
breaks up into small beads (Podgorski, Flesselles and Limat, *Corners, cusps and pearls in running drops*, 2001).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from ..hashing import uniform
from ..mesh.rays import RayScene
from .growth import Droplets
from .profile import Profiles, foot_of

TENSION, WEIGHT = 0.0728, 9789.0
"""N/m of water against air, and N of a cubic metre of it."""
RECEDES = 0.62
"""Receding angle over the one at which water advances, on what is neither very clean nor very rough."""
STEP = 0.001
"""Metres from step to step."""
SPEED = 0.025
"""Metres a second at which drops of some millimetres run on a wall."""
_WANDERS = 0.35
"""Radians by which the way of a drop turns to and fro."""
_WAVE = 0.018
"""Metres in which it does so once."""
_TRAIL = 0.42
"""Share of its foot's radius that a bead of its trail has; it leaves one as often as this many of its radii."""
_EACH = 2.6
_OFF, _REACH = 0.004, 0.012
"""Metres over the surface from which it is looked for, and how far."""
_ROUGHER = 1.6
"""How much better than the evenest place the roughest holds a drop."""
_LEVEL = 0.08
"""Sine of a slope under which nothing runs."""
_MOST = 1500
"""Drops that run at a time, the heaviest."""


@dataclass
class _Runners:
    """Drops on their way."""

    at: np.ndarray
    normal: np.ndarray
    volume: np.ndarray
    name: np.ndarray
    since: np.ndarray
    gone: np.ndarray
    along: np.ndarray


def slope(normal: np.ndarray) -> np.ndarray:
    """(N,) sine of the slope of surfaces with normals (N, 3)."""
    return np.asarray(np.sqrt(np.maximum(1 - normal[:, 1] ** 2, 0)))


def holds(foot: np.ndarray, angle: float) -> np.ndarray:
    """(N,) N with which drops with feet of (N,) metres and a contact angle in degrees hold to a surface."""
    pull = np.cos(np.radians(angle * RECEDES)) - np.cos(np.radians(angle))
    return np.asarray(TENSION * 2 * foot * pull)


def too_heavy(drops: Droplets, made: Profiles, angle: float) -> np.ndarray:
    """(N,) bool: which of them cannot hold; some have found a rougher place to hold to than others."""
    steep = slope(drops.normal)
    held = holds(foot_of(made, drops.volume), angle) * (1 + _ROUGHER * uniform(drops.name.view(np.uint64), 80))
    return np.asarray((WEIGHT * drops.volume * steep > held) & (steep > _LEVEL))


def ran(drops: Droplets, made: Profiles, angle: float, rays: RayScene, seconds: float) -> tuple[Droplets, float]:
    """Droplets after those too heavy have run for some seconds, and m³ that ran off over edges.

    Parameters
    ----------
    rays : what they lie on
    """
    heavy = np.flatnonzero(too_heavy(drops, made, angle))
    heavy = heavy[np.argsort(-drops.volume[heavy], kind="stable")[:_MOST]]
    steps = int(seconds * SPEED / STEP)
    if not len(heavy) or steps < 1:
        return drops, 0.0
    run = _Runners(
        drops.at[heavy].copy(), drops.normal[heavy].copy(), drops.volume[heavy].copy(), drops.name[heavy].copy(),
        np.zeros(len(heavy)), np.zeros(len(heavy), bool), np.zeros((len(heavy), 3)),
    )  # fmt: skip
    resting = np.ones(len(drops), bool)
    resting[heavy] = False
    foot = foot_of(made, drops.volume)
    tree, widest = cKDTree(drops.at), float(foot[resting].max(initial=0.0))
    trail: list[tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]] = []
    lost, moving = 0.0, np.ones(len(heavy), bool)
    for step in range(steps):
        on = np.flatnonzero(moving)
        if not len(on):
            break
        width = foot_of(made, run.volume[on])
        steep = slope(run.normal[on])
        # What has lost too much comes to rest.
        stays = (WEIGHT * run.volume[on] * steep < 0.9 * holds(width, angle)) | (steep < _LEVEL)
        moving[on[stays]] = False
        on, width = on[~stays], width[~stays]
        if not len(on):
            continue
        off = _step(run, on, rays)
        lost += float(run.volume[on[off]].sum())
        run.gone[on[off]] = True
        moving[on[off]] = False
        on, width = on[~off], width[~off]
        _take_up(run, on, width, drops, foot, resting, tree, widest)
        lost_here = _leave(run, on, width, made, step)
        if lost_here is not None:
            trail.append(lost_here)
        _meet(run, on, width, moving)
    return _joined(drops.only(resting), run, trail), lost


def _step(run: _Runners, on: np.ndarray, rays: RayScene) -> np.ndarray:
    """Move runners on by a step along the surface; (K,) bool: which have left it over an edge."""
    normal = run.normal[on]
    fall = np.array([0.0, -1.0, 0.0]) + normal * normal[:, 1:2]
    fall /= np.maximum(np.linalg.norm(fall, axis=1, keepdims=True), 1e-9)
    aside = np.cross(normal, fall)
    # To and fro, each in its own rhythm.
    own = uniform(run.name[on].view(np.uint64), 81)
    run.since[on] += STEP
    turn = _WANDERS * np.sin(2 * np.pi * (run.since[on] / (_WAVE * (0.7 + 0.6 * own)) + own))
    way = fall * np.cos(turn)[:, None] + aside * np.sin(turn)[:, None]
    there = run.at[on] + way * STEP
    met = rays.meet((there + normal * _OFF).astype(np.float32), (-normal).astype(np.float32), _REACH)
    found = np.where(met.hit[:, None], met.positions, there)
    run.along[on] = way
    run.at[on] = found
    blended = np.where(met.hit[:, None], 0.6 * normal + 0.4 * met.normals, normal)
    run.normal[on] = blended / np.maximum(np.linalg.norm(blended, axis=1, keepdims=True), 1e-9)
    return np.asarray(~met.hit)


def _take_up(
    run: _Runners, on: np.ndarray, width: np.ndarray, drops: Droplets, foot: np.ndarray, resting: np.ndarray,
    tree: cKDTree, widest: float,
) -> None:  # fmt: skip
    for n, w, near in zip(on, width, tree.query_ball_point(run.at[on], width + widest), strict=True):
        for m in near:
            near_by = resting[m] and np.linalg.norm(drops.at[m] - run.at[n]) < w + foot[m]
            if near_by and drops.normal[m] @ run.normal[n] > 0:
                resting[m] = False
                run.volume[n] += drops.volume[m]


def _leave(
    run: _Runners, on: np.ndarray, width: np.ndarray, made: Profiles, step: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray] | None:
    """Beads of the trail that runners leave now: places, normals, volumes, names."""
    name = run.name[on].view(np.uint64) * np.uint64(131) + np.uint64(step)
    leaves = uniform(name, 82) < STEP / np.maximum(_EACH * width, STEP)
    if not leaves.any():
        return None
    which = on[leaves]
    size = _TRAIL * width[leaves] * (0.35 + 0.75 * uniform(name[leaves], 83))
    share = np.minimum((size / width[leaves]) ** 3, 0.2)
    volume = run.volume[which] * share
    run.volume[which] -= volume
    behind = run.at[which] - run.along[which] * width[leaves, None]
    return behind, run.normal[which].copy(), volume, name[leaves].view(np.int64)


def _meet(run: _Runners, on: np.ndarray, width: np.ndarray, moving: np.ndarray) -> None:
    """Runners that catch up with one another go on as one."""
    if len(on) < 2:
        return
    for a, b in cKDTree(run.at[on]).query_pairs(2 * float(width.max())):
        n, m = on[a], on[b]
        close = np.linalg.norm(run.at[n] - run.at[m]) < width[a] + width[b]
        if moving[n] and moving[m] and close and run.normal[n] @ run.normal[m] > 0:
            into, gone = (n, m) if run.volume[n] >= run.volume[m] else (m, n)
            run.volume[into] += run.volume[gone]
            run.gone[gone] = True
            moving[gone] = False


def _joined(
    resting: Droplets, run: _Runners, trail: list[tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]]
) -> Droplets:
    """What lies there in the end: what was not met, the trails, and those that run or have come to rest."""
    stays = ~run.gone
    parts = [
        resting,
        # A drop that runs is longer the way it goes.
        Droplets(run.at[stays], run.normal[stays], run.volume[stays], 0.22 * run.along[stays], run.name[stays]),
        *(Droplets(at, normal, volume, np.zeros_like(at), name) for at, normal, volume, name in trail),
    ]
    names = Droplets.__dataclass_fields__
    return Droplets(*(np.concatenate([getattr(part, name) for part in parts]) for name in names))
