"""Noise: seeded patches, streaks, cells and cracks, as a measure."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ..base.cells import cells
from ..base.fields import quantity, seed_field
from ..base.noise import noise
from ..mesh.mesh import Points
from .ask import Ask
from .rule import SHARE, About, Rule

Pattern = Literal["patches", "streaks", "cells", "cracks"]
_DRAWN_OUT = 0.1
"""Streaks are so many times as wide as they are long."""
_CELL_TONE = 0.55
"""Share of a cell's own number in its value; the rest tells how far it is to the cell's middle."""
_CRACK = 0.16
"""Widths of a cell over which a crack runs out."""
_WANDER = 0.35
"""Widths of a cell by which walls between cells wander."""


def pattern(positions: np.ndarray, kind: Pattern, size: float, detail: int, seed: int) -> np.ndarray:
    """(N,) float32 0..1: patches; streaks drawn out along gravity; cells, each with a tone; 1 in cracks between cells."""
    if kind == "patches":
        return noise(positions, size, detail, seed)
    if kind == "streaks":
        return noise(positions * np.array([1, _DRAWN_OUT, 1], np.float32), size, detail, seed)
    wander = np.stack([noise(positions, size, detail, seed + axis) - 0.5 for axis in range(1, 4)], axis=1)
    nearest, second, which = cells(positions + wander * np.float32(2 * _WANDER * size), size, seed)
    if kind == "cracks":
        return np.asarray(1 - np.clip((second - nearest) / _CRACK, 0, 1), np.float32)
    return np.asarray(_CELL_TONE * which + (1 - _CELL_TONE) * np.clip(1 - nearest, 0, 1), np.float32)


class NoiseRule(Rule):
    """Seeded fractal unevenness, 0 to 1: patches, streaks along gravity, cells or the cracks between them."""

    measure: Literal["noise"] = "noise"
    pattern: Pattern = Field(
        default="patches",
        description="What the unevenness is like.",
        json_schema_extra={
            "label": "pattern of the noise",
            "words": {
                "patches": "patches", "streaks": "streaks down it", "cells": "cells", "cracks": "cracks",
            },
        },
    )  # fmt: skip
    size: float = quantity(
        1.5, 0.01, 100.0, "m", "Width of a typical patch or cell.", 0.1, "patch width", (0.02, 20, 2)
    )
    detail: int = Field(
        default=3, ge=1, le=8, description="How many finer layers are added.",
        json_schema_extra={"label": "finer layers", "slider": [1, 8, 1]},
    )  # fmt: skip
    seed: int = seed_field()
    about: ClassVar[About] = About(
        "noise", SHARE, "seeded patches", "noise", (0.4, 0.6, 1, 1), place=70, body=True, span=(0, 1), soft=0.15,
        badge="of {size} m", more="patches",
    )  # fmt: skip

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return pattern(at.positions, self.pattern, self.size, self.detail, self.seed)
