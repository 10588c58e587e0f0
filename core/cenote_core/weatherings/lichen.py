"""Lichen on copings and sunny stone."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="lichen", break_up=1.0, thickness=0.5, variation=0.3, variation_size=0.5)
    return patina(
        "lichen", surfaces, finish,
        rule("rain", (0.25, 0.6, 1, 1)),
        rule("sun", (2, 6, 18, 18)),
        rule("noise", (0.42, 0.72, 1, 1), size=0.5, detail=4, seed=seed),
        # Between the crusts, whose relief decides where they lie, the stone stays bare.
        amount=0.5,
    )  # fmt: skip


WEATHERING = Weathering(
    "Lichen", "Pale rosettes on copings and stone that lie open to rain and sun for many years.", "lichen", 20, _make
)
