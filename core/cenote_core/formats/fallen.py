"""What has fallen and what hangs, handed over: snow, standing water, icicles and drops, each a mesh of its own."""

from __future__ import annotations

from functools import partial

import pygltflib as gl

from ..base.names import GROUND
from ..beads.lying import bead_mesh, carriers, shown
from ..eaves.drips import drops
from ..eaves.icicles import icicles
from ..materials.material import Material
from ..mesh.mesh import Mesh
from ..pools.surface import MATERIAL as WATER
from ..pools.surface import water_surface
from ..scene.scene import Scene
from ..snow.cover import MATERIAL as SNOW
from ..snow.cover import snow_cover
from ..surfaces.clear import ICE
from ..surfaces.clear import WATER as WATER_BENDS
from .glb import Writer, plain_material, primitive

_WATER_SEEN, _WATER_ROUGH = 0.35, 0.04
"""Opacity and roughness of water, for renderers that know neither its depth nor its film."""
_EXTENSIONS = ("KHR_materials_transmission", "KHR_materials_ior", "KHR_materials_volume")
_CLEAR_ROUGH, _CLEAR_THICK = 0.02, 0.01
"""Roughness of ice and drops, and the metres of them light goes through, for renderers that do not trace it."""


def add_fallen(out: Writer, scene: Scene) -> None:
    """Snow and standing water: what lies on each owner is a mesh of its own, so that it can be left out."""
    for owner in scene.owners():
        cover, pool = snow_cover(scene, owner), water_surface(scene, owner)
        found = [("snow", SNOW, cover.mesh)] if cover else []
        found += [("water", WATER, pool)] if pool is not None else []
        for what, material_id, mesh in found:
            source = scene.material(material_id)
            make = partial(_water_material if what == "water" else _snow_material, out, source)
            number = out.material(f"fallen {what}", make)
            name = f"{what} on {_title(scene, owner)}"
            part = primitive(out, mesh, mesh.faces, mesh.uv / source.tile, number)
            out.node(gl.Node(name=name, mesh=out.mesh(name, [part])))


def add_hanging(out: Writer, scene: Scene) -> None:
    """Icicles and drops, as clear bodies with an index of refraction."""
    for what, index, found in (("ice", ICE, icicles), ("drops", WATER_BENDS, drops)):
        for owner in scene.owners():
            mesh = found(scene, owner)
            if mesh is not None:
                _add_clear(out, f"{what} on {_title(scene, owner)}", what, index, mesh)


def add_beads(out: Writer, scene: Scene) -> None:
    """Droplets, the largest on each thing, as clear bodies."""
    for key, plan in shown(scene):
        for owner in carriers(scene, plan):
            mesh = bead_mesh(scene, key, plan, owner)
            if len(mesh.faces):
                _add_clear(out, f"{plan.name} on {_title(scene, owner)}", "drops", WATER_BENDS, mesh)


def _title(scene: Scene, owner: str) -> str:
    return GROUND if owner == GROUND else scene.piece(owner).name


def _add_clear(out: Writer, name: str, what: str, index: float, mesh: Mesh) -> None:
    for extension in _EXTENSIONS:
        out.uses(extension)
    number = out.material(f"clear {what}", partial(_clear_material, what, index))
    out.node(gl.Node(name=name, mesh=out.mesh(name, [primitive(out, mesh, mesh.faces, mesh.uv, number)])))


def _clear_material(what: str, index: float) -> gl.Material:
    """What light goes through and is bent by, in the terms of the format's own extensions."""
    return gl.Material(
        name=what,
        pbrMetallicRoughness=gl.PbrMetallicRoughness(metallicFactor=0.0, roughnessFactor=_CLEAR_ROUGH),
        extensions={
            "KHR_materials_transmission": {"transmissionFactor": 1.0},
            "KHR_materials_ior": {"ior": index},
            "KHR_materials_volume": {"thicknessFactor": _CLEAR_THICK},
        },
    )


def _snow_material(out: Writer, source: Material) -> gl.Material:
    return plain_material(out, "snow", source, False)


def _water_material(out: Writer, source: Material) -> gl.Material:
    """Clear water: hardly any colour of its own, smooth, with its ripples."""
    normal = out.texture(source.normal, "PNG")
    return gl.Material(
        name="water",
        doubleSided=True,
        alphaMode="BLEND",
        pbrMetallicRoughness=gl.PbrMetallicRoughness(
            baseColorFactor=[0.02, 0.025, 0.025, _WATER_SEEN], metallicFactor=0.0, roughnessFactor=_WATER_ROUGH
        ),
        normalTexture=gl.NormalMaterialTexture(index=normal.index),
    )
