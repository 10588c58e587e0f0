"""What measures ask of a site, answered: the one place where measures meet meshes, rays, drifts and pictures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..base.names import GROUND, TIERS
from ..graph.derived import Ref, by_value, derived
from ..graph.store import Cache
from ..ground.terrain import axes, height_at
from ..measures.ask import Trace, Washed
from ..measures.distance import FAR, boundary_edges, near, sheet_edge
from ..mesh.mesh import Mesh, Points
from ..mesh.nearest import NearestTree, segment_tree, triangle_tree
from ..mesh.refine import welded
from ..plan import Cut, GroundPlan, LightPlan, Rule, StationPlan, TouchPlan
from . import land, runoff_network
from .laid import cover_ref
from .provided import RUNNING_SHORES, STANDING_BODIES
from .scene import Scene

SHELTER_LIMIT = 512
"""Texels along a side of the maps of traced measures on the ground; pieces have half."""
HASTE = 2
"""So many times coarser they are while something is being changed, until it is let go."""


@dataclass(frozen=True)
class RuleContext:
    """Who asks: a drift, a patina or a surface of the ground, with its strokes and the surfaces it lies on."""

    item: str
    touches: list[TouchPlan] = field(default_factory=list)
    surfaces: tuple[str, ...] = ()
    tier: str = TIERS[-1]


class Answers:
    """A scene as a measure sees it that is taken on one owner for one item; see `measures.ask.Ask`."""

    def __init__(self, scene: Scene, owner: str, context: RuleContext) -> None:
        self.scene, self.owner, self.context = scene, owner, context
        self.touches: Sequence[TouchPlan] = context.touches
        self.surfaces = context.surfaces
        self.memo: dict[Any, Any] = {}

    @property
    def ground(self) -> GroundPlan:
        return self.scene.site.ground

    @property
    def light(self) -> LightPlan:
        return self.scene.site.light

    @property
    def cache(self) -> Cache:
        return self.scene.cache

    def ground_ref(self) -> Ref[np.ndarray]:
        return land.heights.ref(self.scene)

    def mesh_refs(self, owners: Sequence[str]) -> list[Ref[Mesh]]:
        return [self.scene.mesh.ref(owner) for owner in owners]

    def near_refs(self, reach: float) -> list[Ref[Mesh]]:
        return self.mesh_refs(self.scene.near(self.owner, reach))

    def foot(self) -> float:
        return foot(self.scene, self.owner)

    def top(self) -> float:
        return float(self.scene.mesh(self.owner).bounds()[1][1])

    def size(self) -> float:
        return self.scene.size(self.owner)

    def to_local(self, positions: np.ndarray) -> np.ndarray:
        return self.scene.to_local(self.owner, positions)

    def heights(self) -> tuple[np.ndarray, float]:
        x, _ = axes(self.ground)
        return land.heights(self.scene), float(x[1] - x[0])

    def on_ground(self, grid: np.ndarray, at: np.ndarray) -> np.ndarray:
        return height_at(self.ground, grid, at[:, [0, 2]])

    def traced_ref(self, trace: Trace, reach: float, settings: tuple[float, ...] = ()) -> Ref[np.ndarray]:
        limit = SHELTER_LIMIT if self.owner == GROUND else SHELTER_LIMIT // 2
        side = self.scene.resolution(self.owner, limit)
        fine = _traced.ref(self, trace, reach, side, settings)
        if not self.scene.hasty:
            return fine
        # Asked for again with the same answer: what was coarse when a key was made is coarse when the value is.
        there = self.scene.memo.setdefault(("traced", fine.key), self.cache.holds(fine.key))
        return fine if there else replace(_traced.ref(self, trace, reach, side // HASTE, settings), keep="memory")

    def runoff_ref(self, wind_from: float, wind: float, off: Washed, dry: float) -> Ref[Any]:
        return runoff_network.run.ref(self.scene, wind_from, wind, tuple(off[0]), tuple(off[1]), dry)

    def runoff(self, wind_from: float, wind: float, off: Washed, dry: float) -> np.ndarray:
        return runoff_network.runoff_map(self.scene, self.owner, wind_from, wind, tuple(off[0]), tuple(off[1]), dry)

    def laid_refs(self, patinas: Sequence[str]) -> list[Ref[Any]]:
        resolution = self.scene.resolution(self.owner)
        found = [cover_ref(self.scene, key, self.owner, resolution) for key in patinas]
        return [cover for cover in found if cover]

    def laid(self, patinas: Sequence[str]) -> list[np.ndarray]:
        table = self.scene.table(self.owner, self.scene.resolution(self.owner))
        return [table.spread(cover.value()) for cover in self.laid_refs(patinas)]

    def parts(self, at: Points) -> np.ndarray:
        side = self.scene.resolution(self.owner)
        row, column = (np.clip((at.uv2[:, k] * side).astype(np.int64), 0, side - 1) for k in (1, 0))
        return _part_map(self.scene, self.owner, side)[row, column]

    def pieces(self, named: Sequence[str]) -> list[str]:
        owners = named or self.scene.owners()[1:]
        return [piece for piece in owners if piece != self.owner and self.scene.stands(piece)]

    def near(self, reach: float) -> list[str]:
        return [owner for owner in self.scene.near(self.owner, reach) if owner != self.owner]

    def pieces_tree(self, pieces: Sequence[str]) -> NearestTree:
        return self.scene.pieces_tree(list(pieces))

    def ground_tree(self, reach: float) -> NearestTree:
        return _ground_tree(self, reach)

    def edge(self, positions: np.ndarray) -> np.ndarray:
        return edge(self.scene, self.owner, positions, self.surfaces)

    def shores(self) -> tuple[list[np.ndarray], list[tuple[np.ndarray, float | np.ndarray]]]:
        both = [ref.value() for ref in self.shores_refs()]
        return [line for lines, _ in both for line in lines], [pool for _, pools in both for pool in pools]

    def shores_refs(self) -> list[Ref[Any]]:
        still = land.shores.ref(self.scene)
        runs = any(isinstance(form, Cut) for form in self.scene.site.ground.waters())
        return [still, RUNNING_SHORES.ref(self.scene)] if runs else [still]

    def drifts(self, named: Sequence[str]) -> list[str]:
        found, own = self.scene.site.drifts, self.context.item
        there = [key for key in (named or sorted(found)) if key in found and found[key].visible and key != own]
        if named:
            return there
        return [key for key in there if TIERS.index(found[key].tier) < TIERS.index(self.context.tier)]

    def standing_ref(self, drifts: Sequence[str]) -> Ref[Any]:
        return STANDING_BODIES.ref(self.scene, tuple(drifts))

    def standing(self, drifts: Sequence[str]) -> Any:
        return self.standing_ref(drifts).value()

    def picture(self, picture: str) -> np.ndarray | None:
        return self.scene.picture(picture)

    def picture_ref(self, picture: str) -> Ref[np.ndarray] | None:
        return self.scene.picture_ref(picture)

    def stations(self, named: Sequence[str]) -> list[StationPlan]:
        found = self.scene.site.stations
        return [found[key] for key in sorted(found) if not named or key in named]


def _around(ask: Answers, trace: Trace, reach: float, resolution: int, settings: tuple[float, ...]) -> list[Any]:
    table = ask.scene.table.ref(ask.owner, resolution)
    return [trace, table, ask.near_refs(reach), reach, list(settings)]


@derived(_around, keep="disk")
def _traced(ask: Answers, trace: Trace, reach: float, resolution: int, settings: tuple[float, ...]) -> np.ndarray:
    """A measure by rays on an owner's texels; on disk, for what is traced is the costliest of all that is measured."""
    table = ask.scene.table(ask.owner, resolution)
    with by_value():
        # All that stands, of which only what is within reach is met.
        rays = ask.scene.standing()
    return table.spread(trace(rays, table.points, reach, *settings))


