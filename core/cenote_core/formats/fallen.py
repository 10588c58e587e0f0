"""What has fallen and what hangs, handed over: snow, standing water, icicles and drops, each a mesh of its own."""

from __future__ import annotations

from functools import partial

import numpy as np
import pygltflib as gl

from ..beads.lying import bead_mesh, carriers, shown
from ..drifts.floating import floating
from ..eaves.drips import drops
from ..eaves.icicles import icicles
from ..materials.material import Material
from ..mesh.mesh import Mesh
from ..plan import Water
from ..pools.surface import MATERIAL as WATER
from ..pools.surface import water_surface
from ..scene.scene import Scene
from ..snow.cover import MATERIAL as SNOW
from ..snow.cover import snow_cover
from ..surfaces.clear import ICE
from ..surfaces.clear import WATER as WATER_BENDS
from ..waters.look import loses, meets_mud, ripples
from ..waters.sheet import sheet
from .glb import Writer, encoded, plain_material, primitive
from .owners import title_of

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
            name = f"{what} on {title_of(scene, owner)}"
            part = primitive(out, mesh, mesh.faces, mesh.uv / source.tile, number)
            out.node(gl.Node(name=name, mesh=out.mesh(name, [part])))


def add_hanging(out: Writer, scene: Scene) -> None:
    """Icicles and drops, as clear bodies with an index of refraction."""
    for what, index, found in (("ice", ICE, icicles), ("drops", WATER_BENDS, drops)):
        for owner in scene.owners():
            mesh = found(scene, owner)
            if mesh is not None:
                _add_clear(out, f"{what} on {title_of(scene, owner)}", what, index, mesh)


def add_beads(out: Writer, scene: Scene) -> None:
    """Droplets, the largest on each thing, as clear bodies."""
    for key, plan in shown(scene):
        for owner in carriers(scene, plan):
            mesh = bead_mesh(scene, key, plan, owner)
            if len(mesh.faces):
                _add_clear(out, f"{plan.name} on {title_of(scene, owner)}", "drops", WATER_BENDS, mesh)


def add_waters(out: Writer, scene: Scene) -> None:
    """Still and running water, each with its waves and with what a metre of it takes of light."""
    for number, form in enumerate(scene.site.ground.waters()):
        found = sheet(scene, number)
        if found is None:
            continue
        for extension in _EXTENSIONS:
            out.uses(extension)
        name = f"{'still' if isinstance(form, Water) else 'running'} water {number + 1}"
        material = out.material(name, partial(_open_water, out, scene, number, name, form.murk))
        part = primitive(out, found.mesh, found.mesh.faces, found.mesh.uv, material)
        out.node(gl.Node(name=name, mesh=out.mesh(name, [part])))


def _open_water(out: Writer, scene: Scene, number: int, name: str, murk: float) -> gl.Material:
    picture, relief = ripples(scene, number)
    mud = meets_mud(murk)
    left = [float(np.exp(-(lost + mud))) for lost in loses(murk)]
    material = _clear_material(name, WATER_BENDS)
    material.normalTexture = out.normal(encoded(picture.normal, "PNG"), relief)
    material.extensions["KHR_materials_volume"] = {
        "thicknessFactor": 1.0, "attenuationDistance": 1.0, "attenuationColor": left,
    }  # fmt: skip
    return material


def add_floating(out: Writer, scene: Scene) -> None:
    """Leaves that float on pools, in the materials of the litter they are of."""
    for owner in scene.owners():
        mesh = floating(scene, owner)
        if mesh is None or mesh.colour is None:
            continue
        parts = []
        for slot, material_id in enumerate(mesh.slot_names):
            make = partial(plain_material, out, material_id, scene.material(material_id), False)
            number = out.material(f"kit {material_id}", make)
            colour = np.column_stack([mesh.colour[:, :3], np.ones(len(mesh.colour))])
            parts.append(primitive(out, mesh, mesh.faces[mesh.slots == slot], mesh.uv, number, colour))
        name = f"leaves afloat on {title_of(scene, owner)}"
        out.node(gl.Node(name=name, mesh=out.mesh(name, parts)))


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
    return gl.Material(
        name="water",
        doubleSided=True,
        alphaMode="BLEND",
        pbrMetallicRoughness=gl.PbrMetallicRoughness(
            baseColorFactor=[0.02, 0.025, 0.025, _WATER_SEEN], metallicFactor=0.0, roughnessFactor=_WATER_ROUGH
        ),
        normalTexture=out.normal(encoded(source.normal, "PNG")),
    )
