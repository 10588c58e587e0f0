"""Noise: seeded patches, as a measure."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ..base.fields import quantity, seed_field
from ..base.noise import noise
from ..mesh.mesh import Points
from .ask import Ask
from .rule import SHARE, About, Rule


class NoiseRule(Rule):
    """Seeded fractal unevenness, for patches; 0 to 1 with its middle at 0.5."""

    measure: Literal["noise"] = "noise"
    size: float = quantity(1.5, 0.02, 100.0, "m", "Width of a typical patch.", 0.1, "patch width", (0.02, 20, 2))
    detail: int = Field(
        default=3, ge=1, le=8, description="How many finer layers are added.",
        json_schema_extra={"label": "finer layers", "slider": [1, 8, 1]},
    )  # fmt: skip
    seed: int = seed_field()
    about: ClassVar[About] = About(
        "noise", SHARE, "seeded patches", "noise", (0.4, 0.6, 1, 1), place=70, span=(0, 1), soft=0.15,
        badge="of {size} m", more="patches",
    )  # fmt: skip

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return noise(at.positions, self.size, self.detail, self.seed)
