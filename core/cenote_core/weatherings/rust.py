"""Rust from edges and where rain stands on iron."""

from __future__ import annotations

from ..plan import Finish, PatinaPlan
from .weathering import RAGGED, Weathering, patches, patina, rule, share, thick


def _make(surfaces: list[str], seed: int) -> PatinaPlan:
    finish = Finish(material="rusted_steel", break_up=0.8, thickness=0.4, variation=0.35, variation_size=0.3)
    return patina(
        "rust", surfaces, finish,
        rule("rain", (0.02, 0.2, 1, 1), strength=0.8),
        rule("noise", (0.46, 0.62, 1, 1), size=0.25, detail=6, seed=seed),
    )  # fmt: skip


WEATHERING = Weathering(
    "Rust",
    "Scabs of rust through paint and on bare iron, where rain reaches.",
    "rusted_steel",
    40,
    _make,
    pace=14,
    dials=(
        RAGGED,
        thick(4),
        share(),
        patches(0.03, 1.5),
    ),
)
