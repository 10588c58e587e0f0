"""Camera: distance from the stations that see a place, or see the shadow it throws."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..plan import StationPlan
from ..proofs.camera import in_view
from .distance import FAR

ASPECT = 1.6
_SHADOWS = (2.0, 5.0, 9.0, 14.0)
"""Heights whose shadows are looked at, metres."""


def camera(
    positions: np.ndarray, stations: Sequence[StationPlan], sun: np.ndarray | None = None, margin: float = 1.0
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
