"""A thin green film where moss begins."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import HOLLOWS, STAINS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#77803f", stain=0.75, break_up=0.5, fill=0.5, roughness=1.1)
    return patina(
        "moss film", surfaces, finish,
        rule("sun", (0, 0, 4, 11)),
        rule("rain", (0.02, 0.2, 1, 1)),
        rule("noise", (0.3, 0.62, 1, 1), size=0.5, detail=5, seed=seed),
    )  # fmt: skip


WEATHERING = Weathering(
    "Moss film",
    "A thin green film on damp stone and bark, before cushions form.",
    "wash",
    12,
    _make,
    pace=5,
    dials=(
        Dial(
            "bears sun for",
            "Hours of summer sun it bears before it thins out.",
            "h",
            0,
            14,
            (Sets("sun:gate.fall_start"), Sets("sun:gate.fall_end", 1.5, 3.0)),
        ),
        STAINS,
        HOLLOWS,
        patches(0.1, 3),
    ),
)
