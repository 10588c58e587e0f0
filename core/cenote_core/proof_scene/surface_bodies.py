"""Shoots of moss and flakes of paint near the eye, as bodies of their own.

They stand on the relief that is already geometry, where the whole stack shows their patina, in its own colours, and
grow out of the picture with nearness: none where one would be a pixel or two.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..hashing import uniform
from ..materials.catalogue import CATALOGUE
from ..materials.standing import Flakes, Shoots, Standing
from ..materials.tile import linear_colour
from ..mesh.mesh import Mesh
from ..mesh.strewn import strewn
from ..mesh.texels import sample_map
from ..patinas.cover import saved_covers, stack
from ..patinas.heights import layer_tile
from ..plan import GROUND, PatinaPlan
from ..scene.scene import Scene
from ..stations.camera import axes, field_of_view, in_view
from ..tracer import tables
from ..tracer.tables import Triangles
from .pages import near_page
from .stacked import Spots, covers_there, stack_there
from .tables import SMOOTHEST, Shot, Tables

_NONE, _FULL = 2.0, 4.5
"""Pixels of height under which a body is not drawn, and from which it has its full size."""
_SHOWS = 0.6
"""Shoots stand where their patina shows so much."""
_RIM = 0.45
"""Flakes stand on what is still covered where so much more is bare a flake's width away, or where they come off anyway."""
_LOWEST = 0.3
"""Size of shoots at the edge of a cushion, against those in its middle."""
_LOOKED_AT = 8
"""So many times as many places are looked at as bodies may be drawn."""
_UPWARD = 0.55
"""How far shoots on a wall turn up toward the light."""
_SUNK = 0.2
"""Share of its height a body starts below the surface."""


@dataclass(frozen=True)
class Bodies:
    """Bodies to be drawn.

    Attributes
    ----------
    at : (N, 3) metres, their feet
    up, side : (N, 3) unit vectors
    size : (N,) against the full one
    uv : (N, 2) float32, metres in their picture
    uv2 : (N, 2) float32, in the unwrap
    slots : (N,) the surface beneath
    face : (N,) the face of the mesh beneath
    """

    at: np.ndarray
    up: np.ndarray
    side: np.ndarray
    size: np.ndarray
    uv: np.ndarray
    uv2: np.ndarray
    slots: np.ndarray
    face: np.ndarray

    def __len__(self) -> int:
        return len(self.at)

    def only(self, keep: np.ndarray) -> Bodies:
        """Those that `keep` picks."""
        return Bodies(*(getattr(self, name)[keep] for name in self.__dataclass_fields__))


def add_standing(out: Tables, shot: Shot, owners: list[str]) -> None:
    """Put the bodies of all patinas on some owners that stand near a shot's station into the tables."""
    for owner in owners:
        for number, (_, plan) in enumerate(stack(shot.scene, owner)):
            stands = stands_of(plan)
            if stands is None or plan.finish.body <= 0:
                continue
            bodies = bodies_on(shot, owner, number, plan, stands)
            if len(bodies):
                _put(out, shot.scene, owner, plan, stands, bodies)


def stands_of(plan: PatinaPlan) -> Standing | None:
    """What stands up from a patina's material."""
    recipe = CATALOGUE.get(plan.finish.material)
    return recipe.stands if recipe else None


