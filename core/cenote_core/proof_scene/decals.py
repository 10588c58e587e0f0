"""Decals in the path tracer's tables."""

from __future__ import annotations

import numpy as np

from ..decals.project import lifted, projected, stacked
from ..decals.weathered import open_and_damp
from ..materials.tile import linear_colour
from ..tracer import tables
from ..weather.exposure import reached, wetted
from .tables import SMOOTHEST, Shot, Tables


def add_decals(out: Tables, shot: Shot) -> None:
    """Decals as thin meshes with soft ends on what is drawn; higher ones lie a little farther out."""
    scene = shot.scene
    for order, (_, plan) in enumerate(stacked(scene)):
        mesh = projected(shot.meshes, plan)
        if mesh is None or mesh.colour is None:
            continue
        material = scene.material(plan.picture)
        red, green, blue = (float(v) for v in linear_colour(plan.tint))
        falls = tables.OPEN if reached(scene) else 0
        falls |= tables.POOLED if wetted(scene) else 0
        answers = tables.answering(scene.answer(plan, plan.picture))
        surface = out.surface(
            **out.picture(plan.picture, material), flags=tables.CUT_OUT | tables.FADES | falls | answers,
            depth=material.depth, least_roughness=SMOOTHEST,
            red=red, green=green, blue=blue, relief=1.0,
        )  # fmt: skip
        seams = np.zeros((len(mesh.positions), 4), np.float32)
        seams[:, :2] = open_and_damp(scene, mesh)
        seams[:, 2] = mesh.colour[:, 3]
        out.mesh(lifted(mesh, order), np.full(len(mesh.faces), surface), seams)
