"""Rain and snow in the air: where each drop and flake is, how fast it goes, and the streak it leaves while it is seen.

Drops are many and small or few and large as rain is strong (Marshall and Palmer, *The distribution of raindrops with
size*, 1948) and fall at the speed at which the air carries their weight (Atlas, Srivastava and Sekhon 1973).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.compass import compass

SHUTTER, FLAKE_SHUTTER = 1 / 60, 1 / 220
"""Seconds a drop is seen for, as on film, and a flake: it is snowed on by day, when shutters are short."""
REACH = 9.0
"""Metres from the eye within which single drops and flakes are seen; farther off they are haze."""
_MOST = 14_000
N0 = 8000.0
"""Drops per cubic metre and millimetre of diameter, for diameters that go to nothing."""
_LEAST, _LARGEST = 0.9, 5.0
"""Millimetres: smaller drops are not seen by themselves, larger ones break up."""
_FLAKE = (2.5, 7.0)
"""Millimetres across a flake."""
_FLAKES = 220.0
"""Flakes per cubic metre for each centimetre of snow an hour, of those large enough to be seen."""
_FLAKE_FALLS = 1.1
_TOSSED = 0.5
"""Metres a second by which flakes go their own ways."""


@dataclass(frozen=True)
class Falling:
    """Drops or flakes in the air.

    Attributes
    ----------
    at : (N, 3) float64 where each is when the shutter opens, metres
    velocity : (N, 3) float64 metres a second
    size : (N,) float64 metres across
    shutter : seconds it is seen for
    """

    at: np.ndarray
    velocity: np.ndarray
    size: np.ndarray
    shutter: float = SHUTTER


def slope_of(rain: float) -> float:
    """Λ of Marshall and Palmer's distribution N₀ exp(−Λ D), per millimetre, for rain in mm/h."""
    return float(4.1 * max(rain, 1e-6) ** -0.21)


def drops_a_cubic_metre(rain: float) -> float:
    """How many drops that can be seen there are in a cubic metre of air."""
    slope = slope_of(rain)
    return float(N0 / slope * (np.exp(-slope * _LEAST) - np.exp(-slope * _LARGEST))) if rain > 0 else 0.0


def falls_at(diameter: np.ndarray) -> np.ndarray:
    """(N,) metres a second at which drops of (N,) millimetres fall (Atlas, Srivastava and Sekhon 1973)."""
    return np.asarray(np.maximum(9.65 - 10.3 * np.exp(-0.6 * diameter), 0.1))


def rain_in_the_air(eye: np.ndarray, rain: float, wind_from: float, wind: float, moment: float) -> Falling:
    """Drops within `REACH` of an eye (3,); the same for the same moment."""
    where, chance = _scattered(eye, drops_a_cubic_metre(rain), 811, moment)
    slope = slope_of(rain)
    low, high = np.exp(-slope * _LEAST), np.exp(-slope * _LARGEST)
    diameter = -np.log(low - chance[:, 0] * (low - high)) / slope
    level = -compass(wind_from) * wind
    falls = falls_at(diameter)
    velocity = np.column_stack([np.full(len(where), level[0]), -falls, np.full(len(where), level[1])])
    return Falling(where, velocity, diameter / 1000)


def snow_in_the_air(eye: np.ndarray, snowfall: float, wind_from: float, wind: float, moment: float) -> Falling:
    """Flakes within `REACH` of an eye (3,); the same for the same moment."""
    where, chance = _scattered(eye, _FLAKES * snowfall, 823, moment)
    level = -compass(wind_from) * wind * 0.6
    own = (chance[:, 1:4] - 0.5) * 2 * _TOSSED
    velocity = own + np.array([level[0], -_FLAKE_FALLS, level[1]])
    return Falling(where, velocity, (_FLAKE[0] + (_FLAKE[1] - _FLAKE[0]) * chance[:, 0] ** 2) / 1000, FLAKE_SHUTTER)


def _scattered(eye: np.ndarray, density: float, seed: int, moment: float) -> tuple[np.ndarray, np.ndarray]:
    """(N, 3) places round an eye, as many to a cubic metre, and (N, 4) numbers 0..1 of each."""
    wanted = int(round(density * (2 * REACH) ** 3))
    count = min(wanted, _MOST)
    rng = np.random.Generator(np.random.Philox(key=[seed, int(round(moment * 1000)) + 1]))
    # Where there would be too many they are taken nearer: far ones are haze anyway.
    reach = REACH * (count / max(wanted, 1)) ** (1 / 3)
    return eye + (rng.random((count, 3)) * 2 - 1) * max(reach, 2.0), rng.random((count, 4))


def ends(falling: Falling) -> tuple[np.ndarray, np.ndarray]:
    """(N, 3) where each is when the shutter opens, and (N, 3) where it is when it closes."""
    return falling.at, falling.at + falling.velocity * falling.shutter
