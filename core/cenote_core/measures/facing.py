"""Facing: the angle between a surface's normal and any direction, up and down included."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.compass import sun_direction
from ..base.fields import quantity
from ..mesh.mesh import Points
from .ask import Ask
from .rule import DEGREES, About, Rule


def facing(normals: np.ndarray, bearing: float, elevation: float) -> np.ndarray:
    """(N, 3) unit normals → (N,) float32 degrees from a direction given by bearing and elevation, 0 to 180."""
    cosine = normals.astype(np.float64) @ sun_direction(bearing, elevation)
    return np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))).astype(np.float32)


class FacingRule(Rule):
    """How far the surface faces away from a direction in space: 0° faces it, 180° faces the other way."""

    measure: Literal["facing"] = "facing"
    toward: float = quantity(
        0.0, 0.0, 360.0, "°", "The compass direction, clockwise from north.", 5, "bearing", (0, 360, 1), bearing=True
    )
    elevation: float = quantity(
        90.0, -90.0, 90.0, "°", "90 is straight up, 0 level, −90 straight down.", 5, "elevation", (-90, 90, 1)
    )
    about: ClassVar[About] = About(
        "facing", DEGREES, "how far it faces away from up, down or any direction", "facings", (0, 0, 30, 60), place=25, body=True,
        span=(0, 180), soft=20, badge="from {elevation} up", more="direction",
    )  # fmt: skip

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return facing(at.normals, self.toward, self.elevation)
