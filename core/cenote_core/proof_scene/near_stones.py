"""Loose stones of the ground near the eye, as bodies of their own.

What a picture of gravel shows as stones becomes stones there: each stands where the picture has it, with its length,
its turn and its colour, sunk into the relief that is left when all of them are taken out. With distance they shrink
into the ground while the relief takes their place.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

import numpy as np

from ..graph.derived import derived
from ..ground.terrain import height_at
from ..kit.stones import stone
from ..materials.bits import Bits, Loose, find_bits
from ..materials.catalogue import CATALOGUE
from ..mesh.mesh import Mesh, make_mesh
from ..patinas.cover import stack
from ..patinas.heights import layer_tile
from ..patinas.triplanar import ground_triplanar
from ..plan import GROUND, Response, StationPlan
from ..scene import land
from ..scene.scene import Scene
from ..stations.camera import axes, field_of_view, in_view
from ..tracer import tables
from ..weather.exposure import WHOLE, exposure_map
from .stacked import Spots, covers_there, stack_there
from .tables import SMOOTHEST, Shot, Tables

_SHARE = 0.62
"""Stones are bodies within this share of the reach of relief as geometry."""
_WHOLE = 0.6
"""Up to this share of that they have their full size."""
_SHOWS = 0.55
"""A stone is there where its layer covers so much."""
_LEVEL = 0.9
"""Share of the picture from above from which ground is gentle enough for loose stones to lie."""
_ABOVE, _EMBEDDED = 0.12, 0.3
"""A body rises above its picture's top by this share of its half height, and stands in the ground by that at least."""
_SHAPES, _FACETS, _SEED = 10, 11, 41
_LEAN = 0.2
"""Radians a stone leans at most."""
_INNER = 0.72
"""A stone's picture is read up to this share of the way to its rim, which the picture shades."""
_FINE, _COARSE = 26.0, 7.0
"""Pixels across from which a stone has its finest shape, and under which its coarsest."""
_RELIEF = 0.5
"""Share of the picture's own relief on a body: its large forms are the body's."""


@dataclass(frozen=True)
class Stones:
    """Stones of one material to be drawn.

    Attributes
    ----------
    middle : (N, 3) metres
    half : (N, 3) metres: half length, half height, half width
    turn : (N,) radians from x to the length, towards -z
    number : (N,) which stone of its picture each is
    """

    middle: np.ndarray
    half: np.ndarray
    turn: np.ndarray
    number: np.ndarray

    def __len__(self) -> int:
        return len(self.turn)

    def only(self, keep: np.ndarray) -> Stones:
        """Those that `keep` picks."""
        return Stones(self.middle[keep], self.half[keep], self.turn[keep], self.number[keep])


@derived(lambda scene, material_id: [scene.material_ref(material_id)], keep="disk")
def loose_bits(scene: Scene, material_id: str) -> Bits:
    """The bits in a material's picture."""
    loose = loose_of(material_id)
    assert loose is not None
    return find_bits(scene.material(material_id), loose)


def loose_of(material_id: str) -> Loose | None:
    """What lies loose in a material, or None."""
    recipe = CATALOGUE.get(material_id)
    return recipe.loose if recipe else None


