"""Litter that comes from what stands above.

Model
-----
Each tree sheds what the season has taken from it (`1 − share of leaf left`, a fifth of a full crown where leaf is
only worn off through the year), in proportion to the area of its crown. A leaf leaves the crown at about two thirds
of the tree's height and is carried downwind by h · u / v: h that height, u the wind within the crown (0.35 of the
free wind), v the speed of fall, 1.3 m/s for a birch leaf, divided by `carry`. Where it comes down is spread as a
Gaussian with the crown's radius plus a fifth of the way it was carried. The ballistic picture with a Gaussian spread
is that of Ferrari and Sugita, *A spatially explicit model of leaf litter fall in hemlock-hardwood forests* (1996),
who fit exponential falls of the same width; constants are round numbers in the range they and later authors report.

On the ground the wind sorts it: places in the lee at the feet of walls, in corners and hollows keep up to (1 + 3 ·
gather) times as much, open crowns of humps lose as much as `gather` says. Nothing comes down where the tilted path of
fall is closed by a roof.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..base.compass import compass
from ..base.kernels import parallel_kernel, prange
from ..base.names import GROUND, TIERS
from ..materials.seasons import YEARS
from ..measures.hollow import HollowRule
from ..mesh.mesh import Points
from ..plan import DriftPlan
from ..scene.measuring import RuleContext, measure
from ..scene.scene import Scene
from .bodies import bodies_of, instances_and_bodies, instances_of
from .places import Candidates, by_owner

FALL_SPEED = 1.3
WITHIN_CROWN = 0.35
_WORN = 0.2
_FULL = 0.5
"""Shed crown layers (crown area over ground area) that cover the ground as densely as the drift's density says."""


def shedding_drifts(scene: Scene, plan: DriftPlan) -> list[str]:
    """The drifts litter falls from: those named, or all trees and shrubs."""
    found = scene.site.drifts
    if plan.litter.sources:
        return [key for key in plan.litter.sources if key in found and found[key].visible]
    return [key for key in sorted(found) if found[key].visible and TIERS.index(found[key].tier) < 2]


def litter_needs(scene: Scene, plan: DriftPlan) -> list[Any]:
    """Everything litter depends on."""
    if not plan.litter.on:
        return []
    weather = scene.site.weather.model_dump(include={"wind_from", "wind", "season"})
    sheds = [_sheds(scene, s.asset) for s in plan.assets]
    sources = shedding_drifts(scene, plan)
    whose = [[_sheds(scene, s.asset) for s in scene.site.drifts[key].assets] for key in sources]
    standing = [scene.mesh.ref(owner) for owner in scene.owners()]
    return [weather, instances_and_bodies(scene, sources), whose, sheds, standing]


def _sheds(scene: Scene, asset: str) -> str:
    """The kind of litter an asset sheds or is."""
    plant = scene.kit.plant(asset)
    return plant.sheds if plant else ""


def fallen_share(species: str, season: float) -> float:
    """How much of a full crown lies below it at a time of the year, 0..1."""
    if species not in YEARS:
        return _WORN
    left, _ = YEARS[species].at(season * 2)
    bare = 1.0 - YEARS[species].at(0)[0]
    # Last year's leaves rot away from midwinter on; from August this year's come down.
    old = bare * np.interp(season, [0, 3, 6, 8], [1.0, 0.7, 0.3, 0.0])
    new = (1.0 - left) if season >= 8 else 0.0
    return float(max(_WORN, old, new))


def litter_amounts(scene: Scene, plan: DriftPlan, places: Candidates) -> np.ndarray:
    """(N, A) float32 how densely each asset of the mix lies at each place, 0..1; one column an asset."""
    return _amounts(scene, plan, places.points.positions, _gathered(scene, plan, places))


def litter_at(scene: Scene, plan: DriftPlan, points: Points) -> float:
    """The most of any asset of a mix that may lie at a place, 0..1, on level ground in the open."""
    return float(_amounts(scene, plan, points.positions, np.ones(len(points))).max(initial=0.0))


