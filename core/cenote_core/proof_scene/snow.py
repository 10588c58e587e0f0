"""The covers of snow in the path tracer's tables."""

from __future__ import annotations

import numpy as np

from ..materials.material import Material
from ..snow.cover import MATERIAL, snow_cover
from ..tracer import tables
from .tables import SMOOTHEST, Shot, Tables


def add_snow(out: Tables, shot: Shot) -> None:
    """Put the snow that lies on everything into the tables."""
    scene = shot.scene
    covers = [cover for cover in (snow_cover(scene, owner) for owner in scene.owners()) if cover]
    if not covers:
        return
    surface = snow_surface(out, scene.material(MATERIAL))
    for cover in covers:
        mesh = cover.mesh
        out.mesh(mesh, np.full(len(mesh.faces), surface), np.zeros((len(mesh.positions), 4), np.float32))


def snow_surface(out: Tables, material: Material) -> int:
    """Put the surface of snow that lies as a body in; its number."""
    return out.surface(
        **out.picture(MATERIAL, material),
        flags=tables.FALLEN | tables.SCATTERS | tables.MACRO_DRIFT, tile=material.tile, least_roughness=SMOOTHEST, depth=material.depth,
        relief=1.0,
    )  # fmt: skip
