"""From a drift's plan to its instances: where each stands, how it is turned, sized and tinted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..base.fields import PRESENTED
from ..base.noise import noise
from ..graph.derived import Ref, derived
from ..hashing import text_seed, uniform
from ..kit.flora import BLADE
from ..materials.seasons import grass_tint
from ..measures.painted import PaintedRule, apply_touches
from ..mesh.mesh import Points
from ..mesh.rays import FEELERS
from ..patinas.cover import share_refs, surface_share
from ..plan import GROUND, RESPONSE, DriftPlan, Rule
from ..rules import apply_rule
from ..scene import land
from ..scene.measuring import RuleContext, edge, measure, rule_needs
from ..scene.provided import INSTANCES
from ..scene.scene import Scene
from .bodies import bodies_refs
from .headroom import room_above
from .instances import Instances, joined
from .keepouts import free_space, keep_needs
from .litter import litter_amounts, litter_needs
from .manual_edits import Resolved, by_hand, changed, hand_needs, marked, resolved
from .places import Candidates, by_owner, clumped, places_of
from .variety import leaning, mirrored, own_sizes, rotation, tints, unlike_neighbours

__all__ = ["Instances", "amounts", "open_above", "places_of", "build_instances"]


def context_of(scene: Scene, drift_id: str, plan: DriftPlan) -> RuleContext:
    """The drift as its rules' measures see it."""
    return RuleContext(drift_id, scene.site.touches_of(drift_id), tuple(sorted(plan.surfaces)), plan.tier)


def _hangs_on(scene: Scene, drift_id: str, plan: DriftPlan) -> list[Any]:
    """Everything a drift's instances depend on."""
    with scene.asking(drift_id, plan.name):
        context = context_of(scene, drift_id, plan)
        owners = sorted({ref.split("/")[0] for ref in plan.surfaces} & set(scene.owners()))
        rules = [rule_needs(scene, o, r, context) for r in [*plan.rules, *plan.size_rules] for o in owners]
        return [
            places_of.ref(scene, plan),
            plan.model_dump(exclude=PRESENTED | RESPONSE | {"tier"}),
            rules,
            context.touches,
            hand_needs(scene, drift_id),
            share_refs(scene, plan.surfaces),
            open_above.ref(scene, plan),
            [(share.asset, scene.in_kit(share.asset), _is_grass(scene, share.asset)) for share in plan.assets],
            bodies_refs(scene, plan),
            keep_needs(scene, plan),
            litter_needs(scene, plan),
            scene.site.weather.season,
        ]


def rule_amounts(
    scene: Scene, plan: DriftPlan, places: Candidates, rules: list[Rule], context: RuleContext, paint: bool = True
) -> np.ndarray:
    """(N,) float32 product of some rules at a drift's places, then changed by the hand's strokes."""
    amount = np.ones(len(places), np.float32)
    for name, points, where, known in by_owner(scene, plan, places):
        amount[where] = let_through(scene, name, points, rules, context, known, paint)
    return amount


def let_through(
    scene: Scene, owner: str, points: Points, rules: list[Rule], context: RuleContext, known: Ref[Points], paint: bool
) -> np.ndarray:
    """(N,) float32 product of some rules at points of an owner, then changed by the hand's strokes."""
    out = np.ones(len(points), np.float32)
    for rule in rules:
        if rule.active and rule.strength > 0:
            apply_rule(out, rule.gate, rule.strength, measure(scene, owner, points, rule, context, known))
    by_paint = any(isinstance(rule, PaintedRule) and rule.active for rule in rules)
    if paint and context.touches and not by_paint:
        apply_touches(out, scene.to_local(owner, points.positions), owner, context.touches, scene.size(owner))
    return out


def amounts(scene: Scene, drift_id: str, plan: DriftPlan, places: Candidates) -> np.ndarray:
    """(N,) float32 share of the density at every place: rules and strokes, clumps, border, surface, litter."""
    out = rule_amounts(scene, plan, places, plan.rules, context_of(scene, drift_id, plan))
    how = plan.arrangement
    if how.clump > 0:
        out *= clumped(places.points.positions, how.clump, how.tightness, plan.seed)
    if plan.border.width > 0:
        inside = border_share(scene, plan, places)
        out *= plan.border.density + (1 - plan.border.density) * inside
    for name, points, where in zip(places.owner_names, places.parts, places.where, strict=True):
        out[where] *= surface_share(scene, name, points, plan.surfaces)
    return out


