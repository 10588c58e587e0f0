"""What has fallen and what hangs, handed over: snow, standing water, icicles and drops, each a mesh of its own."""

from __future__ import annotations

from functools import partial

from ..beads.site_droplets import bead_mesh, carriers, shown
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
from .clear import clear
from .listing import Delivery, Finish, Part
from .owners import title_of
from .pictures import PNG, encoded, plain

_WATER_COLOUR, _WATER_ROUGH = (0.02, 0.025, 0.025, 0.35), 0.04
"""Colour with opacity, and roughness of water, for renderers that know neither its depth nor its film."""


def add_fallen(to: Delivery, scene: Scene) -> None:
    """Snow and standing water: what lies on each owner is a mesh of its own, so that it can be left out."""
    for owner in scene.owners():
        cover, pool = snow_cover(scene, owner), water_surface(scene, owner)
        if cover:
            _add(to, scene, owner, "snow", SNOW, cover.mesh)
        if pool is not None:
            _add(to, scene, owner, "water", WATER, pool)


def _add(to: Delivery, scene: Scene, owner: str, what: str, material_id: str, mesh: Mesh) -> None:
    source = scene.material(material_id)
    make = partial(_water, source) if what == "water" else partial(plain, what, source, False)
    material = to.material(f"fallen {what}", make)
    to.stand(f"{what} on {title_of(scene, owner)}", [Part(mesh, mesh.faces, mesh.uv / source.tile, material)])


def _water(source: Material) -> Finish:
    """Clear water: hardly any colour of its own, smooth, with its ripples."""
    return Finish(
        name="water", both_sides=True, alpha="blend", colour=_WATER_COLOUR, metalness=0.0, roughness=_WATER_ROUGH,
        normal_map=encoded(source.normal, PNG),
    )  # fmt: skip


def add_hanging(to: Delivery, scene: Scene) -> None:
    """Icicles and drops, as clear bodies with an index of refraction."""
    for what, index, found in (("ice", ICE, icicles), ("drops", WATER_BENDS, drops)):
        for owner in scene.owners():
            mesh = found(scene, owner)
            if mesh is not None:
                _add_clear(to, f"{what} on {title_of(scene, owner)}", what, index, mesh)


def add_beads(to: Delivery, scene: Scene) -> None:
    """Droplets, the largest on each thing, as clear bodies."""
    for key, plan in shown(scene):
        for owner in carriers(scene, plan):
            mesh = bead_mesh(scene, key, plan, owner)
            if len(mesh.faces):
                _add_clear(to, f"{plan.name} on {title_of(scene, owner)}", "drops", WATER_BENDS, mesh)


def _add_clear(to: Delivery, name: str, what: str, index: float, mesh: Mesh) -> None:
    material = to.material(f"clear {what}", partial(clear, what, index))
    to.stand(name, [Part(mesh, mesh.faces, mesh.uv, material)])
