"""Edge: distance from the edge of the surfaces an item lies on."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..mesh.mesh import Points
from .ask import Ask
from .rule import METRES, About, Rule


class EdgeRule(Rule):
    """Distance from the edge of the surfaces the item lies on, metres."""

    measure: Literal["edge"] = "edge"
    about: ClassVar[About] = About(
        "edge", METRES, "distance from the edge of its surfaces", "distances from the edge", (0.5, 2, 1000, 1000),
        place=120, distance=True,
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.surfaces

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return ask.edge(at.positions)
