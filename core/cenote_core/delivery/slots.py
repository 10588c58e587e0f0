"""Meshes of the kit, slot by slot in the pictures of their own materials, as the weather leaves them."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from ..mesh.mesh import Mesh
from ..plan import Response
from ..scene.scene import Scene
from .listing import Delivery, Part
from .pictures import plain
from .weathered import Look, looking_up, splits, weathered

_HIDES = 0.8
"""Share of the colours of vertices that what lies on a face hides."""


def by_slots(
    to: Delivery,
    scene: Scene,
    mesh: Mesh,
    materials: list[str],
    response: Response | None,
    on: np.ndarray | None = None,
) -> list[Part]:
    """A part for each slot of a mesh in the pictures of its own material, cut out where that is.

    Parameters
    ----------
    materials : the material of each slot
    response : how it answers to the weather; None where that does not reach it
    on : (F,) bool, the faces that are wanted; None: all
    """
    found = []
    for slot, material_id in enumerate(materials):
        mine = mesh.slots == slot if on is None else (mesh.slots == slot) & on
        source = scene.material(material_id)
        uv = mesh.uv if mesh.base_uv is None else mesh.base_uv
        if source.tile > 0 and not mesh.own_uv:
            uv = mesh.uv / source.tile
        for look, faces in _looks(scene, mesh, mine, source.translucency > 0, response):
            if len(faces):
                material = _material(to, scene, material_id, response, look)
                found.append(Part(mesh, faces, uv, material, _shown(mesh.colour, look)))
    return found


def _looks(
    scene: Scene, mesh: Mesh, mine: np.ndarray, thin: bool, response: Response | None
) -> Iterator[tuple[Look | None, np.ndarray]]:
    """Faces of a slot by how the weather leaves them; one look where it leaves all alike."""
    if response is None:
        yield None, mesh.faces[mine]
    elif not splits(scene):
        yield Look(False), mesh.faces[mine]
    else:
        up = looking_up(mesh.normals[mesh.faces].mean(axis=1), thin)
        yield Look(True), mesh.faces[mine & up]
        yield Look(False), mesh.faces[mine & ~up]


def _material(to: Delivery, scene: Scene, material_id: str, response: Response | None, look: Look | None) -> str:
    if response is None or look is None:
        return to.material(f"kit {material_id}", lambda: plain(material_id, scene.material(material_id), False))
    name = f"{material_id}, {'looking up' if look.up else 'in the weather'}"
    answer = (response.soaks, response.takes_snow, response.takes_frost)
    make = partial(weathered, scene, material_id, response, look)
    return to.material(f"kit {name} {answer}", lambda: plain(name, make(), False))


def _shown(colour: np.ndarray | None, look: Look | None) -> np.ndarray | None:
    """Vertex colours without their fourth value, which is for the wind; paler where something lies on them."""
    if colour is None:
        return None
    seen = colour[:, :3]
    if look is not None and look.up:
        seen = seen + (1.0 - seen) * _HIDES
    return np.column_stack([seen, np.ones(len(colour))])
