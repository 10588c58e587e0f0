"""Water that stands, in the path tracer's tables."""

from __future__ import annotations

import numpy as np

from ..pools.surface import IN_RAIN, MATERIAL, water_surface
from ..surfaces.clear import WATER
from ..tracer import tables
from .tables import Shot, Tables

_ROUGHNESS = 0.035
"""What is finer than the ripples that are drawn."""
_LOST = (2.2, 1.5, 1.9)
"""What a metre of the water of a puddle takes of red, green and blue: it has soil in it."""


def add_pools(out: Tables, shot: Shot) -> None:
    """Put the pools on everything into the tables."""
    scene = shot.scene
    meshes = [mesh for mesh in (water_surface(scene, owner) for owner in scene.owners()) if mesh is not None]
    if not meshes:
        return
    name = IN_RAIN if scene.site.weather.rain > 0 else MATERIAL
    material = scene.material(name)
    surface = out.surface(
        **out.picture(name, material),
        flags=tables.WATER | tables.CLEAR | tables.FALLEN, tile=material.tile, roughness=_ROUGHNESS,
        least_roughness=0.0, relief=1.0, translucency=WATER, red=_LOST[0], green=_LOST[1], blue=_LOST[2],
    )  # fmt: skip
    for mesh in meshes:
        out.mesh(mesh, np.full(len(mesh.faces), surface), np.zeros((len(mesh.positions), 4), np.float32))
