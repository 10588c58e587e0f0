"""Lee and catch: where wind drops what it carries, and where it throws it against."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ..base.compass import compass
from ..base.fields import quantity
from ..mesh.mesh import Points
from ..mesh.rays import RayScene
from .ask import Trace
from .rule import SHARE, About
from .traced import TracedRule

MULTIPLE = 10.0
"""Behind a wall the wind has its full speed again after so many heights (shelterbelts: van Eimern 1964)."""
REACH = 40.0
"""What stands farther off gives no lee, metres."""
_RAYS = 20
_LIFT = 5e-3


def lee(scene: RayScene, positions: np.ndarray, normals: np.ndarray, wind_from: float) -> np.ndarray:
    """(N,) float32: 0 in the open wind, 1 close behind what stops it.

    The share of rays toward the wind that are stopped, their rises one in m with m spread evenly from 0 to `MULTIPLE`:
    behind a long wall of height H it falls evenly with the distance x, 1 − x / (MULTIPLE · H).
    """
    level = compass(wind_from)
    out = np.zeros(len(positions))
    start = (positions + normals * np.float32(_LIFT)).astype(np.float32)
    for k in range(_RAYS):
        run = (k + 0.5) / _RAYS * MULTIPLE
        toward = np.array([level[0] * run, 1.0, level[1] * run])
        out += 1 - scene.open_toward(start, toward / np.linalg.norm(toward), REACH)
    return (out / _RAYS).astype(np.float32)


def catch(scene: RayScene, positions: np.ndarray, normals: np.ndarray, wind_from: float) -> np.ndarray:
    """(N,) float32: how far a place faces the wind (cosine), where the wind reaches it."""
    level = compass(wind_from)
    faces = np.maximum(normals @ np.array([level[0], 0.0, level[1]], np.float32), 0)
    return np.asarray(faces * (1 - lee(scene, positions, normals, wind_from)), np.float32)


def _trace(rays: RayScene, points: Points, reach: float, *settings: float) -> np.ndarray:
    wind_from, caught = settings
    return (catch if caught else lee)(rays, points.positions, points.normals, wind_from)


class LeeRule(TracedRule):
    """Where wind drops what it carries, behind what stops it; or what it blows against."""

    measure: Literal["lee"] = "lee"
    toward: float = quantity(
        250.0, 0.0, 360.0, "°", "Where the wind mostly comes from, clockwise from north.", 5, "comes from", (0, 360, 1),
        bearing=True,
    )  # fmt: skip
    side: Literal["lee", "catch"] = Field(
        default="lee",
        description="Behind what stops the wind, or what faces it.",
        json_schema_extra={
            "label": "side of the wind",
            "words": {"lee": "behind what stops it", "catch": "what it blows against"},
        },
    )
    about: ClassVar[About] = About(
        "lee of the wind", SHARE, "behind what stops the wind, where dust, sand and leaves come down", "lee",
        (0.3, 0.7, 1, 1), place=67, span=(0, 1), soft=0.15, badge="from {toward}", more="wind",
    )  # fmt: skip

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        return _trace, REACH, (self.toward, float(self.side == "catch"))
