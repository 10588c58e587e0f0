"""Drops that have left a thing over its lower edge: they fall, and lie where they land, those that meet as one."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ..mesh.rays import RayScene
from .growth import Droplets
from .profile import Profiles, foot_of

_FALLS = 4.0
"""Metres that drops are followed down."""
_BEGIN = 0.002
"""Metres under the edge from which they fall."""
_HOLDS = 0.3
"""Upward part of a normal under which a drop that lands splashes off."""


def landed(off: Droplets, made: Profiles, below: RayScene) -> Droplets:
    """Where drops that fell lie on what is below; what meets nothing level enough is gone."""
    if not len(off):
        return off
    start = off.at - [0, _BEGIN, 0]
    down = np.tile(np.array([0, -1, 0], np.float32), (len(off), 1))
    met = below.meet(start.astype(np.float32), down, _FALLS)
    keep = met.hit & (met.normals[:, 1] > _HOLDS)
    at, normal = met.positions[keep].astype(np.float64), met.normals[keep].astype(np.float64)
    there = off.only(keep)
    return merged(Droplets(at, normal, there.volume, there.memory, there.name), made)


def merged(drops: Droplets, made: Profiles) -> Droplets:
    """Droplets of which those that touch have become one, in their middle by volume; as much water as before."""
    while len(drops) > 1:
        foot = foot_of(made, drops.volume)
        pairs = cKDTree(drops.at).query_pairs(2 * float(foot.max()), output_type="ndarray")
        apart = np.linalg.norm(drops.at[pairs[:, 0]] - drops.at[pairs[:, 1]], axis=1)
        pairs = pairs[apart < foot[pairs[:, 0]] + foot[pairs[:, 1]]]
        if not len(pairs):
            break
        links = coo_matrix((np.ones(len(pairs)), pairs.T), shape=(len(drops),) * 2)
        count, group = connected_components(links, directed=False)
        volume = np.bincount(group, drops.volume, count)
        mean = lambda v, g=group, c=count, w=volume, d=drops: np.stack(  # noqa: E731
            [np.bincount(g, d.volume * v[:, k], c) / w for k in range(3)], axis=1
        )
        normal = mean(drops.normal)
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
        first = np.unique(group, return_index=True)[1]
        drops = Droplets(mean(drops.at), normal, volume, np.zeros((count, 3)), drops.name[first])
    return drops
