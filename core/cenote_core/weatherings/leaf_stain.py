"""Brown marks that wet leaves leave."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, Weathering, patches, patina, rule, share


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#7a5f43", stain=0.95, break_up=0.2, roughness=0.95)
    return patina(
        "leaf stain", surfaces, finish,
        rule("facing", (0, 0, 20, 50), elevation=90.0),
        rule("rain", (0.05, 0.4, 1, 1)),
        rule("noise", (0.55, 0.66, 1, 1), size=0.15, detail=5, seed=seed),
        amount=0.7,
    )  # fmt: skip


WEATHERING = Weathering(
    "Leaf stain",
    "Brown blots of tannin where wet leaves lie: level places below trees and in corners.",
    "wash",
    62,
    _make,
    pace=4,
    dials=(
        share(),
        STAINS,
        patches(0.05, 1),
    ),
)
