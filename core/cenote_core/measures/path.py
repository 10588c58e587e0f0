"""Paths: distance from the floors of the ground's paths and ditches."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..mesh.nearest import line_tree
from ..plan import Cut
from .distance import FAR

_FROM_ABOVE = np.array([1.0, 0.0, 1.0])


def path_distance(positions: np.ndarray, paths: Sequence[Cut]) -> np.ndarray:
    """(N,) float32 metres from the edge of the nearest path's floor as seen from above, negative upon it.

    A floor is everything within half its width of its middle line, so the distance is that to the line less half the
    width: exact outside, and upon the floor as far as its own middle.

    Parameters
    ----------
    positions : (N, 3) metres
    paths : paths and ditches of the ground; without any everything is `FAR` away
    """
    out = np.full(len(positions), FAR)
    flat = positions * _FROM_ABOVE
    for path in paths:
        line = np.array([(x, 0.0, z) for x, z in path.line])
        out = np.minimum(out, line_tree(line).distance(flat, FAR) - path.width / 2)
    return out.astype(np.float32)
