"""Lichen on copings and sunny stone."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import Dial, Sets, Weathering, patches, patina, rule, thick


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="lichen", break_up=1.0, thickness=0.8, variation=0.3, variation_size=0.5)
    return patina(
        "lichen", surfaces, finish,
        rule("rain", (0.25, 0.6, 1, 1)),
        rule("sun", (2, 6, 18, 18)),
        rule("noise", (0.42, 0.72, 1, 1), size=0.5, detail=4, seed=seed),
        amount=0.6,
    )  # fmt: skip


WEATHERING = Weathering(
    "Lichen",
    "Pale rosettes on copings and stone that lie open to rain and sun for many years.",
    "lichen",
    20,
    _make,
    pace=16,
    dials=(
        Dial(
            "wants sun for",
            "Hours of summer sun it wants.",
            "h",
            0,
            12,
            (Sets("sun:gate.rise_end"), Sets("sun:gate.rise_start", 0.3)),
        ),
        thick(3),
        Dial("size of crusts", "Enlargement of its rosettes.", "×", 0.3, 3, (Sets("finish.scale"),)),
        patches(0.1, 2),
    ),
)
