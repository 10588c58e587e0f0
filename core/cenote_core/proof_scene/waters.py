"""Still and running water in the path tracer's tables: its surface with its waves, what is lost in it, and its foam."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..plan import Cut, Water
from ..scene.scene import Scene
from ..surfaces.clear import WATER
from ..surfaces.water import TILE
from ..tracer import tables
from ..waters.light import patterns
from ..waters.look import loses, meets_mud, ripples
from ..waters.sheet import Sheet, sheet, waves_of
from .tables import SMOOTHEST, Shot, Tables

FOAM = "foam"
"""What its foam is made of."""
_LIFT = 0.0015
"""Metres that foam lies over the water."""


def add_waters(out: Tables, shot: Shot) -> None:
    """Put the ground's waters into the tables."""
    for number, form in enumerate(shot.scene.site.ground.waters()):
        found = sheet(shot.scene, number)
        if found is not None:
            _add(out, shot.scene, number, form, found)


def _add(out: Tables, scene: Scene, number: int, form: Water | Cut, found: Sheet) -> None:
    material, relief = ripples(scene, number)
    light = form.patterns * scene.site.daylight.water_light
    red, green, blue = loses(form.murk)
    picture = out.picture(f"waves of water {number}", material)
    surface = out.surface(
        **picture, flags=tables.WATER | tables.CLEAR | tables.FALLEN, tile=1.0, roughness=SMOOTHEST, relief=relief,
        translucency=WATER, red=red, green=green, blue=blue, murk=meets_mud(form.murk), light=light,
        pattern=len(out.patterns),
    )  # fmt: skip
    out.patterns.append(patterns(waves_of(scene, form), scene.site.weather.moment))
    mesh = found.mesh
    out.mesh(mesh, np.full(len(mesh.faces), surface), np.zeros((len(mesh.positions), 4), np.float32))
    if found.foam.max() > 0:
        _add_foam(out, scene, found)


def _add_foam(out: Tables, scene: Scene, found: Sheet) -> None:
    mesh, material = found.mesh, scene.material(FOAM)
    white = found.foam[mesh.faces].max(axis=1) > 0
    surface = out.surface(
        **out.picture(FOAM, material), flags=tables.CUT_OUT | tables.FADES | tables.FALLEN, tile=material.tile / TILE,
        least_roughness=SMOOTHEST, relief=1.0,
    )  # fmt: skip
    lifted = replace(
        mesh,
        positions=mesh.positions + np.array([0, _LIFT, 0], np.float32),
        faces=mesh.faces[white],
        slots=mesh.slots[white],
    )
    seams = np.zeros((len(mesh.positions), 4), np.float32)
    seams[:, 2] = found.foam
    out.mesh(lifted, np.full(int(white.sum()), surface), seams)
