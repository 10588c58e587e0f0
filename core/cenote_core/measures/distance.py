"""Distances: from pieces, from lines, from the edge of a region, from stems. All true distances to geometry."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from ..mesh.nearest import NearestTree
from .rule import METRES, Rule

FAR = 1000.0
"""What is not there at all counts as this far away, metres."""
ABSENT = "what it measures from is not on the site, or nowhere near"
FROM_ABOVE = np.array([1.0, 0.0, 1.0], np.float32)
"""Takes the height out of places."""


def absent(rule: Rule, value: float) -> bool:
    """Is a measured distance that of something which is not there?"""
    return rule.about.unit == METRES and value > 0.9 * FAR


def near(tree: NearestTree, positions: np.ndarray) -> np.ndarray:
    """(N,) float32 metres from the nearest triangle or segment of a tree."""
    return tree.distance(positions, FAR).astype(np.float32)


def boundary_edges(faces: np.ndarray, positions: np.ndarray) -> np.ndarray:
    """(E, 2) corners of the edges that belong to one face only; corners in one place count as one."""
    _, joined = np.unique(np.round(positions, 5), axis=0, return_inverse=True)
    welded = joined.ravel()[faces]
    edges = np.concatenate([welded[:, [0, 1]], welded[:, [1, 2]], welded[:, [2, 0]]])
    corners = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    _, first, count = np.unique(np.sort(edges, axis=1), axis=0, return_index=True, return_counts=True)
    return np.asarray(corners[first[count == 1]])


def sheet_edge(positions: np.ndarray, width: float, depth: float) -> np.ndarray:
    """(N,) float32 metres from the border of a sheet centred on the origin, as seen from above."""
    x, z = np.abs(positions[:, 0]), np.abs(positions[:, 2])
    return np.maximum(np.minimum(width / 2 - x, depth / 2 - z), 0).astype(np.float32)


def stems(positions: np.ndarray, feet: np.ndarray, radii: np.ndarray) -> np.ndarray:
    """(N,) float32 metres from the nearest stem, 0 inside it.

    Parameters
    ----------
    feet : (S, 3) where stems stand
    radii : (S,) their radii, metres
    """
    if len(feet) == 0:
        return np.full(len(positions), FAR, np.float32)
    count = min(8, len(feet))
    distance, which = cKDTree(feet).query(positions, k=count)
    distance, which = distance.reshape(len(positions), count), which.reshape(len(positions), count)
    return np.maximum((distance - radii[which]).min(axis=1), 0).astype(np.float32)
