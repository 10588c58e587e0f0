"""Ways rubbed bare and smooth by feet."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import STAINS, TOPS, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#cfc8ba", stain=0.1, break_up=0.3, roughness=0.55, relief=0.1, fill=-0.6)
    return patina(
        "worn tread", surfaces, finish,
        rule("facing", (0, 0, 12, 30), elevation=90.0),
        rule("worn", (0.03, 0.3, 1, 1), reach=0.12),
        rule("noise", (0.2, 0.6, 1, 1), size=0.5, detail=4, seed=seed, strength=0.6),
        amount=0.5,
    )  # fmt: skip


WEATHERING = Weathering(
    "Worn tread",
    "Stone rubbed smooth and pale where people walk: level places and edges that stick out.",
    "wash",
    84,
    _make,
    pace=30,
    dials=(
        Dial("reaches in", "How far from an edge it is rubbed.", "m", 0.02, 0.5, (Sets("worn:reach"),)),
        STAINS,
        TOPS,
        patches(0.1, 2),
    ),
)
