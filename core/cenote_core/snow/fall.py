"""How much of the snow that falls comes down on each column: by rays to where it comes from.

Flakes sink slowly and are tossed about, so snow reaches in from all round the way the wind drives it (Fearing,
*Computer modelling of fallen snow*, 2000): what a place catches is the share of those ways that are open.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..base.compass import compass
from ..columns.grid import columns_of
from ..graph.derived import by_value, derived
from ..materials.seasons import leaf_left
from ..mesh.rays import RayScene
from ..plan import GROUND
from ..scene.provided import STANDING_BODIES
from ..scene.scene import Scene

SINKS = 1.1
"""Metres a second that flakes sink (Langleben 1954: 0.8 to 1.5)."""
_NEAR_GROUND = 0.35
"""Share of the wind that blows where snow comes to rest, a few hand's breadths above what stands."""
_TOSSED = 0.22
"""Spread of the ways flakes come, as a slope, in still air."""
_STEEPEST = 1.7
"""Slope of the flattest way that is looked along."""
_WAYS = 24
REACH = 30.0
"""What stands farther off keeps no snow off, metres: at the flattest way it would have to be seventeen high."""
_LIFT = 0.01
_INSIDE = 0.01
"""Metres of free height under which a node lies inside something."""
_BARE_HOLDS, _LEAFY_HOLDS = 0.3, 0.85
"""Share of what falls on a crown that it keeps from the ground, bare and in full leaf or needle."""
_ASIDE = np.array([[0.035, 0, 0], [0, 0, 0.035]])
"""Metres to both sides of a way: closed there on both sides it is a gap, and what falls through it at first soon does no more."""
_OVER = np.array([0, 0.05, 0])
"""Metres over a place from which that is looked at, so that a sloping surface does not close its own ways."""
_ROOF = 3.0
"""Metres over a place within which something counts as being over it."""


def ways(wind_from: float, wind: float, gusts: float) -> np.ndarray:
    """(K, 3) unit directions snow comes from, each as likely."""
    slope = min(wind * _NEAR_GROUND / SINKS, _STEEPEST)
    k = (np.arange(_WAYS) + 0.5) / _WAYS
    # Evenly over a disk, by the golden angle.
    radius = (_TOSSED + gusts * 0.25 * slope) * 2 * np.sqrt(k)
    turn = 2 * np.pi * 0.6180339887498949 * np.arange(_WAYS)
    level = compass(wind_from) * slope + np.column_stack([np.cos(turn), np.sin(turn)]) * radius[:, None]
    toward = np.column_stack([level[:, 0], np.ones(_WAYS), level[:, 1]])
    return np.asarray(toward / np.linalg.norm(toward, axis=1, keepdims=True))


Wind = tuple[float, float, float]
"""Where it comes from, its speed and its gusts."""


def wind_of(scene: Scene) -> Wind:
    """The wind that snow comes with."""
    weather = scene.site.weather
    return weather.wind_from, weather.wind, weather.gusts


def _trees(scene: Scene) -> tuple[str, ...]:
    return tuple(key for key, plan in sorted(scene.site.drifts.items()) if plan.visible and plan.tier == "canopy")


def _reached(scene: Scene, owner: str, wind: Wind) -> list[Any]:
    near = [scene.mesh.ref(other) for other in scene.near(owner, REACH)]
    trees = _trees(scene) if owner == GROUND else ()
    crowns = [(STANDING_BODIES.ref(scene, (key,)), _holds(scene, key)) for key in trees]
    return [columns_of.ref(scene, owner), near, list(wind), crowns]


@derived(_reached, keep="disk")
def reach(scene: Scene, owner: str, wind: Wind) -> np.ndarray:
    """(R, C) float32 share of what falls on open ground that comes down on each column; −1 inside something else."""
    columns = columns_of(scene, owner)
    out = np.full(columns.height.shape, -1.0, np.float32)
    row, column = np.nonzero(columns.there)
    at = columns.places()[row, column].astype(np.float32)
    at[:, 1] += _LIFT
    with by_value():
        rays = scene.standing()
    free = rays.room_above(at, _INSIDE)
    caught = np.zeros(len(at), np.float32)
    open_at = np.flatnonzero(free)
    for toward in ways(*wind):
        caught[open_at] += rays.open_toward(at[open_at], toward, REACH) / _WAYS
    under = open_at[_closed_over(rays, at[open_at])]
    if len(under):
        caught[under] = np.minimum(caught[under], _between(rays, at[under], wind))
    if owner == GROUND and _trees(scene):
        caught *= _under_crowns(scene, at)
    out[row, column] = np.where(free, np.minimum(caught, 1.0), -1.0)
    return out


def _open_past_gaps(rays: RayScene, at: np.ndarray, toward: np.ndarray, far: float) -> np.ndarray:
    """(N,) bool: is a way open, and no mere gap between things on both sides of it?"""
    opens = lambda aside: rays.open_toward((at + aside).astype(np.float32), toward, far) > 0  # noqa: E731
    out = opens(_OVER)
    for one in _ASIDE:
        out &= opens(_OVER + one) | opens(_OVER - one)
    return np.asarray(out)


def _closed_over(rays: RayScene, at: np.ndarray) -> np.ndarray:
    """(N,) bool: is there something over a place?"""
    return ~_open_past_gaps(rays, at, np.array([0.0, 1.0, 0.0]), _ROOF)


def _between(rays: RayScene, at: np.ndarray, wind: Wind) -> np.ndarray:
    """(N,) share of what falls that comes under something: gaps no wider than a hand are soon bridged by what lies on it."""
    caught = np.zeros(len(at), np.float32)
    for toward in ways(*wind):
        caught += _open_past_gaps(rays, at, toward, REACH) / np.float32(_WAYS)
    return caught


def _under_crowns(scene: Scene, at: np.ndarray) -> np.ndarray:
    """(N,) share of what falls that trees let through."""
    through = np.ones(len(at), np.float32)
    for key in _trees(scene):
        trees = STANDING_BODIES.ref(scene, (key,)).value()
        holds = _holds(scene, key)
        for foot, crown in zip(trees.feet, trees.crowns, strict=True):
            away = np.hypot(at[:, 0] - foot[0], at[:, 2] - foot[2]) / max(float(crown), 1e-6)
            through = np.minimum(through, 1 - holds * np.clip(1.6 - 1.6 * away, 0, 1))
    return through


def _holds(scene: Scene, drift: str) -> float:
    """Share of what falls that the crowns of a drift keep off, by how much leaf is left on the trees of its mix."""
    found, weights = [], []
    for share in scene.site.drifts[drift].assets:
        plant = scene.kit.plant(share.asset) if scene.in_kit(share.asset) else None
        if plant is not None:
            found.append(leaf_left(plant.species, scene.half()))
            weights.append(share.weight)
    leaf = float(np.average(found, weights=weights)) if found and sum(weights) > 0 else 0.0
    return _BARE_HOLDS + (_LEAFY_HOLDS - _BARE_HOLDS) * leaf
