"""Paint that cracks along the grain and comes off in flakes."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import RAGGED, Dial, Sets, Weathering, patches, patina, rule, share


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="bared", break_up=1.0, variation=0.25, variation_size=0.4)
    return patina(
        "flaking paint", surfaces, finish,
        rule("rain", (0.02, 0.3, 1, 1), strength=0.7),
        rule("sun", (1, 6, 24, 24), strength=0.7),
        rule("noise", (0.42, 0.6, 1, 1), size=0.35, detail=6, seed=seed),
    )  # fmt: skip


WEATHERING = Weathering(
    "Flaking paint",
    "Old paint comes off in flakes where sun and rain have worked on it; grey wood shows beneath.",
    "bared",
    52,
    _make,
    pace=22,
    dials=(
        share(),
        RAGGED,
        patches(0.05, 1.5),
        Dial("size of flakes", "Enlargement of its flakes.", "×", 0.3, 3, (Sets("finish.scale"),)),
    ),
)
