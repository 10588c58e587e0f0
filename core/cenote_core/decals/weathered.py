"""How the weather reaches decals: as it reaches what they lie on."""

from __future__ import annotations

import numpy as np

from ..mesh.mesh import Mesh
from ..scene.scene import Scene
from ..weather.exposure import damp_at, exposure_at


def open_and_damp(scene: Scene, mesh: Mesh) -> np.ndarray:
    """(V, 2) float32 how far the vertices of a projected decal lie open to the sky, and how damp they are besides.

    `mesh` is as `project.projected` makes it: a slot for each owner it lies on, and their unwraps in `uv2`.
    """
    out = np.ones((len(mesh.positions), 2), np.float32)
    out[:, 1] = 0
    assert mesh.uv2 is not None
    for number, owner in enumerate(mesh.slot_names):
        on = np.unique(mesh.faces[mesh.slots == number])
        opened, damp = exposure_at(scene, owner, mesh.uv2[on]), damp_at(scene, owner, mesh.uv2[on])
        if opened is not None:
            out[on, 0] = opened
        if damp is not None:
            out[on, 1] = damp[:, 0]
    return out
