"""Runoff: how much water drains over a place, from where rain lands down to where it drips off."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import ItemId, quantity
from ..mesh.mesh import Points
from ..mesh.texels import sample_map
from .ask import Ask
from .rule import METRES, About, Rule, choose


class RunoffRule(Rule):
    """How many metres of rained-on surface drain over a place: streaks under sills, eaves and bolts."""

    measure: Literal["runoff"] = "runoff"
    pieces: list[ItemId] = choose(
        "piece", "all that rain lands on", 100, "Only water that has landed on these, such as rusting iron."
    )
    patinas: list[ItemId] = choose(
        "patina",
        "clean water",
        20,
        "Only what rain washes off these, such as rust: a stain that begins where they lie.",
    )
    toward: float = quantity(
        250.0, 0.0, 360.0, "°", "Where the rain mostly comes from, clockwise from north.", 5, "comes from", (0, 360, 1),
        bearing=True,
    )  # fmt: skip
    wind: float = quantity(4.0, 0.0, 30.0, "m/s", "Speed of the wind while it rains.", 0.5, "wind", (0, 15, 1))
    dry: float = quantity(
        2.0, 0.0, 100.0, "m", "Over this way what runs down falls to a third; 0: it does not dry.", 0.1, "dries within",
        (0, 10, 2),
    )  # fmt: skip
    about: ClassVar[About] = About(
        "runoff", METRES, "water that runs down over it, from all that drains there", "runoff", (0.1, 0.6, 100, 100),
        place=65, soft=0.3, badge="from {toward}", more="where from",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.runoff_ref(self.toward, self.wind, (self.pieces, self.patinas), self.dry)

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return sample_map(ask.runoff(self.toward, self.wind, (self.pieces, self.patinas), self.dry), at.uv2)
