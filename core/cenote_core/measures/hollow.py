"""Hollow: height of a place of the ground against the mean of its surroundings."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from scipy.ndimage import uniform_filter

from ..base.fields import quantity
from ..base.names import GROUND
from ..graph.derived import derived
from ..mesh.mesh import Points
from .ask import Ask
from .rule import METRES, About, Rule


def hollow_map(y: np.ndarray, cell: float, reach: float) -> np.ndarray:
    """(R, C) heights → (R, C) float32 metres above the mean within `reach`: negative in hollows, positive on ridges.

    The topographic position index (Weiss, *Topographic Position and Landforms Analysis*, 2001) with a square
    surrounding of side 2 · reach.
    """
    side = max(3, 2 * int(round(reach / cell)) + 1)
    return np.asarray(y - uniform_filter(y, side, mode="nearest"), np.float32)


@derived(lambda ask, reach: [ask.ground_ref(), reach])
def _relief(ask: Ask, reach: float) -> np.ndarray:
    return hollow_map(*ask.heights(), reach)


class HollowRule(Rule):
    """How high a place lies against the ground around it: below 0 hollows, above 0 ridges. Metres."""

    measure: Literal["hollow"] = "hollow"
    reach: float = quantity(
        2.0, 0.1, 100.0, "m", "How wide the surroundings are that count.", 0.1, "surroundings", (0.2, 15, 2)
    )
    about: ClassVar[About] = About(
        "hollow", METRES, "against the ground around: below 0 hollows, above 0 ridges",
        "heights against the ground around", (-50, -50, 0, 0.2), place=40, step=0.1, badge="within {reach} m", more="surroundings",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.ground_ref()

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        # On pieces there are neither hollows nor ridges of the ground: they count as even.
        if ask.owner != GROUND:
            return np.zeros(len(at), np.float32)
        relief = _relief(ask, self.reach)
        return ask.on_ground(relief, at.positions).astype(np.float32)
