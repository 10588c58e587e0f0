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
from .growth import Droplets, joined
from .profile import Profiles, foot_of

TENSION, WEIGHT = 0.0728, 9789.0
"""N/m of water against air, and N of a cubic metre of it."""
RECEDES = 0.62
"""Receding angle over the one at which water advances, on what is neither very clean nor very rough."""
STEP = 0.001
"""Metres from step to step."""
_AIR, _WATER = 1.2, 1000.0
"""kg in a cubic metre of each."""
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
_WIDE, _PARTS = 0.0028, 6.0
"""Metres of a foot from which a drop may part in two, and how often it does so on a metre of its way."""
_GONE = 0.02
"""Share of a trail's bead under which it counts as dry."""
_MOST = 1500
"""Drops that run at a time, the heaviest."""


@dataclass(frozen=True)
class Running:
    """How drops run: for how many seconds, how fast (m/s), under how much of the earth's pull, in what wind, and how many
    seconds a trail takes to dry; 0 if it does not. `wind` (3,) is in m/s, the way it blows."""

    seconds: float
    speed: float = 0.025
    pull: float = 1.0
    wind: tuple[float, float, float] = (0.0, 0.0, 0.0)
    dries: float = 0.0


@dataclass(frozen=True)
class Ran:
    """Where drops are after they have run: those on the surface, those that left it over an edge, and m³ of dried trail."""

    drops: Droplets
    off: Droplets
    dried: float


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


def force(how: Running, normal: np.ndarray, volume: np.ndarray, foot: np.ndarray) -> np.ndarray:
    """(N, 3) N along the surface on drops of (N,) m³ with feet of (N,) metres: their weight, and the wind that pushes them.

    The wind takes a drop by the half disc it holds up to it.
    """
    wind = np.asarray(how.wind)
    push = 0.5 * _AIR * 0.5 * np.pi * foot**2 * float(np.linalg.norm(wind))
    all_of_it = push[:, None] * wind - np.array([0, 1.0, 0]) * (WEIGHT * how.pull * volume)[:, None]
    return np.asarray(all_of_it - normal * (all_of_it * normal).sum(axis=1, keepdims=True))


def too_heavy(drops: Droplets, made: Profiles, angle: float, how: Running | None = None) -> np.ndarray:
    """(N,) bool: which of them cannot hold; some have found a rougher place to hold to than others."""
    steep, foot = slope(drops.normal), foot_of(made, drops.volume)
    pulled = np.linalg.norm(force(how or Running(0.0), drops.normal, drops.volume, foot), axis=1)
    held = holds(foot, angle) * (1 + _ROUGHER * uniform(drops.name.view(np.uint64), 80))
    return np.asarray((pulled > held) & ((steep > _LEVEL) | bool(how and any(how.wind))))


def ran(drops: Droplets, made: Profiles, angle: float, rays: RayScene, how: Running) -> Ran:
    """Droplets after those too heavy have run for some seconds.

    Parameters
    ----------
    rays : what they lie on
    """
    heavy = np.flatnonzero(too_heavy(drops, made, angle, how))
    heavy = heavy[np.argsort(-drops.volume[heavy], kind="stable")[:_MOST]]
    steps = int(how.seconds * how.speed / STEP)
    nothing = drops.only(np.zeros(len(drops), bool))
    if not len(heavy) or steps < 1:
        return Ran(drops, nothing, 0.0)
    run = _with_room(_Runners(
        drops.at[heavy].copy(), drops.normal[heavy].copy(), drops.volume[heavy].copy(), drops.name[heavy].copy(),
        np.zeros(len(heavy)), np.zeros(len(heavy), bool), np.zeros((len(heavy), 3)),
    ))  # fmt: skip
    resting = np.ones(len(drops), bool)
    resting[heavy] = False
    foot = foot_of(made, drops.volume)
    tree, widest = cKDTree(drops.at), float(foot[resting].max(initial=0.0))
    trail: list[tuple[int, Droplets]] = []
    off_edge, moving = np.zeros(len(run.gone), bool), ~run.gone
    for step in range(steps):
        on = np.flatnonzero(moving)
        if not len(on):
            break
        width = foot_of(made, run.volume[on])
        steep = slope(run.normal[on])
        # What has lost too much comes to rest.
        pulled = np.linalg.norm(force(how, run.normal[on], run.volume[on], width), axis=1)
        stays = (pulled < 0.9 * holds(width, angle)) | ((steep < _LEVEL) & (not any(how.wind)))
        moving[on[stays]] = False
        on, width = on[~stays], width[~stays]
        if not len(on):
            continue
        off = _step(run, on, rays, force(how, run.normal[on], run.volume[on], width))
        off_edge[on[off]] = True
        run.gone[on[off]] = True
        moving[on[off]] = False
        on, width = on[~off], width[~off]
        _take_up(run, on, width, drops, foot, resting, tree, widest)
        lost_here = _leave(run, on, width, made, step)
        if lost_here is not None:
            trail.append((step, lost_here))
        _meet(run, on, width, moving)
        _split(run, on[moving[on]], made, moving, step)
    left, dried = _dried(trail, steps, how)
    return Ran(_joined(drops.only(resting), run, left), _those(run, off_edge), dried)


