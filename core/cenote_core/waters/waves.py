"""Waves of still and running water: one sum of waves for the plate, for proofs and for the light they throw.

Every wave fits a whole number of times into a tile, so that the sum repeats without a seam. Their steepness by the wind
follows Cox and Munk, *Measurement of the Roughness of the Sea Surface from Photographs of the Sun's Glitter* (1954).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.compass import compass
from ..base.physics import GRAVITY
from ..surfaces.water import TILE

COUNT = 24
"""Waves in a sum."""
TENSION = 7.28e-5
"""Surface tension over density of water, m³/s²."""
CALM, BY_WIND = 0.0003, 0.0005
"""Mean square slope of water in the lee of banks without wind, and what a metre a second adds: a tenth of the open sea's."""
BY_FLOW, FULL_FLOW = 0.014, 0.8
"""Mean square slope of water that runs over stones at most, and the speed (m/s) at which it is that steep."""
_STILL = (0.1, 1.5)
_RUNS = (0.045, 0.3)
"""Shortest and longest wave, metres, on still and on running water."""
_LONG = 0.7
"""Power of the wave number by which the square of the slope falls."""
_SPREAD = 0.6
"""Radians that waves lean from the wind, or from the flow, to either side."""
_OBLIQUE = 0.95
"""Radians by which waves over stones lie across the flow, V after V."""
_HELD = 0.3
"""Share of the flow's speed at which such waves drift: they nearly stand over what makes them."""
_GOLDEN = 0.6180339887


@dataclass(frozen=True)
class Waves:
    """A sum of waves.

    Attributes
    ----------
    number : (N, 2) int, whole waves along x and z of a tile
    height : (N,) metres of each above the mean
    rate : (N,) radians a second
    """

    number: np.ndarray
    height: np.ndarray
    rate: np.ndarray

    @property
    def phase(self) -> np.ndarray:
        """(N,) radians at the start."""
        return np.asarray(2 * np.pi * np.modf(_GOLDEN * (np.arange(len(self.height)) + 1))[0])

    @property
    def vectors(self) -> np.ndarray:
        """(N, 2) radians a metre along x and z."""
        return np.asarray(self.number * (2 * np.pi / TILE))


def _made(lengths: tuple[float, float], bearing: np.ndarray, steepness: float) -> tuple[np.ndarray, np.ndarray]:
    """Whole numbers of waves and their heights: long ones are a little steeper than short ones.

    `bearing` (N,) radians each wave runs to, from x toward z.
    """
    length = np.geomspace(lengths[1], lengths[0], COUNT)
    number = np.round(TILE / length[:, None] * np.column_stack([np.cos(bearing), np.sin(bearing)])).astype(int)
    number[(number == 0).all(axis=1)] = [1, 0]
    k = np.linalg.norm(number, axis=1) * 2 * np.pi / TILE
    share = k**-_LONG / (k**-_LONG).mean()
    return number, np.sqrt(2 * steepness / COUNT * share) / k


def _leaning() -> np.ndarray:
    """(N,) from −1 to 1, evenly and in no order."""
    return np.asarray(2 * np.modf(_GOLDEN * np.arange(1, COUNT + 1) * 3)[0] - 1)


def wind_waves(wind: float, wind_from: float) -> Waves:
    """Waves of still water in a wind of so many m/s from a bearing in degrees."""
    x, z = -compass(wind_from)
    number, height = _made(_STILL, np.arctan2(z, x) + _SPREAD * _leaning(), CALM + BY_WIND * wind)
    k = np.linalg.norm(number, axis=1) * 2 * np.pi / TILE
    return Waves(number, height, np.sqrt(GRAVITY * k + TENSION * k**3))


def flow_waves(flow: np.ndarray) -> Waves:
    """Waves of water that runs at (2,) m/s along x and z: oblique ones over the stones of its bed, and some across."""
    speed = float(np.hypot(*flow))
    steep = CALM + BY_FLOW * min(1.0, speed / FULL_FLOW) ** 1.5
    lean = _leaning()
    oblique = np.where(np.arange(COUNT) % 3 == 0, 0.0, np.sign(lean) * _OBLIQUE)
    bearing = np.arctan2(flow[1], flow[0]) + oblique + 0.5 * _SPREAD * lean
    number, height = _made(_RUNS, bearing, steep)
    return Waves(number, height, _HELD * (number * (2 * np.pi / TILE)) @ np.asarray(flow, float))


def surface(waves: Waves, at: np.ndarray, time: float) -> tuple[np.ndarray, np.ndarray]:
    """(N,) heights in metres and (N, 2) slopes along x and z of places (N, 2) at a time in seconds."""
    angle = at @ waves.vectors.T - waves.rate * time + waves.phase
    slope = (np.cos(angle) * waves.height) @ waves.vectors
    return np.sin(angle) @ waves.height, slope


def on_tile(waves: Waves, side: int, time: float) -> np.ndarray:
    """(side, side, 2) slopes over a tile, rows along z, columns along x, at the middles of the texels.

    By two sums of products of waves along one side each, which is quick: sin(a + b) is one.
    """
    middle = (np.arange(side) + 0.5) * (TILE / side)
    x = np.exp(1j * np.outer(middle, waves.vectors[:, 0]))
    z = np.exp(1j * (np.outer(middle, waves.vectors[:, 1]) - waves.rate * time + waves.phase))
    return np.stack([((z * (waves.height * waves.vectors[:, k])) @ x.T).real for k in (0, 1)], axis=-1)
