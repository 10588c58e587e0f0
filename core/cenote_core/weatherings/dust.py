"""Dust on what faces up under cover."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import HOLLOWS, STAINS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="soil", tint="#efe4cf", break_up=0.35, fill=0.8, stain=0.15, relief=0.15, scale=0.6)
    return patina(
        "dust", surfaces, finish,
        rule("facing", (0, 0, 25, 70), elevation=90.0),
        rule("rain", (0, 0, 0.15, 0.5)),
        rule("noise", (0.15, 0.6, 1, 1), size=0.7, detail=4, seed=seed, strength=0.6),
        amount=0.7,
    )  # fmt: skip


WEATHERING = Weathering(
    "Dust",
    "A pale film on ledges, seats and floors that face up where it seldom rains.",
    "soil",
    80,
    _make,
    pace=2,
    dials=(
        Dial(
            "washed off by",
            "Share of the open rain from which it is washed off.",
            "",
            0.05,
            1,
            (Sets("rain:gate.fall_end"), Sets("rain:gate.fall_start", 0.3)),
        ),
        STAINS,
        HOLLOWS,
        patches(0.1, 3),
    ),
)
