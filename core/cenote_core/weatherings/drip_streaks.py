"""Dark streaks below sills, ledges and bolts."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, Dial, Sets, Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#5d574c", stain=1.0, break_up=0.25, roughness=0.95)
    return patina(
        "drip streaks", surfaces, finish,
        rule("runoff", (0.2, 1.0, 100, 100), dry=2.0),
        rule("slope", (40, 65, 180, 180)),
        rule("noise", (0.15, 0.5, 1, 1), size=0.1, detail=3, seed=seed, pattern="streaks", strength=0.7),
        amount=0.75,
    )  # fmt: skip


WEATHERING = Weathering(
    "Drip streaks",
    "Dark streaks where water runs down again and again: below sills, copings, ledges and bolts.",
    "wash",
    74,
    _make,
    pace=10,
    dials=(
        Dial(
            "from much water",
            "Metres of rained-on surface that have to drain there.",
            "m",
            0.02,
            2,
            (Sets("runoff:gate.rise_start"), Sets("runoff:gate.rise_end", 3.0, 0.2)),
        ),
        Dial("runs on for", "Over this way it falls to a third.", "m", 0.2, 10, (Sets("runoff:dry"),)),
        STAINS,
        Dial("narrow", "Width of a streak.", "m", 0.02, 0.6, (Sets("noise:size"),)),
    ),
)
