"""Mud that rain throws up along a foot."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import RAGGED, STAINS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="soil", break_up=0.9, stain=0.25, relief=0.4, variation=0.2, scale=0.5)
    return patina(
        "mud splash", surfaces, finish,
        rule("splash", (0.02, 0.5, 1, 1), height=0.5),
        rule("height", (0, 0, 0.3, 0.5), above="foot"),
        rule("noise", (0.34, 0.7, 1, 1), size=0.3, detail=6, seed=seed),
        amount=0.85,
    )  # fmt: skip


WEATHERING = Weathering(
    "Mud splash",
    "Soil that rain throws up, thick along the foot and gone at knee height.",
    "soil",
    60,
    _make,
    pace=3,
    dials=(
        Dial(
            "thrown up to",
            "How high drops throw it.",
            "m",
            0.1,
            1.5,
            (Sets("splash:height"), Sets("height:gate.fall_end"), Sets("height:gate.fall_start", 0.6)),
        ),
        STAINS,
        RAGGED,
        patches(0.05, 1),
    ),
)
