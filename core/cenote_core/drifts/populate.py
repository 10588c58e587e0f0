"""From a drift's plan to its instances: where each stands, how it is turned, sized and tinted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..hashing import content_hash, text_seed, uniform
from ..measures.painted import apply_touches
from ..mesh.mesh import Points, points_on
from ..plan import DriftPlan, PaintedRule
from ..rules import apply_rule
from ..scene.scene import Scene
from .sampling import SpacedPoints, full_density, spaced_points


@dataclass(frozen=True)
class Instances:
    """What stands of one drift, in an order of which every beginning is evenly spread.

    Attributes
    ----------
    position : (N, 3) float32, metres
    rotation : (N, 4) float32, quaternion x, y, z, w
    scale : (N,) float32
    tint : (N, 3) float32, factors on the colour, linear
    asset : (N,) int32, index into the drift's assets
    identity : (N,) uint64
    places : int, places the spacing allows before rules
    """

    position: np.ndarray
    rotation: np.ndarray
    scale: np.ndarray
    tint: np.ndarray
    asset: np.ndarray
    identity: np.ndarray
    places: int

    def __len__(self) -> int:
        return len(self.position)


@dataclass(frozen=True)
class _Base:
    """Spaced points of a drift on all its surfaces, with what rules need: by owner."""

    points: SpacedPoints
    owner_names: list[str]
    owner: np.ndarray
    parts: list[Points]
    where: list[np.ndarray]
    keys: list[str]


def base_key(scene: Scene, plan: DriftPlan) -> str:
    owners = sorted({ref.split("/")[0] for ref in plan.surfaces})
    present = [o for o in owners if o in scene.owners()]
    return content_hash(
        "base", plan.spacing, plan.seed, sorted(plan.surfaces), [(o, scene.owner_key(o)) for o in present]
    )


def base_points(scene: Scene, plan: DriftPlan) -> _Base:
    """Spaced points on the drift's surfaces; kept until surfaces, spacing or seed change."""
    return scene.cache.get(base_key(scene, plan), lambda: _make_base(scene, plan))


def _make_base(scene: Scene, plan: DriftPlan) -> _Base:
    chosen: dict[str, list[int]] = {}
    for surface in scene.surfaces():
        if surface.ref in plan.surfaces:
            chosen.setdefault(surface.owner, []).append(surface.index)
    names = list(chosen)
    positions, faces, keys, owner_of_face, local_face = [], [], [], [], []
    offset = 0
    for number, name in enumerate(names):
        mesh = scene.mesh(name)
        index = np.flatnonzero(np.isin(mesh.slots, chosen[name]))
        positions.append(mesh.positions)
        faces.append(mesh.faces[index] + offset)
        keys.append(index.astype(np.uint64) ^ np.uint64(text_seed(name)))
        owner_of_face.append(np.full(len(index), number, np.int32))
        local_face.append(index)
        offset += len(mesh.positions)
    if not names:
        nothing = SpacedPoints(
            np.zeros((0, 3), np.float32),
            np.zeros(0, np.int32),
            np.zeros((0, 2), np.float32),
            np.zeros(0, np.uint64),
            np.zeros(0, np.float32),
        )
        return _Base(nothing, [], np.zeros(0, np.int32), [], [], [])
    all_positions, all_faces = np.concatenate(positions), np.concatenate(faces).astype(np.int32)
    areas = np.concatenate([scene.mesh(n).face_areas()[f] for n, f in zip(names, local_face, strict=True)])
    points = spaced_points(all_positions, all_faces, np.concatenate(keys), areas, plan.spacing, plan.seed)
    owner = np.concatenate(owner_of_face)[points.face]
    face = np.concatenate(local_face)[points.face]
    where = [np.flatnonzero(owner == k) for k in range(len(names))]
    parts = [points_on(scene.mesh(n), face[w], points.bary[w]) for n, w in zip(names, where, strict=True)]
    key = base_key(scene, plan)
    return _Base(points, names, owner, parts, where, [f"{key}/{n}" for n in names])


