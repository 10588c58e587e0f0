"""A site as a path tracer's scene: flattened ground and pieces, decals, sky. Drifts stand in `vegetation.py`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..decals.project import decal_mesh, stacked
from ..materials.material import srgb_to_linear, tinted, to_bytes
from ..mesh.mesh import Mesh, points_on
from ..patinas.flatten import FlatMaps, flatten, flatten_ground
from ..plan import GroundPlan, StationPlan
from ..scene.scene import GROUND, Scene
from .camera import axes, field_of_view, in_view


@dataclass(frozen=True)
class Detail:
    """How fine a proof is."""

    samples: int
    bounces: int
    ground_side: int
    """Texels along a side of the ground's maps: of the whole sheet, and of what lies before the camera."""
    piece_side: int
    """Texels along a side of a piece's maps, at most."""
    lod_scale: float
    guides: int
    half_light: bool
    """Is light traced at half size and lifted by the guides?"""


ROUGH = Detail(samples=1, bounces=3, ground_side=1024, piece_side=2048, lod_scale=0.15, guides=2, half_light=True)
GOOD = Detail(samples=32, bounces=5, ground_side=2048, piece_side=4096, lod_scale=0.9, guides=8, half_light=False)


def bitmap(mi: Any, pixels: np.ndarray, raw: bool, wrap: str = "clamp") -> dict[str, Any]:
    """A texture; Mitsuba reads row 0 at v = 0."""
    data = np.ascontiguousarray(pixels if pixels.ndim == 3 else pixels[..., None])
    return {"type": "bitmap", "bitmap": mi.Bitmap(data), "raw": raw, "wrap_mode": wrap}


def mi_mesh(
    mi: Any, name: str, mesh: Mesh, uv: np.ndarray, bsdf: dict[str, Any], colour: np.ndarray | None = None
) -> Any:
    props = mi.Properties()
    props["bsdf"] = mi.load_dict(bsdf)
    made = mi.Mesh(
        name, len(mesh.positions), len(mesh.faces), has_vertex_normals=True, has_vertex_texcoords=True, props=props
    )
    if colour is not None:
        made.add_attribute("vertex_color", 3, np.ascontiguousarray(colour, np.float32).ravel())
    params = mi.traverse(made)
    params["vertex_positions"] = mi.Float(np.ascontiguousarray(mesh.positions, np.float32).ravel())
    params["vertex_normals"] = mi.Float(np.ascontiguousarray(mesh.normals, np.float32).ravel())
    params["vertex_texcoords"] = mi.Float(np.ascontiguousarray(uv, np.float32).ravel())
    params["faces"] = mi.UInt32(np.ascontiguousarray(mesh.faces, np.uint32).ravel())
    params.update()
    return made


def _solid_bsdf(
    mi: Any, colour: np.ndarray, rough: np.ndarray, metal: np.ndarray, normal: np.ndarray
) -> dict[str, Any]:
    """Principled surface from flattened maps."""
    inner = {
        "type": "principled",
        "base_color": bitmap(mi, colour, False),
        "roughness": bitmap(mi, np.maximum(rough, 20), True),
        "metallic": bitmap(mi, metal, True),
        "specular": 0.4,
    }
    return {"type": "twosided", "inner": {"type": "normalmap", "normalmap": bitmap(mi, normal, True), "inner": inner}}


def _flattened(mi: Any, name: str, mesh: Mesh, uv: np.ndarray, maps: FlatMaps) -> Any:
    return mi_mesh(mi, name, mesh, uv, _solid_bsdf(mi, maps.colour, maps.roughness, maps.metalness, maps.normal))


_LEAST_SIDE = 128
_PROBES = 4000
_USED = 0.67
"""Share of a map that its charts cover."""


def map_side(mesh: Mesh, station: StationPlan, size: tuple[int, int], most: int) -> int:
    """Texels along a side of a piece's maps, a power of two: as fine as the picture's pixels where it is nearest.

    What is out of view only gives off light, and needs few.

    Parameters
    ----------
    size : width and height of the picture, pixels
    most : a power of two
    """
    areas = mesh.face_areas()
    area = float(areas.sum())
    if area <= 0:
        return _LEAST_SIDE
    rng = np.random.default_rng(1)
    probes = points_on(
        mesh, rng.choice(len(areas), _PROBES, p=areas / area), _folded(rng.random((_PROBES, 2)))
    ).positions
    seen = probes[in_view(station, size[0] / size[1], probes, 0.05)]
    if len(seen) == 0:
        return _LEAST_SIDE
    distance = float(np.linalg.norm(seen - np.asarray(station.position), axis=1).min())
    pixel = 2 * np.tan(np.radians(field_of_view(station.lens)) / 2) / size[0] * max(distance, 0.1)
    return int(np.clip(2 ** np.ceil(np.log2(np.sqrt(area / _USED) / pixel)), _LEAST_SIDE, most))


_ROOM = 6 * 4096**2
"""Texels that the maps of all pieces together may have, at most; the tracer takes 26 bytes for each (measured)."""
_ALWAYS = 1024


