"""Stems: distance from the stems of other drifts."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import ItemId
from ..mesh.mesh import Points
from .ask import Ask
from .distance import stems
from .rule import METRES, About, Rule, choose


class StemsRule(Rule):
    """Distance from the stems of other drifts, metres."""

    measure: Literal["stems"] = "stems"
    drifts: list[ItemId] = choose("drift", "all larger tiers", 32, "Which drifts; none named: larger tiers.")
    about: ClassVar[About] = About(
        "stems", METRES, "distance from stems of larger drifts", "distances from stems", (0.3, 0.8, 1000, 1000),
        place=130, distance=True, more="which drifts",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.standing_ref(ask.drifts(self.drifts))

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        found = ask.standing(ask.drifts(self.drifts))
        return stems(at.positions, found.feet, found.stems)
