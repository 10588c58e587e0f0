"""Some boards, stones or pieces darker than their neighbours."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, Dial, Sets, Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#8d8478", stain=1.0, break_up=0.0, relief=0.0, variation=0.1)
    return patina("odd ones", surfaces, finish, rule("chance", (0.7, 0.7, 1, 1), seed=seed), amount=0.8)


WEATHERING = Weathering(
    "Odd ones",
    "Some boards, stones or whole pieces darker than their neighbours: replaced, from another batch, or older.",
    "wash",
    90,
    _make,
    pace=1,
    dials=(
        Dial(
            "left as they are",
            "Share of the boards, stones or pieces that stay as they are.",
            "",
            0,
            1,
            (Sets("chance:gate.rise_start"), Sets("chance:gate.rise_end")),
        ),
        STAINS,
    ),
)
