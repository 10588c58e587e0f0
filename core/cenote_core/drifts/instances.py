"""Instances: what stands of a drift, as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np


@dataclass(frozen=True)
class Instances:
    """What stands of one drift, in an order of which every beginning is evenly spread.

    Attributes
    ----------
    position : (N, 3) float32, metres
    rotation : (N, 4) float32, quaternion x, y, z, w
    scale : (N,) float32
    tint : (N, 3) float32, factors on the colour, linear
    asset : (N,) int32, index into the drift's assets
    identity : (N,) uint64
    places : int, places the spacing allows before rules
    mirrored : (N,) bool, left and right changed over before turning: x of the asset's own becomes −x
    """

    position: np.ndarray
    rotation: np.ndarray
    scale: np.ndarray
    tint: np.ndarray
    asset: np.ndarray
    identity: np.ndarray
    places: int
    mirrored: np.ndarray

    def __len__(self) -> int:
        return len(self.position)

    def taken(self, index: np.ndarray) -> Instances:
        """Those of some numbers."""
        return Instances(**{name: getattr(self, name)[index] for name in _ARRAYS}, places=self.places)


_ARRAYS = [field.name for field in fields(Instances) if field.name != "places"]


def joined(parts: Sequence[Instances]) -> Instances:
    """Several behind each other; places are those of the first."""
    arrays = {name: np.concatenate([getattr(part, name) for part in parts]) for name in _ARRAYS}
    return Instances(**arrays, places=parts[0].places)
