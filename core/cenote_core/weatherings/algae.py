"""A green film of algae on sides the sun never dries."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#7d8a62", stain=0.9, break_up=0.3, roughness=0.8, scale=1.6)
    return patina(
        "algae", surfaces, finish,
        rule("aspect", (0, 0, 60, 120), toward=0.0),
        rule("slope", (35, 60, 180, 180)),
        rule("height", (0, 0, 0.8, 2.6), above="foot"),
        rule("noise", (0.3, 0.65, 1, 1), size=1.1, detail=4, seed=seed),
        amount=0.85,
    )  # fmt: skip


WEATHERING = Weathering(
    "Algae",
    "A green film on upright sides to the north, thickest low down where they stay damp.",
    "wash",
    30,
    _make,
    pace=6,
    dials=(
        Dial(
            "climbs to",
            "How high up it is still thick.",
            "m",
            0.1,
            5,
            (Sets("height:gate.fall_start"), Sets("height:gate.fall_end", 2.2, 0.8)),
        ),
        Dial(
            "turns from north by",
            "How far from north a side may face.",
            "°",
            20,
            180,
            (Sets("aspect:gate.fall_end"), Sets("aspect:gate.fall_start", 0.5)),
        ),
        STAINS,
        patches(0.1, 4),
    ),
)
