"""Stones: rounded field stones and flat ones, broken along planes."""

from __future__ import annotations

import numpy as np

from ..base.noise import noise
from ..mesh.mesh import Mesh, make_mesh, with_box_uv
from .shapes import sphere


def stone(seed: int, size: tuple[float, float, float] = (0.34, 0.22, 0.28), facets: int = 9) -> list[Mesh]:
    """A stone: a sphere cut by random planes, then roughened. `size` is its extent in metres."""
    rng = np.random.Generator(np.random.Philox(seed))
    normals = rng.normal(size=(facets, 3))
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    depths = rng.uniform(0.62, 0.92, facets)

    def level(divisions: int) -> Mesh:
        direction, faces = sphere(divisions)
        reach = np.ones(len(direction))
        for n, d in zip(normals, depths, strict=True):
            facing = direction @ n
            cut = np.where(facing > 0.05, d / np.maximum(facing, 0.05), 9.0)
            # A soft minimum, so that broken edges are worn round.
            reach = -np.log(np.exp(-14 * reach) + np.exp(-14 * np.minimum(cut, 3))) / 14
        rough = noise(direction.astype(np.float32) * 1.0 + seed % 97, 0.7, 4, seed) - 0.5
        points = direction * (reach * (1 + 0.16 * rough))[:, None] * (np.array(size) / 2)
        points[:, 1] += size[1] * 0.38
        return with_box_uv(make_mesh(points, faces, slot_names=("stone",)), 60)

    return [level(3), level(2), level(1)]