def bodies_share(away: np.ndarray, reach: float) -> np.ndarray:
    """(N,) 0..1 how far loose stones are bodies at a distance from the eye, metres."""
    far = _SHARE * reach
    t = np.clip((far - away) / (far * (1 - _WHOLE)), 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


def ground_materials(scene: Scene) -> Iterator[tuple[str, float]]:
    """What the ground's base and all that lies on it, lowest first, is made of, and the metres a repeat covers."""
    base = next(s for s in scene.surfaces_of(GROUND) if not s.layer)
    yield base.material, scene.material(base.material).tile
    for _, plan in stack(scene, GROUND):
        yield plan.finish.material, layer_tile(plan, scene.material(plan.finish.material).tile)


def bare_heights(scene: Scene) -> dict[str, np.ndarray]:
    """The heights of the ground's materials without what lies loose in them."""
    return {m: loose_bits(scene, m).bare for m, _ in ground_materials(scene) if loose_of(m)}


def loose_stones(scene: Scene, number: int, station: StationPlan, aspect: float, reach: float) -> Stones:
    """The stones of the ground's base (0) or of what lies on it (1, 2, …) near a station and in its view."""
    material_id, tile = list(ground_materials(scene))[number]
    bits, loose, scale = loose_bits(scene, material_id), loose_of(material_id), _scale(scene, material_id, tile)
    assert loose is not None
    at, which = _repeated(bits.at * scale, tile, axes(station)[0][[0, 2]], _SHARE * reach)
    plan = scene.site.ground
    inside = (np.abs(at) < np.array([plan.width, plan.depth]) / 2).all(axis=1)
    at, which = at[inside], which[inside]
    y = height_at(plan, land.heights(scene), at)
    places = np.column_stack([at[:, 0], y, at[:, 1]])
    share = bodies_share(np.linalg.norm(places - axes(station)[0], axis=1), reach)
    near = (share > 0.05) & in_view(station, aspect, places, 0.1)
    places, which, share = places[near], which[near], share[near]
    shows, top, floor = _ground_there(scene, number, places)
    size = share * scale
    half = np.column_stack([bits.half[which, 0], bits.half[which, 1] * loose.thick, bits.half[which, 1]])
    half *= size[:, None]
    # As high as its picture says, and never so high that it would hover.
    middle = np.minimum(top - (1 - _ABOVE) * half[:, 1], floor + (1 - 2 * _EMBEDDED) * half[:, 1])
    places[:, 1] += middle
    return Stones(places, half, bits.turn[which].astype(np.float64), which).only(shows)


def _scale(scene: Scene, material_id: str, tile: float) -> float:
    return tile / scene.material(material_id).tile


def _repeated(at: np.ndarray, tile: float, eye: np.ndarray, reach: float) -> tuple[np.ndarray, np.ndarray]:
    """(N, 2) places x, z of what lies at (B, 2) u, v in a repeated picture around an eye, and the number of each."""
    first = np.floor((np.array([eye[0], -eye[1]]) - reach) / tile).astype(int)
    last = np.floor((np.array([eye[0], -eye[1]]) + reach) / tile).astype(int)
    u, v = np.meshgrid(np.arange(first[0], last[0] + 1), np.arange(first[1], last[1] + 1), indexing="ij")
    corners = np.column_stack([u.ravel(), v.ravel()]) * tile
    all_at = (corners[:, None] + at).reshape(-1, 2)
    return all_at * [1.0, -1.0], np.tile(np.arange(len(at)), len(corners))


def _ground_there(scene: Scene, number: int, places: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Does the layer show at places on gentle ground; the relief's height there, and that of what is beneath stones."""
    plan = scene.site.ground
    at = places[:, [0, 2]]
    uv = np.ascontiguousarray(at * [1.0, -1.0], np.float32)
    uv2 = (at / [plan.width, plan.depth] + 0.5).astype(np.float32)
    spots = Spots(places, uv, uv2, uv, np.zeros(len(at), np.int32))
    covers = covers_there(scene, GROUND, None, uv2)
    top, amounts = stack_there(scene, GROUND, spots, covers)
    floor, _ = stack_there(scene, GROUND, spots, covers, bare_heights(scene))
    sides = ground_triplanar(scene, at)
    shows = np.ones(len(at)) if number == 0 else np.asarray(amounts[number - 1], float)
    for above in amounts[number:]:
        shows = shows * (1 - above)
    return (shows > _SHOWS) & (sides[1][:, 0] > _LEVEL), top.astype(float), floor.astype(float)


@cache
def _shapes() -> list[list[tuple[np.ndarray, np.ndarray]]]:
    """Directions and places, (V, 3) each between -1 and 1, and faces of all shapes, finest level first."""
    out = []
    for k in range(_SHAPES):
        levels = []
        for mesh in stone(_SEED + k, (2.0, 2.0, 2.0), _FACETS):
            low, high = mesh.bounds()
            levels.append(((mesh.positions - (low + high) / 2) / ((high - low) / 2), mesh.faces))
        out.append(levels)
    return out


def stone_mesh(stones: Stones, bits: Bits, scale: float, pixels: np.ndarray) -> Mesh:
    """All stones as one mesh; `pixels` (N,) across tells how fine each is. `uv` is that of the ground's picture."""
    positions, uvs, faces, start = [], [], [], 0
    shapes, pick = _shapes(), np.arange(len(stones)) * 7 % _SHAPES
    level = np.where(pixels > _FINE, 0, np.where(pixels > _COARSE, 1, 2))
    for shape in range(_SHAPES):
        for fine in range(3):
            on = np.flatnonzero((pick == shape) & (level == fine))
            if not len(on):
                continue
            points, corners = shapes[shape][fine]
            made = _placed(stones.only(on), points)
            positions.append(made.reshape(-1, 3))
            uvs.append(_coordinates(stones.only(on), bits, scale, points).reshape(-1, 2))
            steps = start + len(points) * np.arange(len(on))[:, None, None]
            faces.append((corners + steps).reshape(-1, 3))
            start += len(points) * len(on)
    if not positions:
        return make_mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int32))
    return make_mesh(np.concatenate(positions), np.concatenate(faces), uv=np.concatenate(uvs))


