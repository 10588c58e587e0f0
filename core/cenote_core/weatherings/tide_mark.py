"""The dark line where rising damp dries."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, Dial, Sets, Weathering, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#6f675a", stain=1.0, break_up=0.3, roughness=0.9)
    return patina(
        "tide mark", surfaces, finish,
        rule("damp", (0.01, 0.06, 0.2, 0.7), rise=0.4, wave=0.5, seed=seed),
        rule("noise", (0.1, 0.5, 1, 1), size=0.3, detail=4, seed=seed, strength=0.5),
        amount=0.8,
    )  # fmt: skip


WEATHERING = Weathering(
    "Tide mark",
    "A dark wavy line where damp from the ground dries and leaves what it carried.",
    "wash",
    64,
    _make,
    pace=5,
    dials=(
        Dial("rises to", "How high damp rises.", "m", 0.05, 2, (Sets("damp:rise"),)),
        Dial("wavy", "How far its line goes up and down.", "", 0, 1, (Sets("damp:wave"),)),
        STAINS,
    ),
)
