"""Contact: true distance to what a surface stands on or against, the ground and other pieces."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.names import GROUND
from ..mesh.mesh import Points
from .ask import Ask
from .distance import near
from .rule import METRES, About, Rule

REACH = 5.0
"""Ground farther off than this from a whole piece is not looked at and counts as far away, metres."""


class ContactRule(Rule):
    """Distance from the ground and from other pieces, metres: 0 where something stands on or leans against another."""

    measure: Literal["contact"] = "contact"
    about: ClassVar[About] = About(
        "contact", METRES, "distance from the ground and other pieces, 0 where they touch", "distances from others",
        (0, 0, 0.08, 0.3), place=85, distance=True,
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.mesh_refs([GROUND, *ask.pieces([])])

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        pieces = near(ask.pieces_tree(ask.pieces([])), at.positions)
        if ask.owner == GROUND:
            return pieces
        return np.minimum(pieces, near(ask.ground_tree(REACH), at.positions))
