"""Height above the site's zero or above the foot of the object, or how far below its top."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ..mesh.mesh import Points
from .ask import Ask
from .rule import METRES, About, Rule


def height(positions: np.ndarray, foot: float = 0.0) -> np.ndarray:
    """(N, 3) positions → (N,) float32 metres above `foot`."""
    return (positions[:, 1] - np.float32(foot)).astype(np.float32)


class HeightRule(Rule):
    """How high a point lies, above the site's zero or above the foot of its own piece."""

    measure: Literal["height"] = "height"
    above: Literal["site", "foot", "top"] = Field(
        default="site",
        description="Height above the site's zero or above the foot of the piece itself, or how far below its top.",
        json_schema_extra={
            "label": "height measured from",
            "words": {
                "site": "above the site’s zero",
                "foot": "above the foot of the piece",
                "top": "below the top of the piece",
            },
        },
    )
    about: ClassVar[About] = About(
        "height", METRES, "above the site’s zero or the foot of the piece, or below its top", "heights", (0, 0.5, 50, 50), place=30, body=True,
        more="measured from",
    )  # fmt: skip

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        if self.above == "top":
            return -height(at.positions, ask.top())
        return height(at.positions, ask.foot() if self.above == "foot" else 0.0)
