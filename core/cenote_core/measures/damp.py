"""Standing damp: water that rises from the ground into what stands on it, with an uneven front."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import quantity, seed_field
from ..base.noise import noise
from ..mesh.mesh import Points
from .ask import Ask
from .rule import SHARE, About, Rule

_DETAIL = 4
"""Layers of unevenness of the front."""


def damp(positions: np.ndarray, ground: np.ndarray, rise: float, wave: float, size: float, seed: int) -> np.ndarray:
    """(N,) float32: 1 at the ground, falling evenly to 0 at the front.

    The front stands at `rise` · (1 + `wave` · n) over the ground with a noise n between −1 and 1 of width `size`: the
    height at which as much dries off as rises (sharp front: Hall and Hoff 2007), told by how porous a wall is there.
    """
    uneven = 2 * noise(positions * np.array([1, 0.15, 1], np.float32), size, _DETAIL, seed) - 1
    front = rise * (1 + wave * uneven)
    return np.clip(1 - (positions[:, 1] - ground) / np.maximum(front, 1e-3), 0, 1).astype(np.float32)


class DampRule(Rule):
    """How damp a place is from below: 1 at the ground, 0 above the front of what has risen."""

    measure: Literal["damp"] = "damp"
    rise: float = quantity(0.4, 0.01, 5.0, "m", "How high damp rises from the ground.", 0.05, "rises", (0.05, 1.5, 1.5))
    wave: float = quantity(0.5, 0.0, 1.0, "", "How far its front goes up and down.", 0.05, "wavy", (0, 1, 1))
    size: float = quantity(0.8, 0.05, 20.0, "m", "Width of one wave.", 0.05, "wave", (0.1, 4, 1.5))
    seed: int = seed_field()
    about: ClassVar[About] = About(
        "standing damp", SHARE, "damp that rises from the ground, with a wavy front", "damp", (0.05, 0.35, 1, 1),
        place=66, span=(0, 1), soft=0.15, badge="to {rise} m", more="front",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.ground_ref()

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        heights, _ = ask.heights()
        ground = ask.on_ground(heights, at.positions)
        return damp(at.positions, ground, self.rise, self.wave, self.size, self.seed)
