"""Green copper salts."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import HOLLOWS, RAGGED, Weathering, patches, patina, rule, share


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="verdigris", break_up=0.7, thickness=0.2, variation=0.3)
    return patina(
        "verdigris", surfaces, finish,
        rule("rain", (0.02, 0.3, 1, 1), strength=0.85),
        rule("noise", (0.3, 0.6, 1, 1), size=0.2, detail=5, seed=seed),
    )  # fmt: skip


WEATHERING = Weathering(
    "Verdigris",
    "Green crust on copper and bronze, and in streaks below, where rain stands and runs.",
    "verdigris",
    58,
    _make,
    pace=20,
    dials=(
        RAGGED,
        HOLLOWS,
        share(),
        patches(0.03, 1),
    ),
)
