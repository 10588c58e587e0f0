"""Aspect: how far a surface faces away from a compass direction."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.compass import compass
from ..base.fields import quantity
from ..mesh.mesh import Points
from .ask import Ask
from .rule import DEGREES, About, Rule


def aspect(normals: np.ndarray, toward: float) -> np.ndarray:
    """(N, 3) normals → (N,) float32 degrees between where they face and a bearing, 0 to 180.

    Level places face every way; they count as 90°, half way between.
    """
    flat = normals[:, [0, 2]].astype(np.float64)
    length = np.hypot(flat[:, 0], flat[:, 1])
    cosine = (flat @ compass(toward)) / np.maximum(length, 1e-9)
    angle = np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0)))
    return np.where(length < 1e-4, 90.0, angle).astype(np.float32)


class AspectRule(Rule):
    """How far the surface faces away from a compass direction: 0° faces it, 180° faces the other way."""

    measure: Literal["aspect"] = "aspect"
    toward: float = quantity(
        0.0, 0.0, 360.0, "°", "The compass direction, clockwise from north.", 5, "facing", (0, 360, 1), bearing=True
    )
    about: ClassVar[About] = About(
        "aspect", DEGREES, "how far it faces away from a compass direction", "aspects", (0, 0, 60, 110), place=20, body=True,
        span=(0, 180), soft=25, badge="from {toward}", more="direction",
    )  # fmt: skip

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return aspect(at.normals, self.toward)