def _with_room(run: _Runners) -> _Runners:
    """The same with as many places again for drops that split off; those are gone until then."""
    count = len(run.gone)
    double = lambda v: np.concatenate([v, np.zeros_like(v)])  # noqa: E731
    names = _Runners.__dataclass_fields__
    out = _Runners(*(double(getattr(run, name)) for name in names))
    out.gone[count:] = True
    out.normal[count:, 1] = 1.0
    return out


def _split(run: _Runners, on: np.ndarray, made: Profiles, moving: np.ndarray, step: int) -> None:
    """A wide drop that meets a rough place parts in two, which go on side by side."""
    spare = np.flatnonzero(run.gone & ~moving & (run.volume == 0))
    if not len(on) or not len(spare):
        return
    width = foot_of(made, run.volume[on])
    name = run.name[on].view(np.uint64) * np.uint64(137) + np.uint64(step)
    parts = np.flatnonzero((width > _WIDE) & (uniform(name, 84) < _PARTS * STEP))[: len(spare)]
    for k, free in zip(parts, spare, strict=False):
        n, share = on[k], 0.25 + 0.2 * float(uniform(name[k : k + 1], 85)[0])
        aside = np.cross(run.normal[n], run.along[n])
        run.at[free] = run.at[n] + aside * (1.2 * width[k])
        run.normal[free], run.along[free] = run.normal[n], run.along[n]
        run.volume[free], run.volume[n] = run.volume[n] * share, run.volume[n] * (1 - share)
        run.name[free] = name[k : k + 1].view(np.int64)[0]
        run.gone[free], moving[free] = False, True


def _those(run: _Runners, which: np.ndarray) -> Droplets:
    return Droplets(run.at[which], run.normal[which], run.volume[which], np.zeros_like(run.at[which]), run.name[which])


def _dried(trail: list[tuple[int, Droplets]], steps: int, how: Running) -> tuple[list[Droplets], float]:
    """What is left of a trail's beads, and m³ that have dried: their surface shrinks evenly in time (Langmuir 1918)."""
    if how.dries <= 0:
        return [beads for _, beads in trail], 0.0
    left, dried = [], 0.0
    for step, beads in trail:
        age = (steps - step) * STEP / max(how.speed, 1e-6)
        share = max(0.0, 1 - age / how.dries) ** 1.5
        dried += float(beads.volume.sum()) * (1 - share)
        if share > _GONE:
            left.append(Droplets(beads.at, beads.normal, beads.volume * share, beads.memory, beads.name))
        else:
            dried += float(beads.volume.sum()) * share
    return left, dried


def _step(run: _Runners, on: np.ndarray, rays: RayScene, pull: np.ndarray) -> np.ndarray:
    """Move runners on by a step along the surface; (K,) bool: which have left it over an edge."""
    normal = run.normal[on]
    fall = pull / np.maximum(np.linalg.norm(pull, axis=1, keepdims=True), 1e-12)
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


def _leave(run: _Runners, on: np.ndarray, width: np.ndarray, made: Profiles, step: int) -> Droplets | None:
    """Beads of the trail that runners leave now."""
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
    return Droplets(behind, run.normal[which].copy(), volume, np.zeros_like(behind), name[leaves].view(np.int64))


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


def _joined(resting: Droplets, run: _Runners, trail: list[Droplets]) -> Droplets:
    """What lies there in the end: what was not met, the trails, and those that run or have come to rest."""
    stays = ~run.gone
    parts = [
        resting,
        # A drop that runs is longer the way it goes.
        Droplets(run.at[stays], run.normal[stays], run.volume[stays], 0.22 * run.along[stays], run.name[stays]),
        *trail,
    ]
    return joined(parts)
