"""Leaves that float on pools, in the path tracer's tables."""

from __future__ import annotations

import numpy as np

from ..drifts.floating import floating
from ..tracer.tables import Triangles, packed_vertices
from .drifts import leaf_surface
from .tables import Shot, Tables


def add_floating(out: Tables, shot: Shot) -> None:
    """Put what floats on all pools into the tables."""
    numbers: dict[str, int] = {}
    for owner in shot.scene.owners():
        mesh = floating(shot.scene, owner)
        if mesh is None or mesh.colour is None:
            continue
        for name in mesh.slot_names:
            if name not in numbers:
                numbers[name] = leaf_surface(out, shot.scene, name)
        surfaces = np.array([numbers[name] for name in mesh.slot_names])
        vertices = packed_vertices(mesh.uv, mesh.normals, np.ascontiguousarray(mesh.colour[:, :3]))
        faces = np.column_stack([mesh.faces, surfaces[mesh.slots]]).astype(np.uint32)
        out.parts.append(Triangles(mesh.positions, vertices, faces))
