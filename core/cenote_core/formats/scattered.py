"""Drifts in a GLB: instances of assets, and a row of each in a table."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import product
from typing import Any

import numpy as np
import pygltflib as gl

from ..drifts.headroom import under_roofs
from ..drifts.instances import Instances
from ..drifts.instancing import saved
from ..drifts.wind import leaned, wind_of
from ..drifts.worn_colours import carries_any, worn_colours
from ..mesh.mesh import Mesh
from ..plan import DriftPlan, Response
from ..scene.scene import Scene
from ..weather.exposure import reached
from .glb import Writer, plain_material, primitive
from .weathered import Look, looking_up, splits, weathered

INSTANCING = "EXT_mesh_gpu_instancing"
COLUMNS = ["drift", "asset", "identity", "x", "y", "z", "qx", "qy", "qz", "qw", "scale"]
COLUMNS += ["tint_r", "tint_g", "tint_b", "mirrored"]
_HIDES = 0.8
"""Share of the colours of vertices that what lies on a face hides."""


@dataclass
class Scattered:
    """What has been written of a site's drifts."""

    count: int = 0
    rows: list[tuple[Any, ...]] = field(default_factory=list)
    meshes: dict[tuple[Any, ...], int] = field(default_factory=dict)


def add_drifts(out: Writer, scene: Scene) -> Scattered:
    """Every visible drift; what stands under roofs apart from what the weather reaches."""
    done = Scattered()
    for key, plan in sorted(scene.site.drifts.items()):
        if not plan.visible or not plan.assets:
            continue
        found = saved(scene, key, plan)
        done.count += len(found)
        for (number, share), mirrored in product(enumerate(plan.assets), (False, True)):
            chosen = np.flatnonzero((found.asset == number) & (found.mirrored == mirrored))
            if len(chosen) == 0:
                continue
            some = found.taken(chosen)
            done.rows += _rows(plan.name, share.asset, some)
            for reached_there, part in _by_roofs(scene, share.asset, some):
                mesh = _mesh(out, scene, key, plan, share.asset, mirrored, reached_there, done.meshes)
                out.node(_node(out, scene, f"{plan.name}: {share.asset}", mesh, part))
    if done.count:
        out.uses(INSTANCING, required=True)
    return done


def _by_roofs(scene: Scene, asset: str, some: Instances) -> Iterator[tuple[bool, Instances]]:
    """Those the weather reaches, and those it does not, as far as there are any."""
    roofed = under_roofs(scene, scene.kit.asset(asset).lods[0], some) if reached(scene) else None
    if roofed is None:
        yield reached(scene), some
        return
    for under in (False, True):
        if (roofed == under).any():
            yield not under, some.taken(np.flatnonzero(roofed == under))


def _node(out: Writer, scene: Scene, name: str, mesh: int, some: Instances) -> gl.Node:
    # Instances cannot bend, so the held moment of the wind leans whole plants.
    rotation = leaned(wind_of(scene.site.weather), some.position, some.rotation).astype(np.float64)
    rotation /= np.linalg.norm(rotation, axis=1, keepdims=True)
    attributes = {
        "TRANSLATION": out.accessor(some.position, "VEC3", None),
        "ROTATION": out.accessor(rotation, "VEC4", None),
        "SCALE": out.accessor(np.repeat(some.scale[:, None], 3, axis=1), "VEC3", None),
        "_TINT": out.accessor(some.tint, "VEC3", None),
    }
    return gl.Node(name=name, mesh=mesh, extensions={INSTANCING: {"attributes": attributes}})


def _rows(drift: str, asset: str, some: Instances) -> list[tuple[Any, ...]]:
    count = len(some)
    columns = [
        [drift] * count,
        [asset] * count,
        [f"{identity:016x}" for identity in some.identity.tolist()],
        *(some.position.astype(np.float64).round(4).T.tolist()),
        *(some.rotation.astype(np.float64).round(6).T.tolist()),
        some.scale.astype(np.float64).round(4).tolist(),
        *(some.tint.astype(np.float64).round(4).T.tolist()),
        some.mirrored.astype(int).tolist(),
    ]
    return list(zip(*columns, strict=True))


def _mesh(
    out: Writer, scene: Scene, drift: str, plan: DriftPlan, asset_id: str, mirrored: bool, wet: bool,
    meshes: dict[tuple[Any, ...], int],
) -> int:  # fmt: skip
    """An asset's mesh; mirrored it is a mesh of its own, since readers differ about instances with a negative size.

    One that carries patinas in a drift is a mesh of its own too, with them in the colours of its vertices, and so is one
    that answers to the weather in a way of its own.
    """
    worn = carries_any(scene, drift, asset_id)
    answer = (plan.soaks, plan.takes_snow, plan.takes_frost) if wet else None
    known = (drift if worn else "", asset_id, mirrored, answer)
    if known not in meshes:
        asset = scene.kit.asset(asset_id)
        mesh = asset.lods[0]
        if worn:
            mesh = replace(mesh, colour=worn_colours(scene, drift, plan, asset_id, 0))
        mesh = mesh.mirrored() if mirrored else mesh
        materials = [scene.seasonal(asset.materials.get(name, "concrete")) for name in mesh.slot_names]
        primitives = by_slots(out, scene, mesh, materials, plan if wet else None)
        meshes[known] = out.mesh(f"{asset.title}, mirrored" if mirrored else asset.title, primitives)
    return meshes[known]


def by_slots(
    out: Writer, scene: Scene, mesh: Mesh, materials: list[str], response: Response | None, on: np.ndarray | None = None
) -> list[gl.Primitive]:
    """A primitive for each slot of a mesh in the pictures of its own material, cut out where that is.

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
            if len(faces) == 0:
                continue
            number = _material(out, scene, material_id, response, look)
            found.append(primitive(out, mesh, faces, uv, number, _shown(mesh.colour, look)))
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


def _material(out: Writer, scene: Scene, material_id: str, response: Response | None, look: Look | None) -> int:
    if response is None or look is None:
        return out.material(
            f"kit {material_id}", lambda: plain_material(out, material_id, scene.material(material_id), False)
        )
    name = f"{material_id}, {'looking up' if look.up else 'in the weather'}"
    answer = (response.soaks, response.takes_snow, response.takes_frost)
    make = partial(weathered, scene, material_id, response, look)
    return out.material(f"kit {name} {answer}", lambda: plain_material(out, name, make(), False))


def _shown(colour: np.ndarray | None, look: Look | None) -> np.ndarray | None:
    """Vertex colours without their fourth value, which is for the wind; paler where something lies on them."""
    if colour is None:
        return None
    seen = colour[:, :3]
    if look is not None and look.up:
        seen = seen + (1.0 - seen) * _HIDES
    return np.column_stack([seen, np.ones(len(colour))])