def border_share(scene: Scene, plan: DriftPlan, places: Candidates) -> np.ndarray:
    """(N,) float32 `border_at` all places of a drift."""
    out = np.ones(len(places), np.float32)
    for name, points, where in zip(places.owner_names, places.parts, places.where, strict=True):
        out[where] = border_at(scene, plan, name, points.positions)
    return out


def border_at(scene: Scene, plan: DriftPlan, owner: str, positions: np.ndarray) -> np.ndarray:
    """(N,) float32: 0 at the border of the region, 1 inside; the border wanders by a noise of its own width."""
    width = plan.border.width
    distance = edge(scene, owner, positions, tuple(sorted(plan.surfaces)))
    wander = (noise(positions, width * 1.5, 3, plan.seed + 77) - 0.5) * 2 * width * plan.border.ragged
    t = np.clip((distance + wander) / width, 0, 1)
    return np.asarray(t * t * (3 - 2 * t), np.float32)


def _solids(scene: Scene, plan: DriftPlan) -> list[Any]:
    """What could close a drift's places off: pieces that rays from it can meet, and the ground on what stands in it."""
    places = places_of.ref(scene, plan)
    if plan.headroom <= 0:
        return [places]
    owners = sorted({ref.split("/")[0] for ref in plan.surfaces} & set(scene.owners()))
    near = sorted({piece for owner in owners for piece in scene.near(owner, FEELERS)} - {GROUND})
    ground = [land.heights.ref(scene)] if set(owners) - {GROUND} else []
    return [places, plan.headroom, [scene.mesh.ref(piece) for piece in near], ground]


@derived(_solids)
def open_above(scene: Scene, plan: DriftPlan) -> np.ndarray:
    """(N,) bool: is there headroom over a drift's places, and do they not lie inside something solid?"""
    if plan.headroom <= 0:
        return np.ones(len(places_of(scene, plan)), bool)
    places = places_of(scene, plan)
    free = np.ones(len(places), bool)
    for owner, points, where in zip(places.owner_names, places.parts, places.where, strict=True):
        free[where] = room_above(scene, owner, points.positions, plan.headroom)
    return free


@dataclass(frozen=True)
class Appearance:
    """How the plant at every place of a drift would look, whether it stands or not.

    Attributes
    ----------
    identity : (N,) uint64; asset : (N,) int32; turn : (N,) radians; scale : (N,); normals : (N, 3)
    """

    identity: np.ndarray
    asset: np.ndarray
    turn: np.ndarray
    scale: np.ndarray
    normals: np.ndarray

    def up(self, plan: DriftPlan, index: np.ndarray) -> np.ndarray:
        """(K, 3) own axes of some of them."""
        return leaning(self.normals[index], plan.variety.follow, plan.variety.lean, self.identity[index])


def forms(scene: Scene, drift_id: str, plan: DriftPlan, places: Candidates, litter: np.ndarray | None) -> Appearance:
    """Asset, turn, size and axis at every place."""
    identity, weights = _identities(places, plan), _weights(plan)
    asset, turn, size = _looks(scene, plan)
    if litter is not None:
        # What falls decides what lies: by the local amounts of each kind.
        local = np.cumsum(litter * weights, axis=1)
        drawn = uniform(identity, 8)[:, None] * np.maximum(local[:, -1:], 1e-12)
        asset = np.minimum((drawn >= local).sum(axis=1), len(weights) - 1).astype(np.int32)
    by_size = plan.arrangement.by_size
    scale = own_sizes(plan, places.points.identity) if by_size else own_sizes(plan, identity, size)
    if plan.size_rules:
        grown = rule_amounts(scene, plan, places, plan.size_rules, context_of(scene, drift_id, plan), paint=False)
        scale = scale * (plan.size_least + (1 - plan.size_least) * grown)
    if plan.border.width > 0:
        inside = border_share(scene, plan, places)
        scale = scale * (plan.border.size + (1 - plan.border.size) * inside)
    return Appearance(identity, asset, (turn - 0.5) * np.radians(plan.variety.turn), scale, _normals(scene, plan))