@derived(lambda scene, owner, side: scene.table.ref(owner, side))
def _part_map(scene: Scene, owner: str, side: int) -> np.ndarray:
    """(R, R) int64: which of the parts that hang together each texel of an owner lies on."""
    table, mesh = scene.table(owner, side), scene.mesh(owner)
    corners = welded(mesh.positions)[mesh.faces]
    ends = np.concatenate([corners[:, :2], corners[:, 1:]])
    count = int(corners.max()) + 1
    graph = coo_matrix((np.ones(len(ends), np.int8), ends.T), shape=(count, count))
    return table.spread(connected_components(graph, directed=False)[1].astype(np.int64)[corners[table.face, 0]])


@derived(lambda ask, reach: [ask.mesh_refs([GROUND, ask.owner]), reach])
def _ground_tree(ask: Answers, reach: float) -> NearestTree:
    """The ground within reach of an owner's box, as seen from above."""
    low, high = ask.scene.mesh(ask.owner).bounds()
    ground = ask.scene.mesh(GROUND)
    corners = ground.positions[ground.faces][..., [0, 2]]
    beside = (corners > high[[0, 2]] + reach).all(axis=1) | (corners < low[[0, 2]] - reach).all(axis=1)
    return triangle_tree(ground.positions, ground.faces[~beside.any(axis=1)])