def _amounts(scene: Scene, plan: DriftPlan, positions: np.ndarray, lee: np.ndarray) -> np.ndarray:
    """(N, A) float32; `lee` (N,) how much more than on open level ground stays."""
    weather = scene.site.weather
    out = np.zeros((len(positions), len(plan.assets)), np.float32)
    for column, share in enumerate(plan.assets):
        kind = _sheds(scene, share.asset)
        feet, reach, tall, mass = _crowns(scene, plan, kind)
        if len(feet) == 0:
            continue
        carried = tall * 0.66 * weather.wind * WITHIN_CROWN * plan.litter.carry / FALL_SPEED
        downwind = -compass(weather.wind_from)
        middle = feet[:, [0, 2]] + carried[:, None] * downwind
        width = reach + 0.2 * carried
        rain = np.zeros(len(positions), np.float32)
        _deposit(positions.astype(np.float64), middle, width, mass * (reach / width) ** 2, rain)
        out[:, column] = 1.0 - np.exp(-rain / _FULL * lee)
    out *= _open_path(scene, positions)[:, None]
    return out


def _crowns(scene: Scene, plan: DriftPlan, kind: str) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Feet, crown radii, heights and shed share of every tree that sheds a kind; any kind where it is empty."""
    parts = []
    for key in shedding_drifts(scene, plan):
        source = scene.site.drifts[key]
        found = instances_of(scene, key).value()
        bodies = bodies_of(scene, [s.asset for s in source.assets])
        for number, share in enumerate(source.assets):
            plant = scene.kit.plant(share.asset)
            sheds = plant.sheds if plant else ""
            if plant is None or not sheds or (kind and sheds != kind):
                continue
            on = found.asset == number
            scale = found.scale[on].astype(np.float64)
            mass = np.full(len(scale), fallen_share(plant.species, scene.site.weather.season))
            parts.append((found.position[on], bodies[number].crown * scale, bodies[number].tall * scale, mass))
    if not parts:
        return np.zeros((0, 3)), np.zeros(0), np.zeros(0), np.zeros(0)
    feet, reach, tall, mass = (np.concatenate([p[k] for p in parts]) for k in range(4))
    return feet.astype(np.float64), np.maximum(reach, 0.2), tall, mass


@parallel_kernel
def _deposit(points: np.ndarray, middle: np.ndarray, width: np.ndarray, mass: np.ndarray, out: np.ndarray) -> None:
    for n in prange(len(points)):
        total = 0.0
        for t in range(len(middle)):
            dx, dz = points[n, 0] - middle[t, 0], points[n, 2] - middle[t, 1]
            w = 0.6 * width[t]
            d = (dx * dx + dz * dz) / (2 * w * w)
            if d < 9.0:
                total += mass[t] * np.exp(-d)
        out[n] = total


def _gathered(scene: Scene, plan: DriftPlan, places: Candidates) -> np.ndarray:
    """(N,) how much more than on open level ground stays: feet of walls, corners, hollows against humps."""
    gather = plan.litter.gather
    out = np.ones(len(places), np.float64)
    if gather <= 0:
        return out
    pieces = scene.owners()[1:]
    tree = scene.pieces_tree(pieces) if pieces else None
    gate = {"rise_start": 0, "rise_end": 0, "fall_start": 1, "fall_end": 1}
    rule = HollowRule.model_validate({"gate": gate, "reach": 1.5})
    for name, points, where, known in by_owner(scene, plan, places):
        hollow = measure(scene, name, points, rule, RuleContext(""), known)
        value = 1.0 + gather * np.clip(-hollow * 6.0, -0.8, 2.0)
        if tree is not None:
            # Measured a hand above the surface, so that the floor it lies on is no wall.
            lifted = points.positions + points.normals * 0.22
            other = np.maximum(tree.distance(lifted, 1.5) - (0.22 if name != GROUND else 0.0), 0.0)
            value += 3.0 * gather * np.exp(-((other / 0.35) ** 2)) * (other < 1.5)
        out[where] = value
    return np.maximum(out, 0.05)


def _open_path(scene: Scene, positions: np.ndarray) -> np.ndarray:
    """(N,) float32: 0 where something solid closes the path a leaf comes down, which the wind tilts."""
    weather = scene.site.weather
    upwind = compass(weather.wind_from) * weather.wind * WITHIN_CROWN
    path = np.array([upwind[0], FALL_SPEED, upwind[1]])
    standing = scene.standing()
    return standing.open_toward(positions + np.array([0, 0.05, 0], np.float32), path / np.linalg.norm(path), 30.0)