def _turned(stones: Stones, along: np.ndarray, across: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(N, V) offsets in u and v of offsets along and across the stones."""
    c, s = np.cos(stones.turn)[:, None], np.sin(stones.turn)[:, None]
    return along * c - across * s, along * s + across * c


def _placed(stones: Stones, points: np.ndarray) -> np.ndarray:
    """(N, V, 3) places of a shape's vertices on every stone, each leaning a little its own way."""
    lean = _LEAN * np.sin(12.9898 * stones.number + 78.233 * stones.middle[:, 0])[:, None]
    up = points[:, 1] + lean * points[:, 0]
    u, v = _turned(stones, stones.half[:, :1] * (points[:, 0] - lean * points[:, 1]), stones.half[:, 2:] * points[:, 2])
    offset = np.stack([u, stones.half[:, 1:2] * up, -v], axis=2)
    return np.asarray(stones.middle[:, None] + offset)


def _coordinates(stones: Stones, bits: Bits, scale: float, points: np.ndarray) -> np.ndarray:
    """(N, V, 2) metres in the ground's picture: a stone's top shows its own, its sides what is a little further in."""
    polar = np.arccos(np.clip(points[:, 1] / np.linalg.norm(points, axis=1), -1, 1)) / (np.pi / 2)
    flat = points[:, [0, 2]] / np.maximum(np.linalg.norm(points[:, [0, 2]], axis=1, keepdims=True), 1e-9)
    out = flat * (_INNER * np.minimum(polar, 2 - polar))[:, None]
    half = bits.half[stones.number].astype(np.float64) * scale
    u, v = _turned(stones, half[:, :1] * out[:, 0], half[:, 1:] * out[:, 1])
    return np.stack([u + stones.middle[:, :1], v - stones.middle[:, 2:]], axis=2)


def add_loose(out: Tables, shot: Shot) -> None:
    """Put the loose stones near a shot's station into the tables."""
    scene, station, reach = shot.scene, shot.station, shot.detail.relief_reach
    eye, half = axes(station)[0], np.tan(np.radians(field_of_view(station.lens)) / 2)
    for number, (material_id, tile) in enumerate(ground_materials(scene)):
        if loose_of(material_id) is None:
            continue
        stones = loose_stones(scene, number, station, shot.aspect, reach)
        if not len(stones):
            continue
        away = np.maximum(np.linalg.norm(stones.middle - eye, axis=1), 0.1)
        pixels = stones.half[:, 0] * shot.size[0] / (away * half)
        bits, scale = loose_bits(scene, material_id), _scale(scene, material_id, tile)
        _put(out, scene, material_id, tile, stone_mesh(stones, bits, scale, pixels))


def _put(out: Tables, scene: Scene, material_id: str, tile: float, mesh: Mesh) -> None:
    plan, material = scene.site.ground, scene.material(material_id)
    falls = scene.site.weather.falls
    covers = out.cover(exposure_map(scene, GROUND, scene.resolution(GROUND), WHOLE)[None]) if falls else {}
    answering = tables.answering(scene.answer(Response(), material_id))
    surface = out.surface(
        **out.picture(material_id, material), **covers,
        flags=tables.MACRO_DRIFT | (tables.OPEN if falls else 0) | answering, tile=tile, metalness=material.metalness,
        least_roughness=SMOOTHEST, depth=material.depth, relief=_RELIEF,
    )  # fmt: skip
    at = mesh.positions[:, [0, 2]] / [plan.width, plan.depth] + 0.5
    out.mesh(mesh, np.full(len(mesh.faces), surface), np.concatenate([at, mesh.uv], axis=1))
