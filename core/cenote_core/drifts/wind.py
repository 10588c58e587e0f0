"""Wind: how far a plant is bent at a moment. The plate's shader (web/src/plate/windShader.ts) uses the same formulas.

A hierarchical bend: the stem leans with the wind and swings at its own slow rhythm, branches bob faster about it,
leaves flutter fastest (after Sousa, *Vegetation Procedural Animation and Shading*, 2007, with weights baked into the
meshes). Gusts are waves that travel downwind at the speed of the wind.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit, prange

from ..base.compass import compass
from ..plan import WeatherPlan

STRONG = 12.0
"""At this speed (m/s) a supple stem leans as far as it goes in a steady wind."""
LEAN, SWING, BOB, FLUTTER = 0.16, 0.35, 0.045, 0.014
"""Lean and swing of the stem and bob of branches as shares of the height; flutter of leaves in metres."""


@dataclass(frozen=True)
class Wind:
    """The wind at a moment: direction it blows toward (2,), speed m/s, gusts 0..1, gust size m, time s."""

    toward: np.ndarray
    speed: float
    gusts: float
    size: float
    time: float


def wind_of(weather: WeatherPlan) -> Wind:
    """The moment that proofs and hand-overs hold."""
    return Wind(-compass(weather.wind_from), weather.wind, weather.gusts, weather.gust_size, weather.moment)


def push(wind: Wind, feet: np.ndarray) -> np.ndarray:
    """(N,) strength of the wind where plants stand, 0 calm, 1 strong; gusts included."""
    flat = feet[:, [0, 2]].astype(np.float64)
    along = flat @ wind.toward / wind.size - wind.time * wind.speed / wind.size
    across = (flat[:, 0] * -wind.toward[1] + flat[:, 1] * wind.toward[0]) / wind.size
    wave = 0.6 * np.sin(2 * np.pi * along) + 0.4 * np.sin(2 * np.pi * (1.7 * along + 0.6 * across))
    return np.clip(wind.speed / STRONG * (1 + wind.gusts * wave), 0, 2)


def sway_offsets(wind: Wind, feet: np.ndarray, tall: np.ndarray, sway: np.ndarray) -> np.ndarray:
    """(N, V, 3) metres each vertex of each plant is moved by.

    Parameters
    ----------
    feet : (N, 3) where the plants stand
    tall : (N,) their heights, metres
    sway : (V, 4) weights of stem, branch and leaf, and the phase of the branch
    """
    out = np.empty((len(feet), len(sway), 3), np.float32)
    _sway(*rhythm(wind, feet, tall), wind.time, wind.toward, np.asarray(sway, np.float64), out)
    return out


def rhythm(wind: Wind, feet: np.ndarray, tall: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """(N,) push of the wind, own phase, rate of swinging (1/s) and height of plants, as `bent` needs them."""
    own = np.modf(feet[:, 0] * 0.731 + feet[:, 2] * 1.137)[0] % 1.0
    return push(wind, feet), own.astype(np.float64), 1.1 / np.sqrt(np.maximum(tall, 0.15)), tall.astype(np.float64)


@njit(cache=True, nogil=True, inline="always")
def bent(
    force: float, own: float, rate: float, height: float, time: float, toward: np.ndarray,
    stem: float, branch: float, leaf: float, phase: float,
) -> tuple[float, float, float]:  # fmt: skip
    """Metres one vertex of one plant is moved by, along x, y and z."""
    turn = 2 * np.pi
    swing = 1 + SWING * np.sin(turn * (rate * time + own))
    lean = height * LEAN * force * stem * swing
    bob = height * BOB * force * branch * np.sin(turn * (2.3 * rate * time + phase + own))
    flutter = FLUTTER * leaf * (force + 0.15) * np.sin(turn * (3.7 * time + 5 * phase + 3 * own))
    # What leans also comes down, so that stems keep their length.
    down = 0.5 * lean * lean / max(height, 0.05)
    return lean * toward[0] - flutter * toward[1], bob - down, lean * toward[1] + flutter * toward[0]


@njit(cache=True, nogil=True, parallel=True)
def _sway(
    force: np.ndarray, own: np.ndarray, rate: np.ndarray, height: np.ndarray, time: float, toward: np.ndarray,
    sway: np.ndarray, out: np.ndarray,
) -> None:  # fmt: skip
    for n in prange(len(force)):
        for v in range(len(sway)):
            x, y, z = bent(
                force[n], own[n], rate[n], height[n], time, toward, sway[v, 0], sway[v, 1], sway[v, 2], sway[v, 3]
            )
            out[n, v, 0], out[n, v, 1], out[n, v, 2] = x, y, z


def leaned(wind: Wind, feet: np.ndarray, rotation: np.ndarray) -> np.ndarray:
    """(N, 4) quaternions tilted as whole plants lean, for formats that know instances and no bending."""
    angle = np.arctan(0.6 * LEAN * push(wind, feet))
    axis = np.array([wind.toward[1], 0.0, -wind.toward[0]])
    half = np.sin(angle / 2)[:, None] * axis
    x, y, z, w = rotation.T.astype(np.float64)
    a, b, c, d = half[:, 0], half[:, 1], half[:, 2], np.cos(angle / 2)
    out = np.column_stack(
        [
            d * x + a * w + b * z - c * y,
            d * y - a * z + b * w + c * x,
            d * z + a * y - b * x + c * w,
            d * w - a * x - b * y - c * z,
        ]
    )
    return out.astype(np.float32)
