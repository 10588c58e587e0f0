"""Bodies of ice and water in the path tracer's tables."""

from __future__ import annotations

import numpy as np

from ..eaves.drips import drops
from ..eaves.icicles import icicles
from ..mesh.mesh import Mesh
from ..surfaces.clear import ICE, WATER
from ..tracer import tables
from .tables import SMOOTHEST, WHITE, Shot, Tables

_ICE_LOSES, WATER_LOSES = (3.0, 1.2, 0.8), (0.3, 0.06, 0.02)
"""What a metre takes of red, green and blue; ice has bubbles in it, which pale it too."""


def clear_surface(out: Tables, index: float, loses: tuple[float, float, float]) -> int:
    """Put the outside of a clear body in; its number."""
    return out.surface(
        **out.picture("white", WHITE), flags=tables.CLEAR | tables.FALLEN, roughness=SMOOTHEST, relief=0.0,
        translucency=index, red=loses[0], green=loses[1], blue=loses[2],
    )  # fmt: skip


def add_bodies(out: Tables, meshes: list[Mesh], index: float, loses: tuple[float, float, float]) -> None:
    """Put closed meshes of one clear stuff into the tables."""
    if meshes:
        surface = clear_surface(out, index, loses)
        for mesh in meshes:
            out.mesh(mesh, np.full(len(mesh.faces), surface), np.zeros((len(mesh.positions), 4), np.float32))


def add_hanging(out: Tables, shot: Shot) -> None:
    """Put the icicles and drops that hang on everything into the tables."""
    owners = shot.scene.owners()
    for of, index, loses in ((icicles, ICE, _ICE_LOSES), (drops, WATER, WATER_LOSES)):
        add_bodies(
            out, [mesh for mesh in (of(shot.scene, owner) for owner in owners) if mesh is not None], index, loses
        )
