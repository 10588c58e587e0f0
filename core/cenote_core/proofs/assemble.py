"""A site as a path tracer's scene: flattened pieces, drifts merged by asset and level of detail, decals, sky."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..decals.project import decal_mesh, stacked
from ..drifts.populate import Instances, populate
from ..drifts.wind import sway_offsets, wind_of
from ..light.sky import make_sky
from ..materials.material import Material, linear_to_srgb, srgb_to_linear, to_bytes
from ..mesh.mesh import Mesh
from ..patinas.flatten import flatten
from ..plan import StationPlan
from ..scene.scene import Scene
from .camera import in_view

LOD_REACH = (22.0, 70.0, 200.0)
"""An instance gets the finest level up to this many of its own heights from the eye, then the next, at last a card."""
TINTS = 3
SHADOW_REACH = 30.0


@dataclass(frozen=True)
class Detail:
    """How fine a proof is."""

    samples: int
    bounces: int
    ground_side: int
    piece_side: int
    lod_scale: float


ROUGH = Detail(samples=4, bounces=3, ground_side=2048, piece_side=1024, lod_scale=0.4)
GOOD = Detail(samples=32, bounces=5, ground_side=2048, piece_side=1024, lod_scale=0.9)


def _bitmap(mi: Any, pixels: np.ndarray, raw: bool, wrap: str = "clamp") -> dict[str, Any]:
    """A texture; Mitsuba reads row 0 at v = 0."""
    data = np.ascontiguousarray(pixels if pixels.ndim == 3 else pixels[..., None])
    return {"type": "bitmap", "bitmap": mi.Bitmap(data), "raw": raw, "wrap_mode": wrap}


def _mi_mesh(
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
        "base_color": _bitmap(mi, colour, False),
        "roughness": _bitmap(mi, np.maximum(rough, 20), True),
        "metallic": _bitmap(mi, metal, True),
        "specular": 0.4,
    }
    return {"type": "twosided", "inner": {"type": "normalmap", "normalmap": _bitmap(mi, normal, True), "inner": inner}}


def _leaf_bsdf(mi: Any, material: Material, tint: np.ndarray, by_vertex: bool) -> dict[str, Any]:
    if by_vertex:
        base: dict[str, Any] = {"type": "mesh_attribute", "name": "vertex_color"}
    else:
        linear = srgb_to_linear(material.colour.astype(np.float32) / 255) * tint.astype(np.float32)
        base = _bitmap(mi, to_bytes(linear_to_srgb(np.clip(linear, 0, 1)))[::-1], False, "repeat")
    rough = float(material.roughness.mean() / 255)
    if material.translucency > 0:
        inner = {
            "type": "principledthin",
            "base_color": base,
            "roughness": max(rough, 0.3),
            "diff_trans": 2 * 0.5 * material.translucency,
            "spec_trans": 0.0,
            "eta": 1.35,
        }
    else:
        inner = {
            "type": "twosided",
            "inner": {"type": "principled", "base_color": base, "roughness": max(rough, 0.1), "specular": 0.4},
        }
    if material.alpha is not None:
        return {"type": "mask", "opacity": _bitmap(mi, material.alpha[::-1], True, "repeat"), "inner": inner}
    return inner


def owner_meshes(mi: Any, scene: Scene, detail: Detail) -> dict[str, Any]:
    """The ground and every piece, flattened."""
    out = {}
    for owner in scene.owners():
        limit = detail.ground_side if owner == "ground" else detail.piece_side
        side = limit if owner == "ground" else min(limit, scene.resolution(owner, 4096) * 2)
        maps = flatten(scene, owner, side)
        mesh = scene.mesh(owner)
        assert mesh.uv2 is not None
        bsdf = _solid_bsdf(mi, maps.colour, maps.roughness, maps.metalness, maps.normal)
        out[f"owner_{owner}"] = _mi_mesh(mi, owner, mesh, mesh.uv2, bsdf)
    return out


def _levels(
    scene: Scene,
    station: StationPlan,
    aspect: float,
    instances: Instances,
    heights: np.ndarray,
    lods: list[int],
    detail: Detail,
) -> np.ndarray:
    """(N,) level of detail of each instance, −1 for those that neither show nor throw shadow into view."""
    eye = np.asarray(station.position)
    tall = heights[instances.asset] * instances.scale
    distance = np.linalg.norm(instances.position - eye, axis=1)
    relative = distance / np.maximum(tall, 0.05) / detail.lod_scale
    level = np.searchsorted(LOD_REACH, relative)
    seen = in_view(station, aspect, instances.position, 1.0) | in_view(
        station, aspect, instances.position, 0.5 + 1.2 * float(tall.max(initial=0))
    )
    shades = (tall > 1.0) & (distance < SHADOW_REACH)
    level = np.minimum(level, np.array(lods)[instances.asset] - 1)
    return np.where(seen | shades, level, -1)


def drift_meshes(mi: Any, scene: Scene, station: StationPlan, aspect: float, detail: Detail) -> dict[str, Any]:
    """Every visible drift, its instances merged by asset, level of detail and group of tint."""
    out = {}
    for key, plan in sorted(scene.site.drifts.items()):
        if not plan.visible or not plan.assets:
            continue
        instances = populate(scene, key, plan)
        assets = [scene.kit.asset(share.asset) for share in plan.assets]
        heights = np.array([float(np.ptp(a.lods[0].positions, axis=0).max()) for a in assets])
        level = _levels(scene, station, aspect, instances, heights, [len(a.lods) for a in assets], detail)
        for number, asset in enumerate(assets):
            for lod, mesh in enumerate(asset.lods):
                chosen = np.flatnonzero((instances.asset == number) & (level == lod))
                if len(chosen):
                    out.update(_merged(mi, scene, f"{key}_{number}_{lod}", asset.materials, mesh, instances, chosen))
    return out


def rotated(quaternion: np.ndarray, vectors: np.ndarray) -> np.ndarray:
    """(N, 4) rotations applied to (V, 3) vectors → (N, V, 3)."""
    x, y, z, w = (quaternion[:, k, None] for k in range(4))
    matrix = np.stack(
        [
            np.concatenate([1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)], 1),
            np.concatenate([2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)], 1),
            np.concatenate([2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)], 1),
        ],
        axis=1,
    )
    return np.matmul(vectors[None].astype(np.float32), matrix.transpose(0, 2, 1).astype(np.float32))


def _merged(
    mi: Any, scene: Scene, name: str, materials: dict[str, str], mesh: Mesh, instances: Instances, chosen: np.ndarray
) -> dict[str, Any]:
    out = {}
    wind = wind_of(scene.site.weather)
    top = float(mesh.bounds()[1][1])
    group = (np.argsort(np.argsort(instances.tint[chosen].sum(axis=1))) * TINTS) // len(chosen)
    for slot, slot_name in enumerate(mesh.slot_names):
        material = scene.kit.material(scene.seasonal(materials.get(slot_name, "concrete")))
        faces = mesh.faces[mesh.slots == slot]
        used, local = np.unique(faces.ravel(), return_inverse=True)
        if len(used) == 0:
            continue
        by_vertex = slot_name == "blade" and mesh.colour is not None
        for tint_group in [None] if by_vertex else range(TINTS):
            members = chosen if tint_group is None else chosen[group == tint_group]
            if len(members) == 0:
                continue
            turned = rotated(instances.rotation[members], mesh.positions[used]) * instances.scale[members, None, None]
            turned = turned + instances.position[members, None, :]
            if mesh.sway is not None and wind.speed > 0:
                tall = (top * instances.scale[members]).astype(np.float64)
                turned += sway_offsets(wind, instances.position[members], tall, mesh.sway[used])
            positions = turned.reshape(-1, 3)
            normals = rotated(instances.rotation[members], mesh.normals[used]).reshape(-1, 3)
            indices = (local.reshape(-1, 3)[None] + np.arange(len(members))[:, None, None] * len(used)).reshape(-1, 3)
            uv = np.tile(mesh.uv[used], (len(members), 1))
            if not mesh.own_uv and material.tile > 0:
                uv = uv / material.tile
            colour = None
            if by_vertex and mesh.colour is not None:
                colour = (mesh.colour[None, used, :3] * instances.tint[members, None, :]).reshape(-1, 3)
            merged = Mesh(
                positions.astype(np.float32),
                indices.astype(np.int32),
                normals.astype(np.float32),
                uv,
                np.zeros(len(indices), np.int32),
            )
            bsdf = _leaf_bsdf(mi, material, instances.tint[members].mean(axis=0), by_vertex)
            full = f"{name}_{slot}_{tint_group}"
            out[full] = _mi_mesh(mi, full, merged, uv, bsdf, colour)
    return out


def decal_meshes(mi: Any, scene: Scene) -> dict[str, Any]:
    """Decals as thin meshes; higher ones lie a little farther out."""
    out = {}
    for order, (key, plan) in enumerate(stacked(scene)):
        mesh = decal_mesh(scene, plan)
        if mesh is None or mesh.colour is None:
            continue
        material = scene.kit.material(plan.picture)
        tint = srgb_to_linear(np.array([int(plan.tint[k : k + 2], 16) / 255 for k in (1, 3, 5)], np.float32))
        linear = srgb_to_linear(material.colour.astype(np.float32) / 255) * tint
        inner = {
            "type": "principled",
            "base_color": _bitmap(mi, to_bytes(linear_to_srgb(linear))[::-1], False),
            "roughness": _bitmap(mi, np.maximum(material.roughness, 20)[::-1], True),
        }
        inner = {
            "type": "twosided",
            "inner": {"type": "normalmap", "normalmap": _bitmap(mi, material.normal[::-1], True), "inner": inner},
        }
        alpha = np.full(material.colour.shape[:2], 255, np.uint8) if material.alpha is None else material.alpha
        bsdf = {
            "type": "mask",
            "opacity": _bitmap(mi, to_bytes(alpha.astype(np.float32) / 255 * plan.opacity)[::-1], True),
            "inner": inner,
        }
        lifted = Mesh(mesh.positions + mesh.normals * 0.0008 * order, mesh.faces, mesh.normals, mesh.uv, mesh.slots)
        out[f"decal_{key}"] = _mi_mesh(mi, key, lifted, mesh.uv, bsdf)
    return out


def lights(mi: Any, scene: Scene) -> dict[str, Any]:
    """Sky picture and sun."""
    sky = make_sky(scene.site.light)
    # Mitsuba's environment starts at −z and goes toward +x, as our picture does.
    return {
        "sky": {"type": "envmap", "bitmap": mi.Bitmap(np.ascontiguousarray(sky.image))},
        "sun": {
            "type": "directional",
            "direction": (-sky.sun_direction).tolist(),
            "irradiance": {"type": "rgb", "value": sky.sun_colour.tolist()},
        },
    }
