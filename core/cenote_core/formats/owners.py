"""Ground and pieces in a GLB: baked pictures by their unwrap; what is cut out or seen through keeps its own."""

from __future__ import annotations

from typing import Any

import numpy as np
import pygltflib as gl

from ..graph.derived import derived
from ..materials.catalogue import is_window
from ..mesh.mesh import Mesh
from ..patinas.bake import bake_maps
from ..patinas.cover import stack
from ..plan import GROUND
from ..scene.scene import Scene
from ..stations.camera import SENSOR
from ..weather.exposure import reached
from .glb import Writer, encoded, occlusion_roughness_metal, primitive
from .scattered import by_slots

TEXEL = 0.012
"""Finest texel of baked pictures, metres."""
_PIXELS = 1920
"""Width of a picture whose pixels a texel need not be finer than, seen from the nearest station."""
_LEAST = 64
_PANE_CLEAR, _PANE_BENDS = 1.0, 1.5
"""Share of the light a pane lets through that it does not mirror, and its index of refraction."""
_TRANSMISSION, _IOR = "KHR_materials_transmission", "KHR_materials_ior"


@derived(lambda scene, owner, side: bake_maps.ref(scene, owner, side), keep="disk")
def _pictures(scene: Scene, owner: str, side: int) -> dict[str, bytes]:
    """An owner's baked pictures as files, top row first."""
    maps = bake_maps(scene, owner, side)
    packed = occlusion_roughness_metal(maps.roughness, maps.metalness)
    return {
        "colour": encoded(maps.colour[::-1], "JPEG"),
        "surface": encoded(packed[::-1], "JPEG"),
        "normal": encoded(maps.normal[::-1], "PNG"),
    }


def texel_there(scene: Scene, owner: str) -> float:
    """Metres a texel need not be finer than: those of a pixel from the station that stands nearest, TEXEL at least."""
    low, high = scene.mesh(owner).bounds()
    seen = []
    for plan in scene.site.stations.values():
        eye = np.asarray(plan.position, float)
        away = float(np.linalg.norm(np.maximum(np.maximum(low - eye, eye - high), 0)))
        seen.append(away * SENSOR / plan.lens / _PIXELS)
    return max(TEXEL, min(seen, default=TEXEL))


def add_owner(out: Writer, scene: Scene, owner: str, name: str, most: int) -> None:
    """The ground or a piece, with pictures of at most so many texels on a side."""
    mesh = scene.mesh(owner)
    assert mesh.uv2 is not None
    materials = {s.index: s.material for s in scene.surfaces() if s.owner == owner and not s.layer}
    cut = [slot for slot, used in materials.items() if scene.material(used).alpha is not None]
    panes = [slot for slot, used in materials.items() if is_window(used) and slot not in cut]
    baked = mesh.faces[~np.isin(mesh.slots, cut + panes)]
    parts = []
    if len(baked):
        number = out.material(f"owner {owner}", lambda: _baked(out, scene, owner, name, most))
        parts.append(primitive(out, mesh, baked, mesh.uv2, number))
    parts += [_pane(out, scene, owner, name, slot, mesh, most) for slot in panes if (mesh.slots == slot).any()]
    if cut:
        names = [scene.seasonal(materials[slot]) for slot in range(len(mesh.slot_names))]
        response = scene.response(owner) if reached(scene) else None
        parts += by_slots(out, scene, mesh, names, response, np.isin(mesh.slots, cut))
    if parts:
        out.node(gl.Node(name=name, mesh=out.mesh(name, parts)))


def _baked(out: Writer, scene: Scene, owner: str, name: str, most: int, **more: Any) -> gl.Material:
    side = max(_LEAST, scene.resolution(owner, most, texel_there(scene, owner)))
    files = _pictures(scene, owner, side)
    return gl.Material(
        name=name,
        pbrMetallicRoughness=gl.PbrMetallicRoughness(
            baseColorTexture=out.picture(files["colour"]), metallicRoughnessTexture=out.picture(files["surface"])
        ),
        normalTexture=out.normal(files["normal"]),
        **more,
    )


def _pane(out: Writer, scene: Scene, owner: str, name: str, slot: int, mesh: Mesh, most: int) -> gl.Primitive:
    """A pane that is seen through: clear, or with the baked pictures of what lies on it."""
    ref = f"{owner}/{mesh.slot_names[slot]}"
    soiled = reached(scene) or any(use.surface == ref for _, plan in stack(scene, owner) for use in plan.uses)
    extensions = {_TRANSMISSION: {"transmissionFactor": _PANE_CLEAR}, _IOR: {"ior": _PANE_BENDS}}
    for extension in extensions:
        out.uses(extension)
    title = f"{name}, pane"

    def clear() -> gl.Material:
        smooth = gl.PbrMetallicRoughness(metallicFactor=0.0, roughnessFactor=0.0)
        return gl.Material(name=title, doubleSided=True, pbrMetallicRoughness=smooth, extensions=extensions)

    def as_baked() -> gl.Material:
        return _baked(out, scene, owner, title, most, doubleSided=True, extensions=extensions)

    number = out.material(f"pane {owner} {soiled}", as_baked if soiled else clear)
    assert mesh.uv2 is not None
    return primitive(out, mesh, mesh.faces[mesh.slots == slot], mesh.uv2, number)


def title_of(scene: Scene, owner: str) -> str:
    """What an owner is called in a file."""
    return GROUND if owner == GROUND else scene.piece(owner).name
