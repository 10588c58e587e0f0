"""A site as a path tracer's scene: flattened ground and pieces, decals, sky. Drifts stand in `vegetation.py`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..decals.project import decal_mesh, stacked
from ..materials.material import linear_to_srgb, srgb_to_linear, to_bytes
from ..mesh.mesh import Mesh
from ..patinas.flatten import flatten
from ..scene.scene import Scene


@dataclass(frozen=True)
class Detail:
    """How fine a proof is."""

    samples: int
    bounces: int
    ground_side: int
    piece_side: int
    lod_scale: float
    guides: int
    half_light: bool
    """Is light traced at half size and lifted by the guides?"""


ROUGH = Detail(samples=1, bounces=3, ground_side=2048, piece_side=1024, lod_scale=0.25, guides=2, half_light=True)
GOOD = Detail(samples=32, bounces=5, ground_side=2048, piece_side=1024, lod_scale=0.9, guides=8, half_light=False)


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
        out[f"owner_{owner}"] = mi_mesh(mi, owner, mesh, mesh.uv2, bsdf)
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
            "base_color": bitmap(mi, to_bytes(linear_to_srgb(linear))[::-1], False),
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
