"""Instances: what stands of a drift, as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

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
    """

    position: np.ndarray
    rotation: np.ndarray
    scale: np.ndarray
    tint: np.ndarray
    asset: np.ndarray
    identity: np.ndarray
    places: int

    def __len__(self) -> int:
        return len(self.position)

    def taken(self, index: np.ndarray) -> Instances:
        """Those of some numbers."""
        return Instances(
            self.position[index],
            self.rotation[index],
            self.scale[index],
            self.tint[index],
            self.asset[index],
            self.identity[index],
            self.places,
        )


def joined(parts: Sequence[Instances]) -> Instances:
    """Several behind each other; places are those of the first."""
    return Instances(
        np.concatenate([p.position for p in parts]),
        np.concatenate([p.rotation for p in parts]),
        np.concatenate([p.scale for p in parts]),
        np.concatenate([p.tint for p in parts]),
        np.concatenate([p.asset for p in parts]),
        np.concatenate([p.identity for p in parts]),
        parts[0].places,
    )
