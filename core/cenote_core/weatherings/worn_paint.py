"""Paint rubbed and flaked off edges and corners."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import RAGGED, TOPS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="timber", break_up=1.0, variation=0.2, fill=-0.4)
    return patina(
        "bare edges", surfaces, finish,
        rule("worn", (0.1, 0.4, 1, 1), reach=0.05),
        rule("noise", (0.3, 0.6, 1, 1), size=0.18, detail=5, seed=seed, strength=0.7),
    )  # fmt: skip


WEATHERING = Weathering(
    "Bare edges",
    "The wood beneath shows where hands, feet and weather have taken the paint off edges.",
    "timber",
    50,
    _make,
    pace=20,
    dials=(
        Dial("reaches in", "How far from an edge it is rubbed off.", "m", 0.005, 0.3, (Sets("worn:reach"),)),
        RAGGED,
        TOPS,
        patches(0.03, 1),
    ),
)
