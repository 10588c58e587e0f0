"""Sand that the wind drops in its lee."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import HOLLOWS, Dial, Sets, Weathering, patches, patina, rule, thick


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="sand", break_up=0.4, fill=0.9, thickness=14, variation=0.15, variation_size=1.0)
    return patina(
        "blown sand", surfaces, finish,
        rule("lee", (0.2, 0.6, 1, 1)),
        rule("facing", (0, 0, 30, 75), elevation=90.0),
        rule("noise", (0.2, 0.55, 1, 1), size=1.2, detail=5, seed=seed, strength=0.7),
    )  # fmt: skip


WEATHERING = Weathering(
    "Blown sand",
    "Sand dropped in the lee of the wind and banked against feet, filling joints and hollows first.",
    "sand",
    82,
    _make,
    pace=4,
    dials=(
        Dial(
            "behind much",
            "How far it has to lie out of the wind.",
            "",
            0,
            0.6,
            (Sets("lee:gate.rise_start"), Sets("lee:gate.rise_end", 1.0, 0.35)),
        ),
        thick(60),
        HOLLOWS,
        patches(0.2, 5),
    ),
)
