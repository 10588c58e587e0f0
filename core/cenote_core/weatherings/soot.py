"""Soot and dirt that rain does not wash away."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="grime", tint="#8a847c", stain=0.9, break_up=0.3, fill=0.5, scale=1.4)
    return patina(
        "soot", surfaces, finish,
        rule("rain", (0, 0, 0.05, 0.3)),
        rule("noise", (0.25, 0.6, 1, 1), size=1.4, detail=4, seed=seed, strength=0.7),
        amount=0.7,
    )  # fmt: skip


WEATHERING = Weathering("Soot", "A dark crust under ledges and eaves, where no rain washes it off.", "grime", 70, _make)
