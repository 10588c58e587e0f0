"""Bare wood gone grey."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import RAGGED, STAINS, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#a8a49a", stain=0.25, break_up=0.3, roughness=1.1, relief=0.3)
    return patina(
        "silvered wood", surfaces, finish,
        rule("sun", (0, 5, 24, 24), strength=0.7),
        rule("rain", (0.01, 0.2, 1, 1), strength=0.8),
        rule("noise", (0.1, 0.7, 1, 1), size=0.8, detail=4, seed=seed, strength=0.6),
        amount=0.7,
    )  # fmt: skip


WEATHERING = Weathering(
    "Silvered wood",
    "Bare wood gone silver grey where sun and rain have bleached it.",
    "wash",
    56,
    _make,
    pace=6,
    dials=(
        STAINS,
        patches(0.1, 3),
        RAGGED,
    ),
)
