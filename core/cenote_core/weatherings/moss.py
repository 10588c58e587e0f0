"""Moss in joints and on damp, shaded sides."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import HOLLOWS, Dial, Sets, Weathering, patches, patina, rule, thick


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="moss", break_up=0.7, fill=0.7, thickness=9, variation=0.35, variation_size=0.6)
    return patina(
        "moss", surfaces, finish,
        rule("sun", (0, 0, 3, 9)),
        rule("rain", (0.04, 0.25, 1, 1)),
        rule("noise", (0.36, 0.66, 1, 1), size=0.8, detail=5, seed=seed),
    )  # fmt: skip


WEATHERING = Weathering(
    "Moss",
    "Cushions in joints and hollows where rain comes and the sun does not stay.",
    "moss",
    10,
    _make,
    pace=6,
    dials=(
        Dial(
            "bears sun for",
            "Hours of summer sun it bears before it thins out.",
            "h",
            0,
            12,
            (Sets("sun:gate.fall_start"), Sets("sun:gate.fall_end", 1.5, 3.0)),
        ),
        thick(25),
        HOLLOWS,
        patches(0.1, 3),
    ),
)
