"""Checks of drifts: what a viewer would notice, where, and the one step that cures it where there is one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from ..drifts.bodies import bodies_of
from ..drifts.instances import Instances
from ..drifts.instancing import amounts, build_instances, context_of
from ..drifts.keepouts import PIECES, free_space
from ..drifts.places import by_owner, places_of
from ..kit.kit import LOD_REACH
from ..plan import DriftPlan, KeepOut
from ..scene.measuring import measure
from ..scene.scene import Scene
from ..stations.camera import ASPECT, in_view
from .snag import MOST_PLACES, Snag

TRIANGLE_BUDGET = 6_000_000
"""Triangles in one picture that an ordinary graphics card still turns smoothly."""
_RIM = 0.01
"""A foot so near to the rim of what it stands on, metres, is held by it."""


def drift_snags(scene: Scene) -> list[Snag]:
    """All snags of all visible drifts."""
    out = []
    for key, plan in sorted(scene.site.drifts.items()):
        if not plan.visible or not plan.assets:
            continue
        found = build_instances(scene, key, plan)
        if len(found):
            for check in CHECKS:
                out += check(scene, key, plan, found)
    return out


def _poking(scene: Scene, key: str, plan: DriftPlan, found: Instances) -> list[Snag]:
    """Bodies that reach into pieces."""
    keep = KeepOut(of=PIECES, clearance=0.0)
    up = _up(found)
    free = free_space(scene, plan, keep, found.position.astype(np.float64), up, found.asset, found.scale)
    bad = np.flatnonzero(free < -0.01)
    if len(bad) == 0:
        return []
    cured = plan.model_copy(update={"keep_outs": [*plan.keep_outs, KeepOut(of=PIECES, clearance=0.02)]})
    text = f"{len(bad)} of {plan.name} reach into a piece."
    return [Snag("poking through", key, text, len(bad), _some(found, bad), "keep it out of all pieces", _dump(cured))]


def _up(found: Instances) -> np.ndarray:
    x, y, z, w = found.rotation.T.astype(np.float64)
    return np.column_stack([2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)])


def _some(found: Instances, index: np.ndarray) -> np.ndarray:
    return found.position[index[:MOST_PLACES]].astype(float)


def _dump(plan: DriftPlan) -> dict[str, Any]:
    out: dict[str, Any] = plan.model_dump(mode="json")
    return out


def _loose(scene: Scene, key: str, plan: DriftPlan, found: Instances) -> list[Snag]:
    """Feet in the air, and what is sunk out of sight."""
    bodies = bodies_of(scene, [share.asset for share in plan.assets])
    tall = np.array([b.tall for b in bodies])[found.asset] * found.scale
    gap = found.position[:, 1] - _held_by(scene, found.position)
    out = []
    for kind, bad, word in (
        ("floating", np.flatnonzero(gap > np.maximum(0.06, 0.05 * tall)), "stand in the air"),
        ("buried", np.flatnonzero(gap < -0.7 * tall), "are sunk out of sight"),
    ):
        if len(bad):
            text = f"{len(bad)} of {plan.name} {word}."
            cured = plan.model_copy(
                update={"variety": plan.variety.model_copy(update={"sink_min": 0.0, "sink_max": 0.02})}
            )
            by_sink = abs(plan.variety.sink_max) > 0.05 or plan.variety.sink_min < -0.02
            cure, after = ("sink by 0 to 2 cm", _dump(cured)) if by_sink else ("", None)
            out.append(Snag(kind, key, text, len(bad), _some(found, bad), cure, after))
    return out


def _held_by(scene: Scene, feet: np.ndarray) -> np.ndarray:
    """(N,) height of what lies below each foot; on the very rim of a surface, of what lies just beside it."""
    below = scene.standing().surface_below(feet, 0.6)
    far = np.flatnonzero(feet[:, 1] - below > 0.06)
    for dx, dz in ((1, 0), (-1, 0), (0, 1), (0, -1)):
        beside = feet[far] + np.array([dx * _RIM, 0, dz * _RIM], feet.dtype)
        below[far] = np.maximum(below[far], scene.standing().surface_below(beside, 0.6))
    return below


def twins(found: Instances, reach: float) -> np.ndarray:
    """(N,) bool: has a neighbour within `reach` metres of the same asset and hand, turn (12°) and size (6 %)."""
    out = np.zeros(len(found), bool)
    if len(found) < 2:
        return out
    pairs = cKDTree(found.position).query_pairs(reach, output_type="ndarray")
    a, b = pairs[:, 0], pairs[:, 1]
    same = (found.asset[a] == found.asset[b]) & (found.mirrored[a] == found.mirrored[b])
    a, b = a[same], b[same]
    x, _, z, w = found.rotation.T
    heading = 2 * np.arctan2(found.rotation[:, 1], w)
    turn = np.abs((heading[a] - heading[b] + np.pi) % (2 * np.pi) - np.pi)
    size = np.abs(found.scale[a] / found.scale[b] - 1)
    alike = (turn < np.radians(12)) & (size < 0.06)
    out[a[alike]] = out[b[alike]] = True
    return out


def _repeats(scene: Scene, key: str, plan: DriftPlan, found: Instances) -> list[Snag]:
    """Twins side by side that a station sees from near."""
    if plan.tier == "litter":
        return []
    tall = np.array([b.tall for b in bodies_of(scene, [s.asset for s in plan.assets])])
    seen = np.zeros(len(found), bool)
    for station in scene.site.stations.values():
        near = np.linalg.norm(found.position - np.asarray(station.position), axis=1) < 30 * tall.max()
        seen |= near & in_view(station, ASPECT, found.position, 0.2)
    index = np.flatnonzero(seen)
    if len(index) < 10:
        return []
    bad = index[twins(found.taken(index), 3 * plan.spacing)]
    if len(bad) < 0.01 * len(index) or len(bad) < 3:
        return []
    variety = plan.variety.model_copy(
        update={"turn": 360.0, "size_min": plan.variety.size_min * 0.8, "size_max": plan.variety.size_max * 1.15}
    )
    few = f" The mix has {len(plan.assets)} asset{'s' if len(plan.assets) > 1 else ''}; more would help."
    text = f"{len(bad)} of {plan.name} in view look like a neighbour.{few if len(plan.assets) < 4 else ''}"
    cured = _dump(plan.model_copy(update={"variety": variety}))
    return [Snag("visible repeats", key, text, len(bad), _some(found, bad), "vary turn and size more", cured)]


def _sizes(scene: Scene, key: str, plan: DriftPlan, found: Instances) -> list[Snag]:
    """Plants of a size their species does not reach."""
    tall = np.array([b.tall for b in bodies_of(scene, [s.asset for s in plan.assets])])
    plants = [scene.kit.plant(s.asset) for s in plan.assets]
    low, high = np.array([p.usual if p else (0.0, 1e9) for p in plants]).T
    stands = tall[found.asset] * found.scale
    bad = np.flatnonzero((stands < 0.99 * low[found.asset]) | (stands > 1.01 * high[found.asset]))
    if len(bad) < max(3, 0.02 * len(found)):
        return []
    least, most = float((low / tall).max()), float((high / tall).min())
    text = f"{len(bad)} of {plan.name} are {stands[bad].min():.2f} to {stands[bad].max():.2f} m high, which the species is not."
    if least >= most:
        return [Snag("implausible size", key, text, len(bad), _some(found, bad))]
    variety = plan.variety.model_copy(
        update={
            "size_min": float(np.clip(plan.variety.size_min, least, most)),
            "size_max": float(np.clip(plan.variety.size_max, least, most)),
        }
    )
    cured = _dump(plan.model_copy(update={"variety": variety}))
    return [Snag("implausible size", key, text, len(bad), _some(found, bad), "keep to the species' size", cured)]


def _cut_edges(scene: Scene, key: str, plan: DriftPlan, found: Instances) -> list[Snag]:
    """Gates without a soft end, which draw a hard line over the site."""
    places = places_of(scene, plan)
    if len(places) == 0 or plan.tier == "canopy":
        return []
    out = []
    context = context_of(scene, key, plan)
    for number, rule in enumerate(plan.rules):
        gate = rule.gate
        if not rule.active or rule.strength < 1 or not rule.about.cuts:
            continue
        parts = by_owner(scene, plan, places)
        values = np.concatenate(
            [measure(scene, name, points, rule, context, known) for name, points, _, known in parts]
        )
        beyond = {"rises": (values < gate.rise_start).mean(), "falls": (values > gate.fall_end).mean()}
        widths = {"rises": gate.rise_end - gate.rise_start, "falls": gate.fall_end - gate.fall_start}
        # An end that no place lies beyond draws no line.
        hard = [side for side, width in widths.items() if width <= 0 and 0.02 < beyond[side] < 0.98]
        if hard:
            rules = [_softened(rule) if k == number else r for k, r in enumerate(plan.rules)]
            text = f"The {rule.measure} rule of {plan.name} {' and '.join(hard)} all at once, which draws a hard line."
            cured = _dump(plan.model_copy(update={"rules": rules}))
            out.append(Snag("edge looks cut", key, text, 1, cure="give it a soft edge", plan=cured))
    return out


def _softened(rule: Any) -> Any:
    gate, unit = rule.gate, rule.about.soft
    update = {}
    if gate.rise_end <= gate.rise_start:
        update["rise_start"] = gate.rise_start - unit
    if gate.fall_end <= gate.fall_start:
        update["fall_end"] = gate.fall_end + unit
    return rule.model_copy(update={"gate": gate.model_copy(update=update)})


def _bald(scene: Scene, key: str, plan: DriftPlan, found: Instances) -> list[Snag]:
    """Ground cover that should close but has holes."""
    if plan.tier != "cover" or plan.litter.on:
        return []
    places = places_of(scene, plan)
    share = amounts(scene, key, plan, places)
    wanted = np.flatnonzero(share * min(plan.density, places.full) > 0.5 * plan.density)
    if len(wanted) < 200:
        return []
    apart = 1.0 / np.sqrt(max(plan.density, 1e-6))
    distance, _ = cKDTree(found.position).query(places.points.positions[wanted])
    bad = wanted[distance > 3.0 * apart + 0.2]
    if len(bad) < 0.03 * len(wanted):
        return []
    text = f"{len(bad) / len(wanted):.0%} of where {plan.name} is allowed is bald."
    return [Snag("bald patches", key, text, len(bad), places.points.positions[bad[:MOST_PLACES]].astype(float))]


def _heavy(scene: Scene, key: str, plan: DriftPlan, found: Instances) -> list[Snag]:
    """Too many triangles in one station's picture."""
    assets = [scene.kit.asset(share.asset) for share in plan.assets]
    tall = np.array([max(a.tall, 0.08) for a in assets])[found.asset] * found.scale
    worst, where, finest = 0.0, "", 0.0
    for station in scene.site.stations.values():
        seen = in_view(station, ASPECT, found.position, 1.0)
        relative = np.linalg.norm(found.position - np.asarray(station.position), axis=1) / np.maximum(tall, 0.08)
        level = np.searchsorted(LOD_REACH, relative)
        counts = np.array([[a.lods[min(k, len(a.lods) - 1)].triangle_count for k in range(4)] for a in assets])
        each = counts[found.asset, level] * seen
        if each.sum() > worst:
            worst, where = float(each.sum()), station.name
            finest = float(each[level == 0].sum())
    if worst < TRIANGLE_BUDGET:
        return []
    text = (
        f"{plan.name} alone has {worst / 1e6:.1f} million triangles from {where} "
        f"({finest / max(worst, 1):.0%} of them at the finest level); {TRIANGLE_BUDGET / 1e6:.0f} million are the budget."
    )
    cured = _dump(plan.model_copy(update={"density": round(plan.density * 0.8 * TRIANGLE_BUDGET / worst, 3)}))
    return [Snag("too heavy", key, text, len(found), cure="thin it to the budget", plan=cured)]


CHECKS: tuple[Callable[[Scene, str, DriftPlan, Instances], list[Snag]], ...] = (
    _poking,
    _loose,
    _repeats,
    _sizes,
    _cut_edges,
    _bald,
    _heavy,
)
