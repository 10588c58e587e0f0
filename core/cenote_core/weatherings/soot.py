"""Soot and dirt that rain does not wash away."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import HOLLOWS, STAINS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="grime", tint="#8a847c", stain=0.9, break_up=0.3, fill=0.5, scale=1.4)
    return patina(
        "soot", surfaces, finish,
        rule("rain", (0, 0, 0.05, 0.3)),
        rule("noise", (0.25, 0.6, 1, 1), size=1.4, detail=4, seed=seed, strength=0.7),
        amount=0.7,
    )  # fmt: skip


WEATHERING = Weathering(
    "Soot",
    "A dark crust under ledges and eaves, where no rain washes it off.",
    "grime",
    70,
    _make,
    pace=25,
    dials=(
        Dial(
            "washed off by",
            "Share of the open rain from which it is washed off.",
            "",
            0.02,
            1,
            (Sets("rain:gate.fall_end"), Sets("rain:gate.fall_start", 0.2)),
        ),
        STAINS,
        HOLLOWS,
        patches(0.2, 4),
    ),
)
