"""Camera: distance from the stations that see a place, or see the shadow it throws."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np

from ..base.compass import sun_direction
from ..base.fields import ItemId
from ..mesh.mesh import Points
from ..stations.camera import ASPECT, Viewpoint, in_view
from .ask import Ask
from .distance import FAR
from .rule import METRES, About, Rule, choose

_SHADOWS = (2.0, 5.0, 9.0, 14.0)
"""Heights whose shadows are looked at, metres."""


def camera(
    positions: np.ndarray, stations: Sequence[Viewpoint], sun: np.ndarray | None = None, margin: float = 1.0
) -> np.ndarray:
    """(N,) float32 metres from the nearest station that has the place in its picture; FAR where none has.

    Parameters
    ----------
    sun : (3,) or None
        Direction to the sun. If given, places outside the picture whose shadow may fall into it count as seen.
    """
    out = np.full(len(positions), FAR, np.float32)
    for station in stations:
        distance = np.linalg.norm(positions - np.asarray(station.position), axis=1)
        seen = in_view(station, ASPECT, positions, margin)
        if sun is not None and sun[1] > 0.02:
            for tall in _SHADOWS:
                thrown = positions - sun * (tall / sun[1]) + np.array([0.0, tall, 0.0])
                seen |= in_view(station, ASPECT, thrown, margin)
        out = np.where(seen, np.minimum(out, distance), out).astype(np.float32)
    return out


class CameraRule(Rule):
    """Distance from the nearest station that has the place in its picture, metres; far beyond what none sees."""

    measure: Literal["camera"] = "camera"
    stations: list[ItemId] = choose("station", "all stations", 32, "Which stations; none named: all.")
    about: ClassVar[About] = About(
        "camera", METRES, "distance from the stations that see it or its shadow", "distances from the camera",
        (0, 0, 40, 60), place=150, distance=True, cuts=False, more="which stations", only=("drift",),
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.stations(self.stations), ask.light.azimuth, ask.light.elevation

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        sun = sun_direction(ask.light.azimuth, ask.light.elevation)
        return camera(at.positions, ask.stations(self.stations), sun)
