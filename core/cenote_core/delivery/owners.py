"""Ground and pieces handed over: baked pictures by their unwrap; what is cut out or seen through keeps its own."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..graph.derived import derived
from ..materials.catalogue import is_window
from ..mesh.mesh import Mesh
from ..patinas.bake import bake_maps
from ..patinas.cover import stack
from ..plan import GROUND
from ..scene.scene import Scene
from ..stations.camera import SENSOR
from ..weather.exposure import reached
from .listing import Delivery, Finish, Part
from .pictures import JPEG, PNG, encoded, occlusion_roughness_metal
from .slots import by_slots

TEXEL = 0.012
"""Finest texel of baked pictures, metres."""
_PIXELS = 1920
"""Width of a picture whose pixels a texel need not be finer than, seen from the nearest station."""
_LEAST = 64
_PANE_CLEAR, _PANE_BENDS = 1.0, 1.5
"""Share of the light a pane lets through that it does not mirror, and its index of refraction."""


@derived(lambda scene, owner, side: bake_maps.ref(scene, owner, side), keep="disk")
def _pictures(scene: Scene, owner: str, side: int) -> dict[str, bytes]:
    """An owner's baked pictures as files, top row first."""
    maps = bake_maps(scene, owner, side)
    packed = occlusion_roughness_metal(maps.roughness, maps.metalness)
    return {
        "colour": encoded(maps.colour[::-1], JPEG),
        "surface": encoded(packed[::-1], JPEG),
        "normal": encoded(maps.normal[::-1], PNG),
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


def add_owner(to: Delivery, scene: Scene, owner: str) -> None:
    """The ground or a piece."""
    name, mesh = title_of(scene, owner), scene.mesh(owner)
    to.told(f"surfaces of {name}")
    assert mesh.uv2 is not None
    materials = {s.index: s.material for s in scene.surfaces_of(owner) if not s.layer}
    cut = [slot for slot, used in materials.items() if scene.material(used).alpha is not None]
    panes = [slot for slot, used in materials.items() if is_window(used) and slot not in cut]
    baked = mesh.faces[~np.isin(mesh.slots, cut + panes)]
    parts = []
    if len(baked):
        material = to.material(f"owner {owner}", lambda: _baked(to, scene, owner, name))
        parts.append(Part(mesh, baked, mesh.uv2, material))
    parts += [_pane(to, scene, owner, name, slot, mesh) for slot in panes if (mesh.slots == slot).any()]
    if cut:
        names = [scene.seasonal(materials[slot]) for slot in range(len(mesh.slot_names))]
        response = scene.response(owner) if reached(scene) else None
        parts += by_slots(to, scene, mesh, names, response, np.isin(mesh.slots, cut))
    to.stand(name, parts)


def _baked(to: Delivery, scene: Scene, owner: str, name: str) -> Finish:
    side = max(_LEAST, scene.resolution(owner, to.most, texel_there(scene, owner)))
    files = _pictures(scene, owner, side)
    return Finish(name=name, colour_map=files["colour"], surface_map=files["surface"], normal_map=files["normal"])


def _pane(to: Delivery, scene: Scene, owner: str, name: str, slot: int, mesh: Mesh) -> Part:
    """A pane that is seen through: clear, or with the baked pictures of what lies on it."""
    ref = f"{owner}/{mesh.slot_names[slot]}"
    soiled = reached(scene) or any(use.surface == ref for _, plan in stack(scene, owner) for use in plan.uses)
    title = f"{name}, pane"

    def make() -> Finish:
        own = _baked(to, scene, owner, title) if soiled else Finish(name=title, metalness=0.0, roughness=0.0)
        return replace(own, both_sides=True, transmits=_PANE_CLEAR, bends=_PANE_BENDS)

    assert mesh.uv2 is not None
    material = to.material(f"pane {owner} {soiled}", make)
    return Part(mesh, mesh.faces[mesh.slots == slot], mesh.uv2, material)


def title_of(scene: Scene, owner: str) -> str:
    """What an owner is called in a file."""
    return GROUND if owner == GROUND else scene.piece(owner).name
