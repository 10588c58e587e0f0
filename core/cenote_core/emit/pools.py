"""Water that stands, in the path tracer's tables."""

from __future__ import annotations

import numpy as np

from ..pools.surface import IN_RAIN, MATERIAL, water_surface
from ..tracer import tables
from .tables import Shot, Tables

_ROUGHNESS = 0.035
"""What is finer than the ripples that are drawn."""


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
        flags=tables.WATER | tables.FALLEN, tile=material.tile, metalness=1.0, roughness=_ROUGHNESS, least_roughness=0.0,
        relief=1.0,
    )  # fmt: skip
    for mesh in meshes:
        out.mesh(mesh, np.full(len(mesh.faces), surface), np.zeros((len(mesh.positions), 4), np.float32))
