"""Water: distance from the water lines of the ground."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from scipy.ndimage import label
from skimage.measure import find_contours

from ..mesh.mesh import Points
from ..mesh.nearest import line_tree, segment_tree
from .ask import Ask
from .distance import FAR
from .rule import METRES, About, Rule


def wet_area(y: np.ndarray, level: float, row: int, column: int) -> np.ndarray:
    """(R, C) bool: what is connected to a place and lies below the level."""
    pools, _ = label(y < level)
    number = pools[row, column]
    return np.asarray(pools == number) if number else np.zeros(y.shape, bool)


def shore(y: np.ndarray, level: float, wet: np.ndarray, x: np.ndarray, z: np.ndarray) -> list[np.ndarray]:
    """Lines (P, 3) of the water's edge at its level, found by marching squares between ground points."""
    lines = []
    below = np.where(wet, y, np.maximum(y, level + 1e-9))
    for line in find_contours(np.pad(below, 1, constant_values=level + 1.0), level):
        rows, columns = np.clip(line[:, 0] - 1, 0, len(z) - 1), np.clip(line[:, 1] - 1, 0, len(x) - 1)
        at = np.column_stack([np.interp(columns, np.arange(len(x)), x), np.interp(rows, np.arange(len(z)), z)])
        lines.append(np.column_stack([at[:, 0], np.zeros(len(at)), at[:, 1]]))
    return lines


def water_distance(positions: np.ndarray, shores: list[np.ndarray], under: np.ndarray) -> np.ndarray:
    """(N,) float32 metres from the nearest shore as seen from above, negative for places under water.

    Parameters
    ----------
    shores : lines (P, 3) with y = 0
    under : (N,) bool, which places are under water
    """
    lines = [line for line in shores if len(line) > 1]
    if not lines:
        return np.full(len(positions), FAR, np.float32)
    if len(lines) == 1:
        tree = line_tree(lines[0])
    else:
        tree = segment_tree(np.concatenate([line[:-1] for line in lines]), np.concatenate([line[1:] for line in lines]))
    distance = tree.distance(positions * np.array([1.0, 0.0, 1.0]), FAR)
    return np.where(under, -distance, distance).astype(np.float32)


class WaterRule(Rule):
    """Distance from the nearest water line as seen from above, metres; below 0 under water."""

    measure: Literal["water"] = "water"
    about: ClassVar[About] = About(
        "near water", METRES, "distance from a water line, below 0 under water", "distances from water",
        (0, 0.2, 2, 4), place=110, distance=True,
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.shores_refs(), ask.ground_ref()

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        lines, pools = ask.shores()
        under = np.zeros(len(at), bool)
        for wet, level in pools:
            # Beside a wet point of the grid, and itself below the level: exact up to the very shore.
            high = ask.on_ground(level, at.positions) if isinstance(level, np.ndarray) else level
            under |= (ask.on_ground(wet.astype(float), at.positions) > 0) & (at.positions[:, 1] < high)
        return water_distance(at.positions, lines, under)
