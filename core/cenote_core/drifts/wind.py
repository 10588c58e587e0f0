"""Wind: how far a plant is bent at a moment. The plate's shader (web/src/plate/windShader.ts) uses the same formulas.

A hierarchical bend: the stem leans with the wind and swings at its own slow rhythm, branches bob faster about it,
leaves flutter fastest (after Sousa, *Vegetation Procedural Animation and Shading*, 2007, with weights baked into the
meshes). Gusts are waves that travel downwind at the speed of the wind.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..measures.aspect import compass
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
    force = push(wind, feet)[:, None]
    own = np.modf(feet[:, 0] * 0.731 + feet[:, 2] * 1.137)[0][:, None] % 1.0
    rate = (1.1 / np.sqrt(np.maximum(tall, 0.15)))[:, None]
    height = tall[:, None]
    stem, branch, leaf, phase = (sway[None, :, k] for k in range(4))
    swing = 1 + SWING * np.sin(2 * np.pi * (rate * wind.time + own))
    lean = height * LEAN * force * stem * swing
    bob = height * BOB * force * branch * np.sin(2 * np.pi * (2.3 * rate * wind.time + phase + own))
    flutter = FLUTTER * leaf * (force + 0.15) * np.sin(2 * np.pi * (3.7 * wind.time + 5 * phase + 3 * own))
    side = np.array([-wind.toward[1], wind.toward[0]])
    x = lean * wind.toward[0] + flutter * side[0]
    z = lean * wind.toward[1] + flutter * side[1]
    # What leans also comes down, so that stems keep their length.
    y = bob - 0.5 * lean**2 / np.maximum(height, 0.05)
    return np.stack([x, y + 0 * x, z], axis=-1).astype(np.float32)


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
