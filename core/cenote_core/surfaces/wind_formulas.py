"""The formulas by which wind bends plants: one source for proofs, hand-overs and the plate.

Written like `formulas.py`: Numba compiles them as they stand, `glsl.py` translates them. A hierarchical bend: the stem
leans with the wind and swings at its own slow rhythm, branches bob faster about it, leaves flutter fastest (after Sousa,
*Vegetation Procedural Animation and Shading*, 2007, with weights baked into the meshes). Gusts are waves that travel
downwind at the speed of the wind.
"""

from math import sin, sqrt

TURN = 6.283185307179586
STRONG = 12.0
"""At this speed (m/s) a supple stem leans as far as it goes in a steady wind."""
LEAN = 0.16
"""Lean of the stem as a share of the height."""
SWING = 0.35
"""Swing of the stem as a share of its lean."""
BOB = 0.045
"""Bob of branches as a share of the height."""
FLUTTER = 0.014
"""Flutter of leaves, metres."""
SAG = 0.11
"""Metres that boughs of a plant one metre high sag under all the snow they can hold."""
LOADED = 0.08
"""Metres of snow that are half of what boughs can hold."""
SHORTEST = 0.05
"""Metres of height from which plants are reckoned with."""


def gust_wave(along: float, across: float) -> float:
    """How far the wind is above (1) or below (−1) its mean, by places in gust widths along and across it."""
    return 0.6 * sin(TURN * along) + 0.4 * sin(TURN * (1.7 * along + 0.6 * across))


def wind_force(speed: float, gusts: float, wave: float) -> float:
    """Strength where a plant stands, 0 calm, 1 strong."""
    return min(2.0, max(0.0, speed / STRONG * (1.0 + gusts * wave)))


def phase_seed(x: float, z: float) -> float:
    """A number whose fraction is the plant's own phase, by where it stands."""
    return x * 0.731 + z * 1.137


def swing_rate(height: float) -> float:
    """Swings a second."""
    return 1.1 / sqrt(max(height, 0.15))


def stem_lean(height: float, force: float, stem: float, swings: float) -> float:
    """Metres the stem leans downwind after so many `swings`."""
    return height * LEAN * force * stem * (1.0 + SWING * sin(TURN * swings))


def branch_bob(height: float, force: float, branch: float, rate: float, time: float, phase: float) -> float:
    """Metres a branch goes up."""
    return height * BOB * force * branch * sin(TURN * (2.3 * rate * time + phase))


def leaf_flutter(force: float, leaf: float, time: float, phase: float) -> float:
    """Metres a leaf goes across the wind."""
    return FLUTTER * leaf * (force + 0.15) * sin(TURN * (3.7 * time + phase))


def lean_drop(lean: float, height: float) -> float:
    """Metres that what leans comes down, so that stems keep their length."""
    return 0.5 * lean * lean / max(height, SHORTEST)


def snow_load(snow: float, speed: float) -> float:
    """Share 0..1 of what boughs can hold, for metres of snow in the open; wind shakes it off."""
    return snow / (snow + LOADED) * max(0.0, 1.0 - speed / STRONG)


def snow_sag(height: float, load: float, stem: float, branch: float) -> float:
    """Metres that a place on a plant comes down by the snow on it: boughs by their reach, thin stems as a whole."""
    return SAG * sqrt(max(height, SHORTEST)) * load * (branch + 0.6 * stem * stem)