def within_room(sides: list[int], room: int = _ROOM) -> list[int]:
    """Sides of maps, the largest halved until all fit: many pieces may be near. None goes below what any may have."""
    out = list(sides)
    while sum(side * side for side in out) > room and max(out) > _ALWAYS:
        largest = max(out)
        out = [side // 2 if side == largest else side for side in out]
    return out


def _folded(bary: np.ndarray) -> np.ndarray:
    """Points of the unit square beyond its diagonal folded back onto the triangle."""
    return np.where(bary.sum(axis=1, keepdims=True) > 1, 1 - bary, bary)


def owner_meshes(mi: Any, scene: Scene, station: StationPlan, size: tuple[int, int], detail: Detail) -> dict[str, Any]:
    """The ground and every piece, flattened."""
    out = ground_meshes(mi, scene, station, detail)
    pieces = scene.owners()[1:]
    sides = within_room([map_side(scene.mesh(owner), station, size, detail.piece_side) for owner in pieces])
    for owner, side in zip(pieces, sides, strict=True):
        mesh = scene.mesh(owner)
        assert mesh.uv2 is not None
        maps = flatten(scene, owner, side)
        out[f"owner_{owner}"] = _flattened(mi, owner, mesh, mesh.uv2, maps)
    return out


def before_camera(ground: GroundPlan, station: StationPlan, side: float) -> tuple[np.ndarray, np.ndarray]:
    """Least and greatest x and z of a square of the ground before the camera, metres; all of it where it is small."""
    half = np.array([ground.width, ground.depth]) / 2
    eye, _, _, forward = axes(station)
    ahead = forward[[0, 2]] / max(float(np.hypot(forward[0], forward[2])), 1e-6)
    room = np.maximum(half - side / 2, 0.0)
    middle = np.clip(eye[[0, 2]] + ahead * 0.42 * side, -room, room)
    return np.maximum(middle - side / 2, -half), np.minimum(middle + side / 2, half)


SQUARES = (12.0, 36.0)
"""Metres along a side of the parts of the ground that have maps of their own, before the camera, the nearest first."""


def ground_meshes(mi: Any, scene: Scene, station: StationPlan, detail: Detail) -> dict[str, Any]:
    """The ground in parts: squares before the camera, each with maps of its own, and the rest."""
    mesh = scene.mesh(GROUND)
    assert mesh.uv2 is not None
    middles = mesh.positions[mesh.faces].mean(axis=1)[:, [0, 2]]
    rest = np.ones(len(mesh.faces), bool)
    out = {}
    for number, side in enumerate(SQUARES):
        low, high = before_camera(scene.site.ground, station, side)
        here = rest & ((middles >= low) & (middles <= high)).all(axis=1)
        if not here.any():
            continue
        rest &= ~here
        # Faces at the rim reach a little farther than their middles.
        corners = mesh.positions[mesh.faces[here]].reshape(-1, 3)[:, [0, 2]]
        low, high = corners.min(axis=0), corners.max(axis=0)
        maps = flatten_ground(scene, (low[0], low[1]), (high[0], high[1]), detail.ground_side)
        part = _faces_of(mesh, here)
        uv = (part.positions[:, [0, 2]] - low) / (high - low)
        out[f"owner_square_{number}"] = _flattened(mi, f"square {number}", part, uv, maps)
    if rest.any():
        part = _faces_of(mesh, rest)
        assert part.uv2 is not None
        out["owner_ground"] = _flattened(mi, GROUND, part, part.uv2, flatten(scene, GROUND, detail.ground_side))
    return out


def _faces_of(mesh: Mesh, which: np.ndarray) -> Mesh:
    """Some of the faces, with the vertices they need."""
    used, faces = np.unique(mesh.faces[which], return_inverse=True)
    uv2 = None if mesh.uv2 is None else mesh.uv2[used]
    faces = faces.reshape(-1, 3).astype(np.int32)
    return Mesh(
        mesh.positions[used], faces, mesh.normals[used], mesh.uv[used], mesh.slots[which], mesh.slot_names, uv2=uv2
    )


def decal_meshes(mi: Any, scene: Scene) -> dict[str, Any]:
    """Decals as thin meshes; higher ones lie a little farther out."""
    out = {}
    for order, (key, plan) in enumerate(stacked(scene)):
        mesh = decal_mesh(scene, plan)
        if mesh is None or mesh.colour is None:
            continue
        material = scene.kit.material(plan.picture)
        tint = srgb_to_linear(np.array([int(plan.tint[k : k + 2], 16) / 255 for k in (1, 3, 5)], np.float32))
        inner = {
            "type": "principled",
            "base_color": bitmap(mi, tinted(material.colour, tint)[::-1], False),
            "roughness": bitmap(mi, np.maximum(material.roughness, 20)[::-1], True),
        }
        inner = {
            "type": "twosided",
            "inner": {"type": "normalmap", "normalmap": bitmap(mi, material.normal[::-1], True), "inner": inner},
        }
        alpha = np.full(material.colour.shape[:2], 255, np.uint8) if material.alpha is None else material.alpha
        bsdf = {
            "type": "mask",
            "opacity": bitmap(mi, to_bytes(alpha.astype(np.float32) / 255 * plan.opacity)[::-1], True),
            "inner": inner,
        }
        lifted = Mesh(mesh.positions + mesh.normals * 0.0008 * order, mesh.faces, mesh.normals, mesh.uv, mesh.slots)
        out[f"decal_{key}"] = mi_mesh(mi, key, lifted, mesh.uv, bsdf)
    return out


def lights(mi: Any, scene: Scene) -> dict[str, Any]:
    """Sky picture and sun."""
    sky = scene.sky()
    # Mitsuba's environment starts at −z and goes toward +x, as our picture does.
    return {
        "sky": {"type": "envmap", "bitmap": mi.Bitmap(np.ascontiguousarray(sky.image))},
        "sun": {
            "type": "directional",
            "direction": (-sky.sun_direction).tolist(),
            "irradiance": {"type": "rgb", "value": sky.sun_colour.tolist()},
        },
    }
