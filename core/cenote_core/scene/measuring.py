"""Which measure a rule asks for, at which points: one place that knows all measures."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ..ground.terrain import axes, height_at
from ..hashing import content_hash
from ..light.sky import sun_direction
from ..measures.aspect import aspect
from ..measures.camera import camera
from ..measures.crown import crown
from ..measures.distance import FAR, boundary_edges, near, sheet_edge, stems
from ..measures.height import height
from ..measures.hollow import hollow_map
from ..measures.image import image_over
from ..measures.noise import noise
from ..measures.painted import painted
from ..measures.path import path_distance
from ..measures.shelter import shelter
from ..measures.sky import sky
from ..measures.slope import slope
from ..measures.water import water_distance
from ..mesh.mesh import Points
from ..mesh.nearest import line_tree, segment_tree
from ..mesh.texels import sample_map
from ..plan import (
    GROUND,
    AspectRule,
    CameraRule,
    CrownRule,
    EdgeRule,
    HeightRule,
    HollowRule,
    ImageRule,
    LineRule,
    NearRule,
    NoiseRule,
    PaintedRule,
    PathRule,
    Rule,
    ShelterRule,
    SkyRule,
    SlopeRule,
    StationPlan,
    StemsRule,
    TouchPlan,
    WaterRule,
)
from . import land
from .scene import Scene

_BY_POINT_ALONE = SlopeRule | HeightRule | NoiseRule | AspectRule | LineRule | PaintedRule
"""Measures that hang on the point, their own settings and the owner; `painted` is never kept."""
SHELTER_LIMIT = 512
VIEW_RAYS = 96
TIERS = ("canopy", "shrub", "cover", "litter")


@dataclass(frozen=True)
class Asker:
    """Who asks: a drift, a patina or a surface of the ground, with its strokes and the surfaces it lies on."""

    item: str
    touches: list[TouchPlan] = field(default_factory=list)
    surfaces: tuple[str, ...] = ()
    tier: str = "litter"


def shelter_map(scene: Scene, owner: str, reach: float, rays: int = VIEW_RAYS) -> np.ndarray:
    """(R, R) float32 shelter of an owner; kept on disk, it is the costliest measure."""
    return _traced(scene, owner, "shelter", reach, rays)


def _traced(scene: Scene, owner: str, what: str, reach: float, rays: int) -> np.ndarray:
    """A measure by rays on the texels of an owner."""
    resolution = scene.resolution(owner, SHELTER_LIMIT if owner == GROUND else SHELTER_LIMIT // 2)
    key = content_hash(what, scene.near_key(owner, reach), resolution, rays)

    def make() -> np.ndarray:
        points = scene.table(owner, resolution).points
        if what == "sky":
            values = sky(scene.standing(), points.positions, rays)
        else:
            values = shelter(scene.standing(), points.positions, points.normals, reach, rays)
        return scene.table(owner, resolution).spread(values)

    return scene.cache.get(key, make, on_disk=True)


def measure(scene: Scene, owner: str, points: Points, rule: Rule, asker: Asker, points_key: str = "") -> np.ndarray:
    """Values of a rule's measure at points of an owner; (N,) float32.

    With a `points_key` (a hash of the points), values are kept for the next time.
    """
    if not points_key or isinstance(rule, PaintedRule):
        return _measured(scene, owner, points, rule, asker)
    key = content_hash("measure", points_key, rule_key(scene, owner, rule, asker))
    return scene.cache.get(key, lambda: _measured(scene, owner, points, rule, asker))


def rule_key(scene: Scene, owner: str, rule: Rule, asker: Asker) -> str:
    """Hash of everything a rule's values depend on beside the points."""
    settings = rule.model_dump(exclude={"gate", "strength", "active"})
    more: object = ""
    if isinstance(rule, ShelterRule):
        more = scene.near_key(owner, rule.reach)
    elif isinstance(rule, SkyRule):
        more = [scene.owner_key(o) for o in scene.owners()]
    elif isinstance(rule, NearRule):
        more = [scene.owner_key(p) for p in _pieces(scene, rule, owner)]
    elif isinstance(rule, PathRule):
        more = [path.model_dump() for path in scene.site.ground.paths()]
    elif isinstance(rule, HollowRule | WaterRule):
        more = scene.ground_key()
    elif isinstance(rule, EdgeRule):
        more = asker.surfaces
    elif isinstance(rule, ImageRule):
        ground = scene.site.ground
        more = (scene.picture_key(rule.image), ground.width, ground.depth)
    elif isinstance(rule, CameraRule):
        light = scene.site.light
        more = ([s.model_dump() for s in _stations(scene, rule)], light.azimuth, light.elevation)
    elif isinstance(rule, StemsRule | CrownRule):
        from ..drifts.populate import drift_key

        more = [drift_key(scene, key) for key in _drifts(scene, rule, asker)]
    elif not isinstance(rule, _BY_POINT_ALONE):
        raise TypeError(f"nobody has said what the measure {rule.measure} depends on")
    return content_hash(settings, more)