def bodies_on(shot: Shot, owner: str, number: int, plan: PatinaPlan, stands: Standing) -> Bodies:
    """The bodies of one patina of an owner's stack."""
    mesh, scene = shot.meshes[owner], shot.scene
    eye = axes(shot.station)[0]
    pixel = 2 * np.tan(np.radians(field_of_view(shot.station.lens)) / 2) / shot.size[0]
    reach = stands.tall / (_NONE * pixel)
    wanted = plan.finish.body / stands.apart**2
    # Most of what is near carries none of it, and no more is looked at than could be drawn several times over.
    faces = _carrying(mesh, _near(mesh, shot, eye, reach), saved_covers(scene, owner)[number])
    faces = _nearest_faces(mesh, faces, eye, _LOOKED_AT * shot.detail.standing_most / wanted)
    bodies, spots = _scattered(mesh, faces, wanted)
    away = np.linalg.norm(bodies.at - eye, axis=1)
    t = np.clip((stands.tall / np.maximum(away * pixel, 1e-9) - _NONE) / (_FULL - _NONE), 0, 1)
    covers = covers_there(
        scene, owner, near_page(scene, owner, shot.station, shot.detail.relief_reach, shot.detail.page_side), spots.uv2
    )
    shows = _shows(scene, owner, spots, covers, number)
    if isinstance(stands, Flakes):
        bare = _bare_around(scene, owner, spots, covers, number, stands.wide)
        steep = np.linalg.norm(bare, axis=1)
        lies = (shows < 0.5) & (np.maximum(steep, 1.2 * shows) > _RIM)
        bodies = replace(bodies, side=_along(mesh, bodies, bare))
    else:
        lies = shows > _SHOWS
        # Lower toward the edge of a cushion.
        t = t * (_LOWEST + (1 - _LOWEST) * np.clip((shows - _SHOWS) / (1 - _SHOWS), 0, 1))
    if owner != GROUND:
        surfaces = {use.surface for use in plan.uses}
        carries = [s.index for s in scene.surfaces_of(owner) if s.ref in surfaces]
        lies &= np.isin(bodies.slots, carries)
    bodies = replace(bodies, size=bodies.size * t).only(lies & (t > 0.05))
    return bodies.only(_nearest(bodies, eye, shot.detail.standing_most))


def _shows(
    scene: Scene, owner: str, spots: Spots, covers: list[tuple[PatinaPlan, np.ndarray]], number: int
) -> np.ndarray:
    """(N,) how far one patina of a stack is seen: as far as it lies there and no other lies on it."""
    _, amounts = stack_there(scene, owner, spots, [(plan, np.array(values)) for plan, values in covers])
    shows = amounts[number]
    for above in amounts[number + 1 :]:
        shows = shows * (1 - above)
    return shows


def _bare_around(
    scene: Scene, owner: str, spots: Spots, covers: list[tuple[PatinaPlan, np.ndarray]], number: int, step: float
) -> np.ndarray:
    """(N, 2) how much more of a patina is seen a step along u and along v than a step back."""
    out = np.zeros((len(spots.uv), 2))
    for axis in (0, 1):
        for way in (1.0, -1.0):
            shift = np.zeros(2, np.float32)
            shift[axis] = way * step
            moved = replace(spots, uv=spots.uv + shift, base_uv=spots.base_uv + shift)
            out[:, axis] += way * _shows(scene, owner, moved, covers, number)
    return out


def _along(mesh: Mesh, bodies: Bodies, toward: np.ndarray) -> np.ndarray:
    """(N, 3) unit vectors in the surface that run as `toward` (N, 2) does in its picture."""
    corner = mesh.faces[bodies.face]
    edges = (mesh.positions[corner[:, 1:]] - mesh.positions[corner[:, :1]]).astype(np.float64)
    grown = (mesh.uv[corner[:, 1:]] - mesh.uv[corner[:, :1]]).astype(np.float64)
    # Edges as sums of the directions of u and v.
    det = grown[:, 0, 0] * grown[:, 1, 1] - grown[:, 0, 1] * grown[:, 1, 0]
    det = np.where(np.abs(det) < 1e-14, 1e-14, det)[:, None]
    u = (edges[:, 0] * grown[:, 1, 1:] - edges[:, 1] * grown[:, 0, 1:]) / det
    v = (edges[:, 1] * grown[:, 0, :1] - edges[:, 0] * grown[:, 1, :1]) / det
    out = u * toward[:, :1] + v * toward[:, 1:]
    length = np.linalg.norm(out, axis=1, keepdims=True)
    return np.where(length > 1e-6, out / np.maximum(length, 1e-9), bodies.side)


def _near(mesh: Mesh, shot: Shot, eye: np.ndarray, reach: float) -> np.ndarray:
    """Numbers of the faces near an eye, in its view and turned to it."""
    corners = mesh.positions[mesh.faces]
    middle = corners.mean(axis=1)
    near = np.linalg.norm(middle - eye, axis=1) < reach
    near[near] = in_view(shot.station, shot.aspect, middle[near], 0.02)
    return np.flatnonzero(near)


