"""Slope: the angle between the surface's normal and straight up."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..mesh.mesh import Points
from .ask import Ask
from .rule import DEGREES, About, Rule


def slope(normals: np.ndarray) -> np.ndarray:
    """(N, 3) unit normals → (N,) float32 degrees: 0 level, 90 upright, 180 facing down."""
    return np.degrees(np.arccos(np.clip(normals[:, 1], -1.0, 1.0))).astype(np.float32)


class SlopeRule(Rule):
    """How steep the surface is: 0° level, 90° upright, 180° facing down."""

    measure: Literal["slope"] = "slope"
    about: ClassVar[About] = About(
        "slope", DEGREES, "0° level, 90° upright", "slopes", (0, 0, 35, 50), place=10, body=True, span=(0, 90), soft=8
    )

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return slope(at.normals)
