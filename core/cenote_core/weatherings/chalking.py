"""Paint gone pale and powdery in the sun."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import RAGGED, Dial, Sets, Weathering, patches, patina, rule


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="wash", tint="#d8d6cc", stain=0.0, break_up=0.2, roughness=1.2, relief=0.2)
    return patina(
        "chalking", surfaces, finish,
        rule("sun", (3, 9, 24, 24)),
        rule("noise", (0.1, 0.8, 1, 1), size=0.6, detail=4, seed=seed, strength=0.8),
        amount=0.3,
    )  # fmt: skip


WEATHERING = Weathering(
    "Chalking",
    "Paint gone pale and powdery where the sun lies on it for years.",
    "wash",
    54,
    _make,
    pace=15,
    dials=(
        Dial(
            "wants sun for",
            "Hours of summer sun until it is full.",
            "h",
            1,
            14,
            (Sets("sun:gate.rise_end"), Sets("sun:gate.rise_start", 0.35)),
        ),
        patches(0.1, 3),
        RAGGED,
    ),
)
