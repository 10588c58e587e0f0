"""The shape of a drop at rest on a level surface, from its contact angle and its size.

Young and Laplace's equation for a body of revolution, integrated from its top (Bashforth and Adams, *An attempt to test
the theories of capillary action*, 1883): small drops are caps of a ball, large ones are flattened by their weight to a
height of 2 λ sin(θ/2) with λ the capillary length.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

CAPILLARY = 0.00271
"""Metres: the length √(γ/ρg) of water over which weight tells."""
_SIZES = 40
_FINEST, _LARGEST = 2e-5, 0.03
"""Metres: radii of curvature at the top between which profiles are worked out."""
_STEPS = 2400
SAMPLES = 33
"""Places along a profile, from the top to the rim."""


@dataclass(frozen=True)
class Profiles:
    """Drops of one contact angle, small to large.

    Attributes
    ----------
    volume, radius, height : (S,) m³ and metres; the radius is that of the foot
    out, down : (S, SAMPLES) metres from the axis and below the top, evenly along the curve from top to rim
    """

    volume: np.ndarray
    radius: np.ndarray
    height: np.ndarray
    out: np.ndarray
    down: np.ndarray


@lru_cache(maxsize=64)
def profiles(angle: float) -> Profiles:
    """Profiles of drops with a contact angle in degrees, 5 to 170."""
    limit = np.radians(float(np.clip(angle, 5.0, 170.0)))
    top = np.geomspace(_FINEST, _LARGEST, _SIZES)
    # Far beyond the capillary length a drop is level over most of its width: its top is all but flat.
    bend = np.concatenate([1 / top, 1 / _LARGEST * np.geomspace(0.5, 1e-4, 14)])
    # Long enough for the flattest to turn down.
    reach = limit * np.minimum(1.3 / bend, 0.02) + CAPILLARY * 10 * (bend < 1 / CAPILLARY)
    state = np.zeros((3, len(bend)))
    path = np.empty((_STEPS + 1, 3, len(bend)))
    path[0] = state
    step = reach / _STEPS
    for n in range(_STEPS):
        one = _turn(state, bend)
        two = _turn(state + one * step / 2, bend)
        three = _turn(state + two * step / 2, bend)
        four = _turn(state + three * step, bend)
        state = state + (one + 2 * two + 2 * three + four) * step / 6
        path[n + 1] = state
    return _cut(path, limit)


def _turn(state: np.ndarray, bend: np.ndarray) -> np.ndarray:
    """Change of radius, depth and angle along the curve."""
    out, down, angle = state
    across = np.where(out > 1e-9, np.sin(angle) / np.maximum(out, 1e-9), bend)
    return np.stack([np.cos(angle), np.sin(angle), 2 * bend + down / CAPILLARY**2 - across])


def _cut(path: np.ndarray, limit: float) -> Profiles:
    """Curves up to where they meet the surface at its angle."""
    found = []
    for out, down, angle in path.transpose(2, 1, 0):
        past = np.flatnonzero(angle >= limit)
        if not len(past):
            continue
        end = past[0]
        share = (limit - angle[end - 1]) / max(angle[end] - angle[end - 1], 1e-12)
        at = np.concatenate([np.arange(end), [end - 1 + share]])
        x, z = np.interp(at, np.arange(len(out)), out), np.interp(at, np.arange(len(down)), down)
        along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x), np.diff(z)))])
        even = np.linspace(0, along[-1], SAMPLES)
        volume = np.pi * np.trapezoid(x * x, z)
        found.append((volume, x[-1], z[-1], np.interp(even, along, x), np.interp(even, along, z)))
    order = sorted(found, key=lambda f: float(f[0]))
    volume, radius, height, out, down = (np.array([f[k] for f in order]) for k in range(5))
    return Profiles(volume, radius, height, out, down)


def foot_of(made: Profiles, volume: np.ndarray) -> np.ndarray:
    """(N,) metres of the foot's radius of drops of (N,) m³; powers of the volume between what was worked out."""
    return np.asarray(np.exp(_between(volume, made.volume, made.radius)))


def volume_of(made: Profiles, foot: np.ndarray) -> np.ndarray:
    """(N,) m³ of drops with a foot of (N,) metres of radius."""
    return np.asarray(np.exp(_between(foot, made.radius, made.volume)))


def _between(at: np.ndarray, known: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Logarithms, straight between those known and on beyond the ends at the slope there."""
    x, log_known, log_values = np.log(np.maximum(at, 1e-30)), np.log(known), np.log(values)
    found = np.interp(x, log_known, log_values)
    first = (log_values[1] - log_values[0]) / (log_known[1] - log_known[0])
    last = (log_values[-1] - log_values[-2]) / (log_known[-1] - log_known[-2])
    found = found + np.minimum(x - log_known[0], 0) * first + np.maximum(x - log_known[-1], 0) * last
    return np.asarray(found)


def curve_of(made: Profiles, volume: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(N, SAMPLES) metres from the axis and (N, SAMPLES) below the top, of drops of (N,) m³."""
    at = np.interp(np.log(volume), np.log(made.volume), np.arange(len(made.volume)))
    low = np.minimum(at.astype(int), len(made.volume) - 2)
    share = (at - low)[:, None]
    size = np.cbrt(volume)[:, None]
    pick = lambda values: (  # noqa: E731
        (values / np.cbrt(made.volume)[:, None])[low] * (1 - share)
        + (values / np.cbrt(made.volume)[:, None])[low + 1] * share
    )
    return pick(made.out) * size, pick(made.down) * size
