"""Near pieces: true distance from them."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import ItemId
from ..mesh.mesh import Points
from .ask import Ask
from .distance import near
from .rule import METRES, About, Rule, choose


class NearRule(Rule):
    """Distance from pieces, metres."""

    measure: Literal["near"] = "near"
    pieces: list[ItemId] = choose("piece", "any piece", 200, "Which pieces; none named: any.")
    about: ClassVar[About] = About(
        "near pieces", METRES, "distance from pieces", "distances from pieces", (0, 0, 0.6, 1.5), place=80,
        distance=True, more="which pieces",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.mesh_refs(ask.pieces(self.pieces))

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return near(ask.pieces_tree(ask.pieces(self.pieces)), at.positions)
