"""Patinas on what is scattered: how far they lie on the vertices of trunks, leaves and stones.

Rules that can be told from a place and its normal alone (slope, facing, height over the foot, noise) are taken at every
vertex where it stands; all others once for each thing, on the ground beneath it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

import numpy as np
from scipy.spatial.transform import Rotation

from ..hashing import uniform
from ..measures.ask import Ask
from ..measures.chance import ChanceRule
from ..measures.painted import PaintedRule, apply_touches
from ..mesh.mesh import Mesh, Points
from ..patinas.cover import context_of
from ..patinas.growth import age, grown
from ..patinas.heights import layer_tile
from ..plan import GROUND, PatinaPlan, PatinaUse, Rule
from ..rules import apply_rule
from ..scene.measuring import measure
from ..scene.scene import Scene
from .instances import Instances

MOST = 2
"""So many patinas one material of a drift carries, the uppermost."""
Carried = tuple[str, PatinaPlan, PatinaUse]
"""A patina, and how it lies there."""


def carried(scene: Scene, drift: str, slot: str) -> list[Carried]:
    """The visible patinas on a material of a drift that are drawn, lowest first."""
    return _on(scene, f"{drift}/{slot}")[-MOST:]


def left_out(scene: Scene, ref: str) -> list[str]:
    """Patinas on a material of a drift, `drift/slot`, that others keep from being drawn: those under the uppermost."""
    return [key for key, _, _ in _on(scene, ref)[:-MOST]]


def _on(scene: Scene, ref: str) -> list[Carried]:
    found = [
        (plan.order, key, plan, use)
        for key, plan in scene.site.patinas.items()
        if plan.visible
        for use in plan.uses
        if use.surface == ref
    ]
    return [(key, plan, use) for _, key, plan, use in sorted(found, key=lambda f: f[:2])]


class _Standing:
    """What rules ask of a thing's own body: where its foot and its top are, for every vertex."""

    def __init__(self, foot: np.ndarray, top: np.ndarray) -> None:
        self._foot, self._top = foot, top

    def foot(self) -> np.ndarray:
        return self._foot

    def top(self) -> np.ndarray:
        return self._top


def covers_on(scene: Scene, carries: Carried, mesh: Mesh, slot: int, instances: Instances) -> np.ndarray:
    """(N, V) float32 cover of a patina on the vertices of N things of one mesh; 0 on other slots."""
    key, plan, use = carries
    on = np.unique(mesh.faces[mesh.slots == slot])
    whole = np.zeros((len(instances), len(mesh.positions)), np.float32)
    points, foot, top = _placed(mesh, on, instances)
    asked = cast(Ask, _Standing(foot, top))

    def let_through(rules: Sequence[Rule]) -> np.ndarray:
        out = np.repeat(_at_feet(scene, key, plan, rules, instances), len(on))
        for rule in rules:
            if rule.active and rule.about.body:
                apply_rule(out, rule.gate, rule.strength, rule.values(points, asked))
        return out

    years, rate = age(scene, plan), let_through(plan.rules)
    lies = (rate if years is None else grown(rate, years, plan.pace)) * let_through(use.rules)
    lies *= np.float32(plan.amount)
    touches = scene.site.touches_of(key)
    if touches and not any(isinstance(rule, PaintedRule) and rule.active for rule in plan.rules):
        # Strokes on the ground reach what stands there.
        apply_touches(lies, points.positions, GROUND, touches, scene.size(GROUND))
    whole[:, on] = (lies * np.float32(use.amount)).reshape(len(instances), len(on))
    return whole


def _at_feet(scene: Scene, key: str, plan: PatinaPlan, rules: Sequence[Rule], instances: Instances) -> np.ndarray:
    """(N,) float32 what those of a patina's rules leave that are taken once for each thing."""
    at = instances.position
    size = np.array([scene.site.ground.width, scene.site.ground.depth])
    up = np.tile(np.array([0, 1, 0], np.float32), (len(at), 1))
    uv2 = (at[:, [0, 2]] / size + 0.5).astype(np.float32)
    points = Points(at, up, uv2, np.zeros(len(at), np.int32), np.ones(len(at), np.float32))
    out, context = np.ones(len(at), np.float32), context_of(scene, key, plan)
    for rule in rules:
        if rule.active and not rule.about.body:
            # By chance each thing has a number of its own, as a piece has.
            if isinstance(rule, ChanceRule):
                found = uniform(instances.identity, rule.seed)
            else:
                found = measure(scene, GROUND, points, rule, context)
            apply_rule(out, rule.gate, rule.strength, np.asarray(found, np.float32))
    return out


def _placed(mesh: Mesh, on: np.ndarray, instances: Instances) -> tuple[Points, np.ndarray, np.ndarray]:
    """Some vertices of a mesh on all things, thing by thing, and for each the heights of its thing's foot and top."""
    turn = Rotation.from_quat(instances.rotation).as_matrix()
    turn[instances.mirrored, :, 0] *= -1
    places = np.einsum("nij,vj->nvi", turn, mesh.positions[on].astype(np.float64)) * instances.scale[:, None, None]
    places += instances.position[:, None]
    normals = np.einsum("nij,vj->nvi", turn, mesh.normals[on].astype(np.float64))
    count = places.shape[0] * places.shape[1]
    flat = lambda values: np.ascontiguousarray(values.reshape(count, 3), np.float32)  # noqa: E731
    points = Points(flat(places), flat(normals), np.zeros((count, 2), np.float32), np.zeros(count, np.int32))
    tall = (mesh.bounds()[1][1] * instances.scale).astype(np.float32)
    foot = instances.position[:, 1]
    return points, np.repeat(foot, len(on)), np.repeat(foot + tall, len(on))


def ramps(side: int = 256) -> np.ndarray:
    """(2, side, side) covers that read back their own coordinates: what a vertex carries is told by its seam."""
    values = (np.arange(side, dtype=np.float32) + 0.5) / side
    return np.stack([np.tile(values, (side, 1)), np.tile(values[:, None], (1, side))])


def tile_on(plan: PatinaPlan, tile: float, base_tile: float, own_uv: bool) -> float:
    """Enlargement of a patina's picture where coordinates count repeats of the base's picture, or metres."""
    return layer_tile(plan, tile) / (base_tile if own_uv and base_tile > 0 else 1.0)