def _measured(scene: Scene, owner: str, points: Points, rule: Rule, asker: Asker) -> np.ndarray:
    at = points.positions
    if isinstance(rule, SlopeRule):
        return slope(points.normals)
    if isinstance(rule, HeightRule):
        return height(at, foot(scene, owner) if rule.above == "foot" else 0.0)
    if isinstance(rule, ShelterRule):
        return sample_map(shelter_map(scene, owner, rule.reach), points.uv2)
    if isinstance(rule, NoiseRule):
        return noise(at, rule.size, rule.detail, rule.seed)
    if isinstance(rule, AspectRule):
        return aspect(points.normals, rule.toward)
    if isinstance(rule, SkyRule):
        return sample_map(_traced(scene, owner, "sky", 80.0, VIEW_RAYS), points.uv2)
    if isinstance(rule, HollowRule):
        return _hollow(scene, owner, at, rule.reach)
    if isinstance(rule, EdgeRule):
        return edge(scene, owner, at, asker.surfaces)
    if isinstance(rule, NearRule):
        return near(scene.pieces_tree(_pieces(scene, rule, owner)), at)
    if isinstance(rule, LineRule):
        flat = np.array([(x, 0.0, z) for x, z in rule.line])
        return near(line_tree(flat), at * np.array([1.0, 0.0, 1.0], np.float32))
    if isinstance(rule, PathRule):
        return path_distance(at, scene.site.ground.paths())
    if isinstance(rule, WaterRule):
        return _water(scene, at)
    if isinstance(rule, StemsRule | CrownRule):
        return _trees(scene, at, rule, asker)
    if isinstance(rule, ImageRule):
        picture = scene.picture(rule.image)
        ground = scene.site.ground
        dark = np.zeros(len(at), np.float32)
        return dark if picture is None else image_over(at, picture, ground.width, ground.depth)
    if isinstance(rule, CameraRule):
        light = scene.site.light
        return camera(at, _stations(scene, rule), sun_direction(light))
    if isinstance(rule, PaintedRule):
        return painted(scene.to_local(owner, at), owner, asker.touches, scene.size(owner))
    raise TypeError(f"nobody has said how the measure {rule.measure} is computed")


def foot(scene: Scene, owner: str) -> float:
    """Height of an owner's lowest point; of the ground: the site's zero."""
    return 0.0 if owner == GROUND else float(scene.mesh(owner).bounds()[0][1])


def _hollow(scene: Scene, owner: str, at: np.ndarray, reach: float) -> np.ndarray:
    """On pieces there are neither hollows nor ridges of the ground: they count as even."""
    if owner != GROUND:
        return np.zeros(len(at), np.float32)
    plan = scene.site.ground
    x, _ = axes(plan)
    key = content_hash("hollow", scene.ground_key(), reach)
    relief = scene.cache.get(key, lambda: hollow_map(land.heights(scene), float(x[1] - x[0]), reach))
    return height_at(plan, relief, at[:, [0, 2]]).astype(np.float32)


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


def _water(scene: Scene, at: np.ndarray) -> np.ndarray:
    plan = scene.site.ground
    lines, pools = land.shores(scene)
    under = np.zeros(len(at), bool)
    for wet, level in pools:
        # Beside a wet point of the grid, and itself below the level: exact up to the very shore.
        under |= (height_at(plan, wet.astype(float), at[:, [0, 2]]) > 0) & (at[:, 1] < level)
    return water_distance(at, lines, under)


def _pieces(scene: Scene, rule: NearRule, owner: str) -> list[str]:
    return [p for p in (rule.pieces or scene.owners()[1:]) if p != owner and scene.stands(p)]


def _stations(scene: Scene, rule: CameraRule) -> list[StationPlan]:
    found = scene.site.stations
    return [found[key] for key in sorted(found) if not rule.stations or key in rule.stations]


def _drifts(scene: Scene, rule: StemsRule | CrownRule, asker: Asker) -> list[str]:
    """The drifts a rule looks at: those named, or all of larger tiers than who asks."""
    found = scene.site.drifts
    if rule.drifts:
        return [key for key in rule.drifts if key in found and key != asker.item and found[key].visible]
    below = TIERS.index(asker.tier)
    return [
        key
        for key in sorted(found)
        if found[key].visible and key != asker.item and TIERS.index(found[key].tier) < below
    ]


def _trees(scene: Scene, at: np.ndarray, rule: StemsRule | CrownRule, asker: Asker) -> np.ndarray:
    from ..drifts.bodies import standing_bodies

    bodies = standing_bodies(scene, _drifts(scene, rule, asker))
    if isinstance(rule, CrownRule):
        return crown(at, bodies.feet, bodies.crowns, bodies.tops)
    return stems(at, bodies.feet, bodies.stems)
