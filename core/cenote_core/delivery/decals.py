"""Decals handed over, each a mesh of its own with alpha."""

from __future__ import annotations

import numpy as np

from ..decals.project import decal_mesh, lifted, stacked
from ..decals.weathered import open_and_damp
from ..materials.tile import linear_colour
from ..mesh.mesh import Mesh
from ..plan import DecalPlan
from ..scene.scene import Scene
from ..weather.exposure import reached
from .listing import Delivery, Part
from .pictures import plain
from .weathered import LOOKS_UP, Look, weathered


def add_decals(to: Delivery, scene: Scene) -> None:
    """All that meet something, the lowest first."""
    to.told("decals")
    for order, (_, plan) in enumerate(stacked(scene)):
        mesh = decal_mesh(scene, plan)
        if mesh is None or mesh.colour is None:
            continue
        colour = mesh.colour * np.append(linear_colour(plan.tint), 1.0)
        material = _material(to, scene, plan, mesh)
        # Pictures that lie on one another in one plane would flicker: each a little over the one beneath it.
        to.stand(plan.name, [Part(lifted(mesh, order), mesh.faces, mesh.uv, material, colour)])


def _material(to: Delivery, scene: Scene, plan: DecalPlan, mesh: Mesh) -> str:
    """Its picture; in the weather, as that leaves it where it lies on the mean."""
    source = scene.material(plan.picture)
    if not reached(scene):
        return to.material(f"decal {plan.picture}", lambda: plain(plan.picture, source, True))
    exposure, damp = open_and_damp(scene, mesh).mean(axis=0).round(2).tolist()
    look = Look(bool(mesh.normals[:, 1].mean() >= LOOKS_UP), damp, exposure)
    named = f"decal {plan.picture} {look} {plan.soaks} {plan.takes_snow} {plan.takes_frost}"
    return to.material(named, lambda: plain(plan.picture, weathered(scene, plan.picture, plan, look), True))
