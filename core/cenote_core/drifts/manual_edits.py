"""The hand's part in a drift: things set down one by one or along lines, and changes kept against identities."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from ..ground.terrain import height_at
from ..hashing import text_seed, uniform
from ..plan import GROUND, DriftPlan, EditPlan, LinePlan
from ..scene import land
from ..scene.scene import Scene
from .footing import owner_normals, pieces_under, set_down, surface_under
from .instances import Instances
from .variety import mirrored, own_sizes, rotation, tints

_FOUND_WITHIN = 0.75
"""An instance whose identity is gone is looked for within this share of the drift's spacing of where it stood."""


def hand_needs(scene: Scene, drift_id: str) -> list[Any]:
    """What the hand did to a drift, and the heights and places it stands on."""
    placed, lines = scene.site.placed_of(drift_id), scene.site.lines_of(drift_id)
    owners = {p.owner for _, p in placed if scene.stands(p.owner)}
    under = {piece for _, line in lines for piece in pieces_under(scene, np.array(line.points, float))}
    ground = [land.heights.ref(scene)] if placed or lines else []
    stood_on = [scene.mesh.ref(piece) for piece in sorted(owners | under)]
    return [placed, [scene.matrix(o) for o in sorted(owners)], lines, scene.site.edits_of(drift_id), ground, stood_on]


def placed_by_hand(scene: Scene, drift_id: str, plan: DriftPlan) -> list[Instances]:
    """What was set down one by one, in order."""
    assets = [share.asset for share in plan.assets]
    out = []
    for key, placed in scene.site.placed_of(drift_id):
        things = [t for t in placed.things if t.asset in assets]
        if not things or (placed.owner != GROUND and not scene.stands(placed.owner)):
            continue
        at = scene.to_site(placed.owner, np.array([t.point for t in things], np.float32)).astype(np.float64)
        if placed.owner == GROUND:
            at[:, 1] = height_at(scene.site.ground, land.heights(scene), at[:, [0, 2]])
        numbers = [n for n, t in enumerate(placed.things) if t.asset in assets]
        identity = np.array([text_seed(f"{key} {n}") for n in numbers], np.uint64)
        at, up = set_down(plan, at, owner_normals(scene, placed.owner, at), identity)
        out.append(
            Instances(
                at.astype(np.float32),
                rotation(up, np.radians([t.turn for t in things])).astype(np.float32),
                np.array([t.size for t in things], np.float32),
                tints(plan, identity).astype(np.float32),
                np.array([assets.index(t.asset) for t in things], np.int32),
                identity,
                0,
                np.zeros(len(identity), bool),
            )
        )
    return out


def along_lines(scene: Scene, drift_id: str, plan: DriftPlan) -> list[Instances]:
    """What stands along drawn lines, in order."""
    return [_along(scene, key, line, plan) for key, line in scene.site.lines_of(drift_id) if plan.assets]


def line_places(line: LinePlan) -> tuple[np.ndarray, np.ndarray]:
    """(N, 3) places along a line, as high as it was drawn, and the (N,) heading there (radians about y of the direction along).

    Evenly by spacing or number along the whole length, offset to the right, on both sides if asked; without jitter.
    """
    drawn = np.array([(p[0], p[2], p[1]) for p in line.points], float)
    if line.closed:
        drawn = np.concatenate([drawn, drawn[:1]])
    points, heights = drawn[:, :2], drawn[:, 2]
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    length = float(along[-1])
    if length <= 0:
        return np.zeros((0, 3)), np.zeros(0)
    if line.count:
        s = np.linspace(0, length, line.count, endpoint=not line.closed) if line.count > 1 else np.array([length / 2])
    else:
        s = np.arange(0.0, length + (-1e-9 if line.closed else 1e-9), line.spacing)
    if len(s) > 20_000:
        s = s[:20_000]
    segment = np.clip(np.searchsorted(along, s, side="right") - 1, 0, len(steps) - 1)
    t = (s - along[segment]) / np.maximum(steps[segment], 1e-12)
    at = points[segment] + (points[segment + 1] - points[segment]) * t[:, None]
    direction = (points[segment + 1] - points[segment]) / np.maximum(steps[segment], 1e-12)[:, None]
    right = np.column_stack([-direction[:, 1], direction[:, 0]])
    heading = np.arctan2(direction[:, 0], direction[:, 1])
    y = heights[segment] + (heights[segment + 1] - heights[segment]) * t
    sides = (1, -1) if line.both_sides else (1,)
    flat = np.concatenate([at + side * right * line.offset for side in sides])
    return np.column_stack([flat[:, 0], np.tile(y, len(sides)), flat[:, 1]]), np.tile(heading, len(sides))