def _identities(places: Candidates, plan: DriftPlan) -> np.ndarray:
    return places.points.identity ^ np.uint64(text_seed(f"drift seed {plan.seed}"))


def _weights(plan: DriftPlan) -> np.ndarray:
    return np.array([share.weight for share in plan.assets], float)


@derived(lambda scene, plan: [places_of.ref(scene, plan), _weights(plan), plan.seed])
def _looks(scene: Scene, plan: DriftPlan) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Asset, turn and size at every place, unlike those of the neighbours."""
    places = places_of(scene, plan)
    return unlike_neighbours(places.points.positions, _identities(places, plan), _weights(plan), 3.0 * plan.spacing)


@derived(lambda scene, plan: places_of.ref(scene, plan))
def _normals(scene: Scene, plan: DriftPlan) -> np.ndarray:
    return places_of(scene, plan).normals()


@INSTANCES.fills
@derived(_hangs_on)
def build_instances(scene: Scene, drift_id: str, plan: DriftPlan) -> Instances:
    """Everything that stands of a drift.

    A place is taken when its rank is below the local density: the plan's density times the amount its rules and
    strokes leave. Ranks belong to places, so lowering a density only removes. Then headroom, keep-outs and the
    hand's removals take away; pins and what the hand set down stand whatever the rules say.
    """
    known, numbers = _known(scene, plan)
    if not any(share.weight > 0 for share in known.assets):
        return _empty()
    found = standing(scene, drift_id, known)
    whole = found.made(scene, known, found.index)
    return whole if known is plan else replace(whole, asset=numbers[whole.asset])


def saved(scene: Scene, drift_id: str, plan: DriftPlan) -> Instances:
    """The same, kept for other processes and later days too."""
    return build_instances.ref(scene, drift_id, plan).value(keep="disk")


def _known(scene: Scene, plan: DriftPlan) -> tuple[DriftPlan, np.ndarray]:
    """The drift with those assets only that are in the kit, and their numbers among all."""
    numbers = np.array([n for n, share in enumerate(plan.assets) if scene.in_kit(share.asset)], np.int32)
    if len(numbers) == len(plan.assets):
        return plan, numbers
    return plan.model_copy(update={"assets": [plan.assets[n] for n in numbers]}), numbers


def build_some_instances(
    scene: Scene, drift_id: str, plan: DriftPlan, choose: Callable[[np.ndarray], np.ndarray]
) -> tuple[Instances, int]:
    """What stands at some of a drift's places, and how many stand at all: while a handle is dragged, what is near.

    Parameters
    ----------
    choose : function from (N, 3) positions of all that stands by rules to (K,) int, the numbers of those wanted
    """
    known, numbers = _known(scene, plan)
    if not any(share.weight > 0 for share in known.assets):
        return _empty(), 0
    found = standing(scene, drift_id, known)
    some = found.made(scene, known, found.index[choose(found.positions())])
    return replace(some, asset=numbers[some.asset]), len(found.index)


def _empty() -> Instances:
    none = np.zeros((0, 3), np.float32)
    return Instances(
        none,
        np.zeros((0, 4), np.float32),
        np.zeros(0, np.float32),
        none,
        np.zeros(0, np.int32),
        np.zeros(0, np.uint64),
        0,
        np.zeros(0, bool),
    )


@dataclass(frozen=True)
class Placement:
    """What stands of a drift, before all of it is turned, sized and tinted.

    Attributes
    ----------
    index : (N,) int, the places taken
    look : how the plants would look, or None where there are no places
    hand : what the hand set down
    meant : the hand's edits with what they mean now
    """

    places: Candidates
    index: np.ndarray
    look: Appearance | None
    hand: list[Instances]
    meant: list[Resolved]

    def positions(self) -> np.ndarray:
        """(N, 3) places taken."""
        return self.places.points.positions[self.index]

    def made(self, scene: Scene, plan: DriftPlan, index: np.ndarray) -> Instances:
        """Instances at some of the places, and what the hand set down."""
        found = _empty() if self.look is None else _instances(scene, plan, self.places, self.look, index)
        return changed(joined([found, *self.hand]), plan, self.meant)


def standing(scene: Scene, drift_id: str, plan: DriftPlan) -> Placement:
    """Which places rules, strokes, headroom, keep-outs and the hand leave."""
    with scene.asking(drift_id, plan.name):
        places = places_of(scene, plan)
        edits = scene.site.edits_of(drift_id)
        hand = by_hand(scene, drift_id, plan)
        if len(places) == 0:
            whole = joined([_empty(), *hand])
            meant = resolved(plan, edits, whole.identity, whole.position)
            return Placement(places, np.zeros(0, np.int64), None, hand, meant)
        litter = litter_amounts(scene, plan, places) if plan.litter.on else None
        look = forms(scene, drift_id, plan, places, litter)
        keep = standing_places(scene, drift_id, plan, places, litter)
        keep &= clear_of_keepouts(scene, plan, places, look)
        meant = []
        if edits:
            known = np.concatenate([look.identity, *(h.identity for h in hand)])
            where = np.concatenate([places.points.positions, *(h.position for h in hand)])
            meant = resolved(plan, edits, known, where)
            keep = (keep | marked(meant, look.identity, "pin")) & ~marked(meant, look.identity, "remove")
        return Placement(places, np.flatnonzero(keep), look, hand, meant)


def standing_places(
    scene: Scene, drift_id: str, plan: DriftPlan, places: Candidates, litter: np.ndarray | None
) -> np.ndarray:
    """(N,) bool: which places density, rules, strokes and headroom leave."""
    density = min(plan.density, places.full * 1.0001)
    amount = amounts(scene, drift_id, plan, places)
    if litter is not None:
        amount = amount * litter.max(axis=1)
    keep = places.points.rank < amount * np.float32(density)
    return np.asarray(keep & open_above(scene, plan))


def clear_of_keepouts(scene: Scene, plan: DriftPlan, places: Candidates, look: Appearance) -> np.ndarray:
    """(N,) bool: which places are clear of all keep-outs, for the plants as they would look there.

    Worked out for all places at once and kept, so that a gate in motion does not ask for distances again.
    """
    return _clear(scene, plan, look) if plan.keep_outs else np.ones(len(places), bool)


def _stood_clear(scene: Scene, plan: DriftPlan, look: Appearance) -> list[Any]:
    lean = plan.variety.model_dump(include={"follow", "lean"})
    return [places_of.ref(scene, plan), keep_needs(scene, plan), lean, look.scale, look.asset]


@derived(_stood_clear)
def _clear(scene: Scene, plan: DriftPlan, look: Appearance) -> np.ndarray:
    places = places_of(scene, plan)
    out = np.ones(len(places), bool)
    index = np.arange(len(places))
    for keep in plan.keep_outs:
        at, up = places.points.positions[index].astype(np.float64), look.up(plan, index)
        free = free_space(scene, plan, keep, at, up, look.asset[index], look.scale[index])
        out[index[free < keep.clearance]] = False
        index = index[free >= keep.clearance]
    return out


def _instances(scene: Scene, plan: DriftPlan, places: Candidates, look: Appearance, index: np.ndarray) -> Instances:
    identity, variety, up = look.identity[index], plan.variety, look.up(plan, index)
    sink = variety.sink_min + (variety.sink_max - variety.sink_min) * uniform(identity, 5)
    position = places.points.positions[index] - up * (sink * np.ones(len(index)))[:, None]
    tint = tints(plan, identity)
    grassy = np.array([_is_grass(scene, share.asset) for share in plan.assets], bool)
    if grassy.any():
        tint[grassy[look.asset[index]]] *= grass_tint(scene.site.weather.season)
    return Instances(
        position.astype(np.float32),
        rotation(up, look.turn[index]).astype(np.float32),
        look.scale[index].astype(np.float32),
        tint.astype(np.float32),
        look.asset[index].astype(np.int32),
        identity,
        len(places),
        mirrored(plan, identity),
    )


def _is_grass(scene: Scene, asset: str) -> bool:
    """Does the plant take its colour from its vertices alone, so that the season has to tint it?"""
    plant = scene.kit.plant(asset)
    return plant is not None and plant.materials == BLADE