def rule_needs(scene: Scene, owner: str, rule: Rule, context: RuleContext) -> list[Any]:
    """Everything a rule's values depend on beside the points."""
    settings = rule.model_dump(exclude={"gate", "strength", "active"})
    return [type(rule), settings, rule.depends(Answers(scene, owner, context)), scene.mesh.ref(owner)]


def _taken(scene: Scene, owner: str, points: Ref[Points], rule: Rule, context: RuleContext) -> list[Any]:
    return [points, *rule_needs(scene, owner, rule, context)]


@derived(_taken)
def _measured(scene: Scene, owner: str, points: Ref[Points], rule: Rule, context: RuleContext) -> np.ndarray:
    return rule.values(points.value(), Answers(scene, owner, context))


def measure(
    scene: Scene, owner: str, points: Points, rule: Rule, context: RuleContext, known: Ref[Points] | None = None
) -> np.ndarray:
    """Values of a rule's measure at points of an owner; (N,) float32.

    Where the points are `known` as a derived value themselves, values are kept for the next time.
    """
    if known is None or not rule.kept:
        return rule.values(points, Answers(scene, owner, context))
    return _measured(scene, owner, known, rule, context)


def foot(scene: Scene, owner: str) -> float:
    """Height of an owner's lowest point; of the ground: the site's zero."""
    return 0.0 if owner == GROUND else float(scene.mesh(owner).bounds()[0][1])


def edge(scene: Scene, owner: str, at: np.ndarray, surfaces: tuple[str, ...]) -> np.ndarray:
    """(N,) float32 metres from the edge of an item's surfaces on this owner."""
    if owner == GROUND:
        return sheet_edge(at, scene.site.ground.width, scene.site.ground.depth)
    slots = tuple(s.index for s in scene.surfaces_of(owner) if s.ref in surfaces)
    corners = _rim(scene, owner, slots)
    if len(corners) == 0:
        return np.full(len(at), FAR, np.float32)
    points = scene.mesh(owner).positions
    return near(segment_tree(points[corners[:, 0]], points[corners[:, 1]]), at)


@derived(lambda scene, owner, slots: [scene.mesh.ref(owner), slots])
def _rim(scene: Scene, owner: str, slots: tuple[int, ...]) -> np.ndarray:
    """(E, 2) corners of the edges round some slots of an owner; round all of it where none are named."""
    mesh = scene.mesh(owner)
    faces = mesh.faces[np.isin(mesh.slots, slots)] if slots else mesh.faces
    return boundary_edges(faces, mesh.positions)