def _carrying(mesh: Mesh, faces: np.ndarray, cover: np.ndarray) -> np.ndarray:
    """Those faces on which a cover (R, R) lies at a corner or in the middle."""
    assert mesh.uv2 is not None
    corners = mesh.uv2[mesh.faces[faces]]
    at = np.concatenate([corners, corners.mean(axis=1, keepdims=True)], axis=1).reshape(-1, 2)
    return faces[(np.asarray(sample_map(cover, at)).reshape(-1, 4) > 0).any(axis=1)]


def _nearest_faces(mesh: Mesh, faces: np.ndarray, eye: np.ndarray, area: float) -> np.ndarray:
    """The faces nearest to the eye that come to an area, square metres, in their order."""
    corners = mesh.positions[mesh.faces[faces]].astype(np.float64)
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    order = np.argsort(np.linalg.norm(corners.mean(axis=1) - eye, axis=1), kind="stable")
    return np.sort(faces[order[np.cumsum(areas[order]) - areas[order] < area]])


def _scattered(mesh: Mesh, faces: np.ndarray, density: float) -> tuple[Bodies, Spots]:
    """Places on faces, `density` a square metre, each with a turn and a size of its own."""
    face, weights, name = strewn(mesh, faces, density, 1)
    corner = mesh.faces[face]
    blend = lambda values: np.einsum("nk,nkc->nc", weights, values[corner])  # noqa: E731
    assert mesh.uv2 is not None
    single = lambda values: np.ascontiguousarray(blend(values), np.float32)  # noqa: E731
    at, normal, uv, uv2 = blend(mesh.positions), blend(mesh.normals), single(mesh.uv), single(mesh.uv2)
    base_uv = uv if mesh.base_uv is None else single(mesh.base_uv)
    slots = mesh.slots[face].astype(np.int32)
    up = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
    turn = uniform(name, 4) * 2 * np.pi
    other = np.where(np.abs(up[:, :1]) < 0.7, [[1.0, 0.0, 0.0]], [[0.0, 0.0, 1.0]])
    first = np.cross(up, other)
    first /= np.linalg.norm(first, axis=1, keepdims=True)
    side = first * np.cos(turn)[:, None] + np.cross(up, first) * np.sin(turn)[:, None]
    size = 0.6 + 0.7 * uniform(name, 5)
    return Bodies(at, up, side, size, uv, uv2, slots, face), Spots(at, uv, uv2, base_uv, slots)


def _nearest(bodies: Bodies, eye: np.ndarray, most: int) -> np.ndarray:
    """Numbers of the bodies that are drawn if there are too many: those nearest to the eye."""
    if len(bodies) <= most:
        return np.arange(len(bodies))
    away = np.linalg.norm(bodies.at - eye, axis=1)
    return np.sort(np.argpartition(away, most)[:most])


def shoot() -> tuple[np.ndarray, np.ndarray]:
    """A leafy shoot: (27, 3) places, width and height 1, and (27,) how bright; each three are a leaflet."""
    places, bright = [], []
    for level in range(3):
        for k in range(3):
            angle = 2 * np.pi * (k / 3 + level * 0.19)
            along = np.array([np.cos(angle), 0, np.sin(angle)])
            across = np.array([-np.sin(angle), 0, np.cos(angle)])
            foot, reach = 0.28 * level, 0.5 - 0.13 * level
            root = np.array([0, foot, 0]) + 0.06 * along
            places += [root - 0.13 * across, root + 0.13 * across, np.array([0, foot + 0.42, 0]) + reach * along]
            bright += [0.75 + 0.15 * level, 0.75 + 0.15 * level, 1.25 + 0.15 * level]
    return np.array(places), np.array(bright)


_FLAKE_FACES = np.array([[0, 3, 1], [1, 3, 4], [1, 4, 2], [2, 4, 5], [3, 6, 4], [4, 6, 7], [4, 7, 5], [5, 7, 8]])
_GRID = np.array([[x, z] for x in (-1.0, 0.0, 1.0) for z in (-1.0, 0.0, 1.0)])


def flake(bodies: Bodies) -> tuple[np.ndarray, np.ndarray]:
    """(N, 9, 3) places of flakes that curl up from one side, no two of one outline, and (9,) how bright."""
    name = np.abs(bodies.at).sum(axis=1).view(np.uint64)
    ragged = np.stack([uniform(name, 10 + k) for k in range(9)], axis=1) - 0.5
    x = 0.5 * _GRID[:, 0] + 0.3 * ragged
    z = 0.5 * _GRID[:, 1] * (0.55 + 0.6 * uniform(name, 30))[:, None] + 0.25 * ragged[:, ::-1]
    lift = (x + 0.6).clip(0) ** 2 * (0.5 + 0.6 * uniform(name, 31))[:, None]
    return np.stack([x, lift, z], axis=2), np.array([0.9, 0.9, 0.9, 1, 1, 1, 1.1, 1.1, 1.1])


