"""Paths: distance from the floors of the ground's paths and ditches."""

from __future__ import annotations

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ..mesh.mesh import Points
from ..mesh.nearest import line_tree
from .ask import Ask
from .distance import FAR, FROM_ABOVE
from .items import Path
from .rule import METRES, About, Rule


def path_distance(positions: np.ndarray, paths: Iterable[Path]) -> np.ndarray:
    """(N,) float32 metres from the edge of the nearest path's floor as seen from above, negative upon it.

    A floor is everything within half its width of its middle line, so the distance is that to the line less half the
    width: exact outside, and upon the floor as far as its own middle.

    Parameters
    ----------
    positions : (N, 3) metres
    paths : paths and ditches of the ground; without any everything is `FAR` away
    """
    out = np.full(len(positions), FAR)
    flat = positions * FROM_ABOVE
    for path in paths:
        line = np.array([(x, 0.0, z) for x, z in path.line])
        out = np.minimum(out, line_tree(line).distance(flat, FAR) - path.width / 2)
    return out.astype(np.float32)


class PathRule(Rule):
    """Distance from the edge of the nearest path or ditch of the ground as seen from above; below 0 on it. Metres."""

    measure: Literal["path"] = "path"
    about: ClassVar[About] = About(
        "near a path", METRES, "distance from paths and ditches of the ground, below 0 on them",
        "distances from the path", (0, 0.2, 1.5, 3), place=100, distance=True,
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return list(ask.ground.paths())

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return path_distance(at.positions, ask.ground.paths())
