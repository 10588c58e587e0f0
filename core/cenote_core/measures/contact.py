"""Contact: true distance to what a surface stands on or against, the ground and other pieces."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import quantity
from ..base.names import GROUND
from ..mesh.mesh import Points
from .ask import Ask
from .distance import near
from .rule import METRES, About, Rule


class ContactRule(Rule):
    """Distance from the ground and from other pieces, metres: 0 where something stands on or leans against another."""

    measure: Literal["contact"] = "contact"
    reach: float = quantity(
        5.0,
        0.1,
        50.0,
        "m",
        "Only what stands within this distance of the whole piece counts.",
        0.1,
        "reach",
        (0.2, 10, 2),
    )
    about: ClassVar[About] = About(
        "contact", METRES, "distance from the ground and other pieces, 0 where they touch", "distances from others",
        (0, 0, 0.08, 0.3), place=85, distance=True,
        badge="within {reach} m", more="reach",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.near_refs(self.reach)

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        others = ask.near(self.reach)
        pieces = near(ask.pieces_tree([owner for owner in others if owner != GROUND]), at.positions)
        return np.minimum(pieces, near(ask.ground_tree(self.reach), at.positions)) if GROUND in others else pieces