def _placed(stands: Standing, bodies: Bodies) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """(N, V, 3) places, (N, V, 3) offsets along the body, (F, 3) faces of one, (V,) how bright."""
    if isinstance(stands, Shoots):
        places, bright = shoot()
        local = np.broadcast_to(places, (len(bodies), *places.shape))
        faces = np.arange(len(places)).reshape(-1, 3)
        up = bodies.up + _UPWARD * (1 - np.abs(bodies.up[:, 1:2])) * np.array([0, 1.0, 0])
        up = up / np.linalg.norm(up, axis=1, keepdims=True)
    else:
        local, bright = flake(bodies)
        faces, up = _FLAKE_FACES, bodies.up
    third = np.cross(bodies.side, up)
    scale = bodies.size[:, None]
    offset = (
        bodies.side[:, None] * (local[..., 0] * stands.wide * scale)[..., None]
        + up[:, None] * ((local[..., 1] - _SUNK) * stands.tall * scale)[..., None]
        + third[:, None] * (local[..., 2] * stands.wide * scale)[..., None]
    )
    return bodies.at[:, None] + offset, local, faces, bright


def _put(out: Tables, scene: Scene, owner: str, plan: PatinaPlan, stands: Standing, bodies: Bodies) -> None:
    """Shoots in the colours of their patina, flakes in those of the paint they are of."""
    if isinstance(stands, Shoots):
        tint = linear_colour(plan.finish.tint)
        material = plan.finish.material
        _put_all(out, scene, material, layer_tile(plan, scene.material(material).tile), tint, stands, bodies)
        return
    for surface in scene.surfaces():
        if surface.owner == owner and not surface.layer:
            tile = scene.material(surface.material).tile
            of_it = bodies.only(bodies.slots == surface.index)
            if len(of_it) and tile > 0:
                _put_all(out, scene, surface.material, tile, np.ones(3), stands, of_it)


def _put_all(
    out: Tables, scene: Scene, material_id: str, tile: float, tint: np.ndarray, stands: Standing, bodies: Bodies
) -> None:
    places, local, faces, bright = _placed(stands, bodies)
    count, size = places.shape[:2]
    corners = places[:, faces]
    normals = np.cross(corners[:, :, 1] - corners[:, :, 0], corners[:, :, 2] - corners[:, :, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-12)
    normals *= np.sign((normals * bodies.up[:, None]).sum(axis=2, keepdims=True) + 1e-9)
    # Lit as a soft whole: half by their own sides, half by what they stand on.
    of_vertex = np.zeros((count, size, 3))
    for number, face in enumerate(faces):
        of_vertex[:, face] += normals[:, number, None]
    of_vertex = of_vertex / np.maximum(np.linalg.norm(of_vertex, axis=2, keepdims=True), 1e-9) + bodies.up[:, None]
    of_vertex /= np.maximum(np.linalg.norm(of_vertex, axis=2, keepdims=True), 1e-9)
    uv = bodies.uv[:, None] + (local[..., [0, 2]] * stands.wide * 0.25).astype(np.float32)
    colour = np.broadcast_to(bright[None, :, None] * tint, (count, size, 3)).reshape(-1, 3)
    material = scene.material(material_id)
    surface = out.surface(
        **out.picture(material_id, material), flags=0, tile=tile, metalness=material.metalness,
        least_roughness=SMOOTHEST, depth=material.depth, relief=0.0,
    )  # fmt: skip
    vertices = tables.packed_vertices(uv.reshape(-1, 2), of_vertex.reshape(-1, 3), colour)
    all_faces = np.full((count, len(faces), 4), surface, np.uint32)
    all_faces[..., :3] = faces[None] + (np.arange(count) * size)[:, None, None]
    out.parts.append(Triangles(places.reshape(-1, 3).astype(np.float32), vertices, all_faces.reshape(-1, 4)))
