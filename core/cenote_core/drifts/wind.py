"""Wind: how far a plant is bent at a moment, by the formulas of `surfaces/wind_formulas.py`, as in the plate."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.compass import compass
from ..base.kernels import inlined, kernel, parallel_kernel, prange
from ..plan import WeatherPlan
from ..surfaces import wind_formulas as formulas

_gust_wave, _wind_force = inlined(formulas.gust_wave), inlined(formulas.wind_force)
_stem_lean, _lean_drop = inlined(formulas.stem_lean), inlined(formulas.lean_drop)
_phase_seed, _swing_rate = inlined(formulas.phase_seed), inlined(formulas.swing_rate)
_snow_sag = inlined(formulas.snow_sag)
_branch_bob, _leaf_flutter = inlined(formulas.branch_bob), inlined(formulas.leaf_flutter)


@dataclass(frozen=True)
class Wind:
    """The wind at a moment: direction it blows toward (2,), speed m/s, gusts 0..1, gust size m, time s; and the share of
    the snow they can hold that lies on plants."""

    toward: np.ndarray
    speed: float
    gusts: float
    size: float
    time: float
    load: float = 0.0

    @property
    def still(self) -> bool:
        """Does nothing bend?"""
        return self.speed <= 0 and self.load <= 0


def wind_of(weather: WeatherPlan) -> Wind:
    """The moment that proofs and hand-overs hold."""
    load = formulas.snow_load(weather.fallen.snow, weather.wind)
    return Wind(-compass(weather.wind_from), weather.wind, weather.gusts, weather.gust_size, weather.moment, load)


def push(wind: Wind, feet: np.ndarray) -> np.ndarray:
    """(N,) strength of the wind where plants stand, 0 calm, 1 strong; gusts included."""
    flat = feet[:, [0, 2]].astype(np.float64)
    along = flat @ wind.toward / wind.size - wind.time * wind.speed / wind.size
    across = (flat[:, 0] * -wind.toward[1] + flat[:, 1] * wind.toward[0]) / wind.size
    out = np.empty(len(flat))
    _push(wind.speed, wind.gusts, along, across, out)
    return out


@kernel
def _push(speed: float, gusts: float, along: np.ndarray, across: np.ndarray, out: np.ndarray) -> None:
    for n in range(len(out)):
        out[n] = _wind_force(speed, gusts, _gust_wave(along[n], across[n]))


def sway_offsets(wind: Wind, feet: np.ndarray, tall: np.ndarray, sway: np.ndarray) -> np.ndarray:
    """(N, V, 3) metres each vertex of each plant is moved by.

    Parameters
    ----------
    feet : (N, 3) where the plants stand
    tall : (N,) their heights, metres
    sway : (V, 4) weights of stem, branch and leaf, and the phase of the branch
    """
    out = np.empty((len(feet), len(sway), 3), np.float32)
    _sway(*rhythm(wind, feet, tall), wind.time, wind.load, wind.toward, np.asarray(sway, np.float64), out)
    return out


def rhythm(wind: Wind, feet: np.ndarray, tall: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """(N,) push of the wind, own phase, rate of swinging (1/s) and height of plants, as `bent` needs them."""
    own, rate = np.empty(len(feet)), np.empty(len(feet))
    _own_rhythm(feet, tall, own, rate)
    return push(wind, feet), own, rate, tall.astype(np.float64)


@kernel
def _own_rhythm(feet: np.ndarray, tall: np.ndarray, own: np.ndarray, rate: np.ndarray) -> None:
    for n in range(len(feet)):
        seed = _phase_seed(feet[n, 0], feet[n, 2])
        own[n] = seed - np.floor(seed)
        rate[n] = _swing_rate(tall[n])


@inlined()
def bent(
    force: float, own: float, rate: float, height: float, time: float, load: float, toward: np.ndarray,
    stem: float, branch: float, leaf: float, phase: float,
) -> tuple[float, float, float]:  # fmt: skip
    """Metres one vertex of one plant is moved by, along x, y and z."""
    lean = _stem_lean(height, force, stem, rate * time + own)
    bob = _branch_bob(height, force, branch, rate, time, phase + own)
    flutter = _leaf_flutter(force, leaf, time, 5 * phase + 3 * own)
    down = _lean_drop(lean, height) + _snow_sag(height, load, stem, branch)
    return lean * toward[0] - flutter * toward[1], bob - down, lean * toward[1] + flutter * toward[0]


@parallel_kernel
def _sway(
    force: np.ndarray, own: np.ndarray, rate: np.ndarray, height: np.ndarray, time: float, load: float, toward: np.ndarray,
    sway: np.ndarray, out: np.ndarray,
) -> None:  # fmt: skip
    for n in prange(len(force)):
        for v in range(len(sway)):
            x, y, z = bent(
                force[n], own[n], rate[n], height[n], time, load, toward, sway[v, 0], sway[v, 1], sway[v, 2], sway[v, 3]
            )
            out[n, v, 0], out[n, v, 1], out[n, v, 2] = x, y, z


def leaned(wind: Wind, feet: np.ndarray, rotation: np.ndarray) -> np.ndarray:
    """(N, 4) quaternions tilted as whole plants lean, for formats that know instances and no bending."""
    angle = np.arctan(0.6 * formulas.LEAN * push(wind, feet))
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