def amounts(scene: Scene, drift_id: str, plan: DriftPlan, base: _Base) -> np.ndarray:
    """(N,) float32 product of all rules at the base points, then changed by the hand's strokes."""
    amount = np.ones(len(base.points), np.float32)
    touches = scene.site.touches_of(drift_id)
    by_paint = any(isinstance(rule, PaintedRule) and rule.active for rule in plan.rules)
    for name, points, where, key in zip(base.owner_names, base.parts, base.where, base.keys, strict=True):
        part = np.ones(len(points), np.float32)
        for rule in plan.rules:
            if rule.active and rule.strength > 0:
                values = scene.measure(name, points, rule, touches, key)
                apply_rule(part, rule.gate, rule.strength, values)
        if touches and not by_paint:
            apply_touches(part, scene.to_local(name, points.positions), name, touches, scene.size(name))
        amount[where] = part
    return amount


def open_above(scene: Scene, plan: DriftPlan, base: _Base) -> np.ndarray:
    """(N,) bool: is there headroom, and does the point not lie inside something solid?"""
    if plan.headroom <= 0 or len(base.points) == 0:
        return np.ones(len(base.points), bool)
    owners = [scene.owner_key(o) for o in scene.owners()]
    key = content_hash("headroom", base_key(scene, plan), plan.headroom, owners)

    def make() -> np.ndarray:
        return scene.standing().room_above(base.points.positions, plan.headroom)

    return scene.cache.get(key, make)


def populate(scene: Scene, drift_id: str, plan: DriftPlan) -> Instances:
    """Everything that stands of a drift.

    A base point stands when its rank is below the local density: the plan's density times the amount its rules
    and strokes leave. Ranks belong to places, so lowering a density only removes.
    """
    base = base_points(scene, plan)
    if not plan.assets or len(base.points) == 0:
        return _instances(plan, base, np.zeros(0, np.int64))
    density = min(plan.density, full_density(plan.spacing) * 1.0001)
    keep = base.points.rank < amounts(scene, drift_id, plan, base) * np.float32(density)
    keep &= open_above(scene, plan, base)
    return _instances(plan, base, np.flatnonzero(keep))


def _instances(plan: DriftPlan, base: _Base, index: np.ndarray) -> Instances:
    identity = base.points.identity[index] ^ np.uint64(text_seed(f"drift seed {plan.seed}"))
    normals = np.zeros((len(base.points), 3), np.float32)
    for where, part in zip(base.where, base.parts, strict=True):
        normals[where] = part.normals
    variety = plan.variety
    up = _leaning(normals[index], variety.follow, variety.lean, identity)
    turn = (uniform(identity, 3) - 0.5) * np.radians(variety.turn)
    bias = 2.0 ** (-1.6 * variety.size_bias)
    scale = variety.size_min + (variety.size_max - variety.size_min) * uniform(identity, 4) ** bias
    sink = variety.sink_min + (variety.sink_max - variety.sink_min) * uniform(identity, 5)
    position = base.points.positions[index] - up * sink[:, None]
    bright = 1 + variety.tint * (uniform(identity, 6) - 0.5) * 1.4
    warm = variety.tint * (uniform(identity, 7) - 0.5)
    tint = np.column_stack([bright * (1 + 0.9 * warm), bright, bright * (1 - 0.9 * warm)])
    weights = np.cumsum([share.weight for share in plan.assets] or [1.0])
    asset = np.searchsorted(weights / weights[-1], uniform(identity, 8), side="right")
    return Instances(
        position.astype(np.float32),
        _rotation(up, turn).astype(np.float32),
        scale.astype(np.float32),
        tint.astype(np.float32),
        np.minimum(asset, max(len(plan.assets) - 1, 0)).astype(np.int32),
        identity,
        len(base.points),
    )


def _leaning(normals: np.ndarray, follow: float, lean: float, identity: np.ndarray) -> np.ndarray:
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


def _rotation(up: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """(N, 4) quaternions: first a turn about y, then the shortest arc from y to `up`."""
    arc = np.column_stack([up[:, 2], np.zeros(len(up)), -up[:, 0], 1.0 + up[:, 1]])
    flipped = arc[:, 3] < 1e-6
    arc[flipped] = [1.0, 0, 0, 0]
    arc /= np.linalg.norm(arc, axis=1, keepdims=True)
    y, w = np.sin(turn / 2), np.cos(turn / 2)
    ax, az, aw = arc[:, 0], arc[:, 2], arc[:, 3]
    return np.column_stack([ax * w - az * y, aw * y, az * w + ax * y, aw * w])
