"""What measures ask of a site, answered: the one place where measures meet meshes, rays, drifts and pictures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..base.names import GROUND, TIERS
from ..ground.terrain import axes, height_at
from ..hashing import content_hash
from ..measures.distance import FAR, boundary_edges, near, sheet_edge
from ..measures.shelter import VIEW_RAYS
from ..mesh.mesh import Points
from ..mesh.nearest import NearestTree, segment_tree, triangle_tree
from ..mesh.rays import RayScene
from ..plan import GroundPlan, LightPlan, Rule, StationPlan, TouchPlan
from . import land
from .provided import provided
from .scene import Scene

SHELTER_LIMIT = 512
"""Texels along a side of the maps of traced measures on the ground; pieces have half."""


@dataclass(frozen=True)
class Asker:
    """Who asks: a drift, a patina or a surface of the ground, with its strokes and the surfaces it lies on."""

    item: str
    touches: list[TouchPlan] = field(default_factory=list)
    surfaces: tuple[str, ...] = ()
    tier: str = TIERS[-1]


class Answers:
    """A scene as a measure sees it that is taken on one owner for one item; see `measures.ask.Ask`."""

    def __init__(self, scene: Scene, owner: str, asker: Asker) -> None:
        self.scene, self.owner, self.asker = scene, owner, asker
        self.touches: Sequence[TouchPlan] = asker.touches
        self.surfaces = asker.surfaces

    @property
    def ground(self) -> GroundPlan:
        return self.scene.site.ground

    @property
    def light(self) -> LightPlan:
        return self.scene.site.light

    def kept(self, name: str, hangs_on: object, make: Callable[[], Any]) -> Any:
        return self.scene.cache.get(content_hash("measured", name, hangs_on), make)

    def owner_key(self, owner: str) -> str:
        return self.scene.owner_key(owner)

    def ground_key(self) -> str:
        return self.scene.ground_key()

    def near_key(self, reach: float) -> str:
        return self.scene.near_key(self.owner, reach)

    def foot(self) -> float:
        return foot(self.scene, self.owner)

    def size(self) -> float:
        return self.scene.size(self.owner)

    def to_local(self, positions: np.ndarray) -> np.ndarray:
        return self.scene.to_local(self.owner, positions)

    def heights(self) -> tuple[np.ndarray, float]:
        x, _ = axes(self.ground)
        return land.heights(self.scene), float(x[1] - x[0])

    def on_ground(self, grid: np.ndarray, at: np.ndarray) -> np.ndarray:
        return height_at(self.ground, grid, at[:, [0, 2]])

    def traced(self, name: str, reach: float, trace: Callable[[RayScene, Points], np.ndarray]) -> np.ndarray:
        """Kept on disk: what is traced is the costliest of all that is measured."""
        scene, owner = self.scene, self.owner
        resolution = scene.resolution(owner, SHELTER_LIMIT if owner == GROUND else SHELTER_LIMIT // 2)
        key = content_hash(name, scene.near_key(owner, reach), resolution, VIEW_RAYS)

        def make() -> np.ndarray:
            table = scene.table(owner, resolution)
            return table.spread(trace(scene.standing(), table.points))

        return scene.cache.get(key, make, on_disk=True)

    def pieces(self, named: Sequence[str]) -> list[str]:
        owners = named or self.scene.owners()[1:]
        return [piece for piece in owners if piece != self.owner and self.scene.stands(piece)]

    def pieces_tree(self, pieces: Sequence[str]) -> NearestTree:
        return self.scene.pieces_tree(list(pieces))

    def ground_tree(self, reach: float) -> NearestTree:
        scene = self.scene

        def make() -> NearestTree:
            low, high = scene.mesh(self.owner).bounds()
            ground = scene.mesh(GROUND)
            corners = ground.positions[ground.faces][..., [0, 2]]
            beside = (corners > high[[0, 2]] + reach).all(axis=1) | (corners < low[[0, 2]] - reach).all(axis=1)
            return triangle_tree(ground.positions, ground.faces[~beside.any(axis=1)])

        return self.kept("ground beside", (scene.ground_key(), scene.owner_key(self.owner), reach), make)

    def edge(self, positions: np.ndarray) -> np.ndarray:
        return edge(self.scene, self.owner, positions, self.surfaces)

    def shores(self) -> tuple[list[np.ndarray], list[tuple[np.ndarray, float]]]:
        return land.shores(self.scene)

    def drifts(self, named: Sequence[str]) -> list[str]:
        found, own = self.scene.site.drifts, self.asker.item
        there = [key for key in (named or sorted(found)) if key in found and found[key].visible and key != own]
        if named:
            return there
        return [key for key in there if TIERS.index(found[key].tier) < TIERS.index(self.asker.tier)]

    def drift_key(self, drift: str) -> str:
        return str(provided("drift key")(self.scene, drift))

    def standing(self, drifts: Sequence[str]) -> Any:
        return provided("standing bodies")(self.scene, list(drifts))

    def picture(self, picture: str) -> np.ndarray | None:
        return self.scene.picture(picture)

    def picture_key(self, picture: str) -> str:
        return self.scene.picture_key(picture)

    def stations(self, named: Sequence[str]) -> list[StationPlan]:
        found = self.scene.site.stations
        return [found[key] for key in sorted(found) if not named or key in named]


def measure(scene: Scene, owner: str, points: Points, rule: Rule, asker: Asker, points_key: str = "") -> np.ndarray:
    """Values of a rule's measure at points of an owner; (N,) float32.

    With a `points_key` (a hash of the points), values are kept for the next time.
    """
    ask = Answers(scene, owner, asker)
    if not points_key or not rule.kept:
        return rule.values(points, ask)
    key = content_hash("measure", points_key, rule_key(scene, owner, rule, asker))
    return scene.cache.get(key, lambda: rule.values(points, ask))


def rule_key(scene: Scene, owner: str, rule: Rule, asker: Asker) -> str:
    """Hash of everything a rule's values depend on beside the points."""
    settings = rule.model_dump(exclude={"gate", "strength", "active"})
    return content_hash(settings, rule.depends(Answers(scene, owner, asker)))


def foot(scene: Scene, owner: str) -> float:
    """Height of an owner's lowest point; of the ground: the site's zero."""
    return 0.0 if owner == GROUND else float(scene.mesh(owner).bounds()[0][1])


def edge(scene: Scene, owner: str, at: np.ndarray, surfaces: tuple[str, ...]) -> np.ndarray:
    """(N,) float32 metres from the edge of an item's surfaces on this owner."""
    if owner == GROUND:
        return sheet_edge(at, scene.site.ground.width, scene.site.ground.depth)
    slots = [s.index for s in scene.surfaces() if s.owner == owner and s.ref in surfaces]

    def make() -> np.ndarray:
        mesh = scene.mesh(owner)
        faces = mesh.faces[np.isin(mesh.slots, slots)] if slots else mesh.faces
        return boundary_edges(faces, mesh.positions)

    corners = scene.cache.get(content_hash("rim", scene.owner_key(owner), slots), make)
    if len(corners) == 0:
        return np.full(len(at), FAR, np.float32)
    points = scene.mesh(owner).positions
    return near(segment_tree(points[corners[:, 0]], points[corners[:, 1]]), at)
