"""A green film of algae on sides the sun never dries."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="grime", tint="#7fa05a", stain=0.75, break_up=0.25, roughness=0.8, relief=0.3, scale=1.6)
    return patina(
        "algae", surfaces, finish,
        rule("aspect", (0, 0, 60, 120), toward=0.0),
        rule("slope", (35, 60, 180, 180)),
        rule("height", (0, 0, 0.8, 2.6), above="foot"),
        rule("noise", (0.3, 0.65, 1, 1), size=1.1, detail=4, seed=seed),
        amount=0.75,
    )  # fmt: skip


WEATHERING = Weathering(
    "Algae", "A green film on upright sides to the north, thickest low down where they stay damp.", "grime", 30, _make
)
