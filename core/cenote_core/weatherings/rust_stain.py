"""What rain washes off rusting iron, down over what lies below."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, Dial, Sets, Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#b98250", stain=0.9, break_up=0.25, roughness=0.95)
    return patina(
        "rust stain", surfaces, finish,
        rule("runoff", (0.004, 0.06, 100, 100), dry=1.2),
        rule("noise", (0.2, 0.55, 1, 1), size=0.08, detail=3, seed=seed, pattern="streaks", strength=0.6),
    )  # fmt: skip


WEATHERING = Weathering(
    "Rust stain",
    "Orange runs below rusting iron. Name the rust it is washed off in its rule.",
    "wash",
    42,
    _make,
    pace=10,
    dials=(
        Dial(
            "from much rust",
            "Metres of rusting surface that have to drain there.",
            "m",
            0.001,
            0.3,
            (Sets("runoff:gate.rise_start"), Sets("runoff:gate.rise_end", 8.0, 0.02)),
        ),
        Dial("runs on for", "Over this way it falls to a third.", "m", 0.1, 8, (Sets("runoff:dry"),)),
        STAINS,
    ),
)
