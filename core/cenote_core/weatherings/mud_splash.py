"""Mud that rain throws up along a foot."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="soil", break_up=0.9, stain=0.25, relief=0.4, variation=0.2, scale=0.5)
    return patina(
        "mud splash", surfaces, finish,
        rule("contact", (0, 0, 0.05, 0.45), reach=0.6),
        rule("noise", (0.34, 0.7, 1, 1), size=0.3, detail=6, seed=seed),
        amount=0.8,
    )  # fmt: skip


WEATHERING = Weathering(
    "Mud splash", "Soil that rain throws up, thick along the foot and gone at knee height.", "soil", 60, _make
)
