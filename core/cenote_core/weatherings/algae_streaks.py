"""Green streaks where water runs down and dries slowly."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, Dial, Sets, Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#56703a", stain=0.8, break_up=0.35, roughness=0.75)
    return patina(
        "algae streaks", surfaces, finish,
        rule("runoff", (0.15, 0.7, 100, 100), dry=3.0),
        rule("slope", (40, 65, 180, 180)),
        rule("sun", (0, 0, 5, 12)),
        rule("noise", (0.2, 0.55, 1, 1), size=0.12, detail=3, seed=seed, pattern="streaks", strength=0.7),
    )  # fmt: skip


WEATHERING = Weathering(
    "Algae streaks",
    "Green streaks below edges and joints that water runs from, on sides the sun seldom dries.",
    "wash",
    32,
    _make,
    pace=8,
    dials=(
        Dial(
            "from much water",
            "Metres of rained-on surface that have to drain there.",
            "m",
            0.02,
            2,
            (Sets("runoff:gate.rise_start"), Sets("runoff:gate.rise_end", 3.0, 0.1)),
        ),
        Dial("runs on for", "Over this way it falls to a third.", "m", 0.2, 10, (Sets("runoff:dry"),)),
        Dial(
            "bears sun for",
            "Hours of summer sun it bears.",
            "h",
            0,
            12,
            (Sets("sun:gate.fall_start"), Sets("sun:gate.fall_end", 1.5, 3.0)),
        ),
        STAINS,
    ),
)
