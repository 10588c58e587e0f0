"""Dirt that stays in corners and joints."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import HOLLOWS, STAINS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="grime", stain=0.7, break_up=0.35, fill=0.7)
    return patina(
        "grime in corners", surfaces, finish,
        rule("shelter", (0.04, 0.5, 1, 1), reach=0.2),
        rule("noise", (0.2, 0.6, 1, 1), size=0.4, detail=5, seed=seed, strength=0.6),
        amount=0.85,
    )  # fmt: skip


WEATHERING = Weathering(
    "Grime in corners",
    "Brown dirt that gathers in corners, joints and folds that no rain rinses and no hand wipes.",
    "grime",
    72,
    _make,
    pace=8,
    dials=(
        Dial("corners within", "How near what closes it in has to be.", "m", 0.05, 1, (Sets("shelter:reach"),)),
        STAINS,
        HOLLOWS,
        patches(0.05, 2),
    ),
)
