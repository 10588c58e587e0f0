"""White salts where damp dries out of a wall."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import RAGGED, Dial, Sets, Weathering, patches, patina, rule, share


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="salts", break_up=1.0, fill=0.2, thickness=0.3, variation=0.3)
    return patina(
        "salts", surfaces, finish,
        rule("damp", (0.02, 0.15, 0.35, 0.7), rise=0.55, wave=0.6, seed=seed),
        rule("rain", (0, 0, 0.3, 0.8)),
        rule("noise", (0.42, 0.66, 1, 1), size=0.3, detail=6, seed=seed),
        amount=0.4,
    )  # fmt: skip


WEATHERING = Weathering(
    "Salts",
    "White bloom of salts in a band above the foot, where rising damp dries out of the wall.",
    "salts",
    66,
    _make,
    pace=6,
    dials=(
        Dial("rises to", "How high damp rises.", "m", 0.05, 2, (Sets("damp:rise"),)),
        share(),
        RAGGED,
        patches(0.05, 1.5),
    ),
)