def _along(scene: Scene, key: str, line: LinePlan, plan: DriftPlan) -> Instances:
    at, heading = line_places(line)
    seed = text_seed(f"{key} {line.seed}")
    identity = (np.arange(len(at), dtype=np.uint64) + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15) ^ np.uint64(seed)
    shake = line.jitter * line.spacing * 0.5
    at[:, [0, 2]] += np.column_stack([(uniform(identity, 50 + k) - 0.5) * 2 * shake for k in range(2)])
    at[:, 1], normal = surface_under(scene, at, pieces_under(scene, np.array(line.points, float)))
    variety = plan.variety
    turn = heading if line.face_along else (uniform(identity, 3) - 0.5) * np.radians(variety.turn)
    at, up = set_down(plan, at, normal, identity)
    weights = np.cumsum([share.weight for share in plan.assets])
    asset = np.searchsorted(weights / weights[-1], uniform(identity, 8), side="right")
    return Instances(
        at.astype(np.float32),
        rotation(up, turn).astype(np.float32),
        own_sizes(plan, identity).astype(np.float32),
        tints(plan, identity).astype(np.float32),
        np.minimum(asset, len(plan.assets) - 1).astype(np.int32),
        identity,
        0,
        mirrored(plan, identity),
    )


@dataclass(frozen=True)
class Resolved:
    """An edit and the identities it means now."""

    edit: EditPlan
    identities: np.ndarray


def resolved(plan: DriftPlan, edits: Sequence[EditPlan], identity: np.ndarray, positions: np.ndarray) -> list[Resolved]:
    """What each edit means among all places of a drift: the same identity, or where that is gone for good (the
    spacing or the ground's grid changed) the place nearest to where the thing stood."""
    return [Resolved(edit, _meant(plan, edit, identity, positions)) for edit in edits]


def _meant(plan: DriftPlan, edit: EditPlan, identity: np.ndarray, positions: np.ndarray) -> np.ndarray:
    wanted = np.array([int(text, 16) for text in edit.identities], np.uint64)
    lost = np.flatnonzero(~np.isin(wanted, identity))
    lost = lost[lost < len(edit.places)]
    if len(lost) and len(identity):
        places = np.array([edit.places[k] for k in lost])
        distance, near = cKDTree(positions).query(places, distance_upper_bound=_FOUND_WITHIN * plan.spacing)
        there = np.isfinite(distance)
        wanted[lost[there]] = identity[near[there]]
    return wanted


def marked(edits: Sequence[Resolved], identity: np.ndarray, action: str) -> np.ndarray:
    """(N,) bool: which places some edit removes or pins."""
    out = np.zeros(len(identity), bool)
    for one in edits:
        if one.edit.action == action:
            out |= np.isin(identity, one.identities)
    return out


def changed(found: Instances, plan: DriftPlan, edits: Sequence[Resolved]) -> Instances:
    """Moves, turns, sizes and replacements applied to what stands, and removals of what the hand set down."""
    assets = [share.asset for share in plan.assets]
    for one in edits:
        on = np.isin(found.identity, one.identities)
        if one.edit.action == "remove":
            found = found.taken(np.flatnonzero(~on))
        elif one.edit.action == "change" and on.any():
            found = _one_change(found, np.flatnonzero(on), one.edit, assets)
    return found


def _one_change(found: Instances, index: np.ndarray, edit: EditPlan, assets: list[str]) -> Instances:
    position, turned, scale, asset = (
        found.position.copy(),
        found.rotation.copy(),
        found.scale.copy(),
        found.asset.copy(),
    )
    position[index] += np.array(edit.move, np.float32)
    scale[index] *= np.float32(edit.size)
    if edit.turn:
        half = np.radians(edit.turn) / 2
        turned[index] = _times(found.rotation[index], np.array([0.0, np.sin(half), 0.0, np.cos(half)]))
    if edit.asset in assets:
        asset[index] = assets.index(edit.asset)
    return replace(found, position=position, rotation=turned, scale=scale, asset=asset)


def _times(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """(N, 4) quaternions a followed inside by b: a · b."""
    x, y, z, w = (a[:, k] for k in range(4))
    return np.column_stack(
        [
            w * b[0] + x * b[3] + y * b[2] - z * b[1],
            w * b[1] - x * b[2] + y * b[3] + z * b[0],
            w * b[2] + x * b[1] - y * b[0] + z * b[3],
            w * b[3] - x * b[0] - y * b[1] - z * b[2],
        ]
    ).astype(np.float32)


def by_hand(scene: Scene, drift_id: str, plan: DriftPlan) -> list[Instances]:
    """Everything the hand set down for a drift: one by one and along lines."""
    return [*placed_by_hand(scene, drift_id, plan), *along_lines(scene, drift_id, plan)]
