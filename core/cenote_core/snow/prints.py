"""Footprints in snow: where they go along a walked way, and how the cover of snow is pressed down by them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..hashing import uniform

STEP = 0.36
"""Metres from one footprint to the next of the other foot, walking in snow."""
ASIDE = 0.085
"""Metres a foot stands off the middle of the way."""
LONG, WIDE = 0.29, 0.102
"""Metres of a boot's sole."""
_HEEL, _WAIST = 0.8, 0.72
"""Width of its heel and of its waist against the ball."""
PRESSED = 0.72
"""Share of the snow's depth by which a foot sinks in."""
_WALL = 0.014
"""Metres over which the sides of a print come up."""
_RIM_UP, _RIM_WIDE = 0.16, 0.035
"""How far what is pushed out stands up, as a share of a print's depth, and metres over which it runs out."""
_TREAD = 0.0035
"""Metres the bars of a sole stand out, and how far apart they are."""
_BARS = 0.021
_TOES_OUT, _STRAYS = 6.0, 7.0
"""Degrees a foot points outward, and strays."""
_FINEST = 0.011
"""Metres of the longest edge of a cover within a print."""
_ROUNDS = 7


@dataclass(frozen=True)
class Prints:
    """Footprints.

    Attributes
    ----------
    at : (N, 2) float64 metres east and south
    ahead : (N, 2) float64 unit vectors toward the toes
    """

    at: np.ndarray
    ahead: np.ndarray

    def __len__(self) -> int:
        return len(self.at)


def along(way: np.ndarray) -> Prints:
    """Footprints of somebody who walks along a way (K, 2) of points in metres."""
    steps = np.linalg.norm(np.diff(way, axis=0), axis=1)
    gone = np.concatenate([[0.0], np.cumsum(steps)])
    count = int(gone[-1] / STEP) + 1
    number = np.arange(count)
    far = number * STEP
    at = np.column_stack([np.interp(far, gone, way[:, k]) for k in (0, 1)])
    before, after = (
        np.column_stack([np.interp(np.clip(far + d, 0, gone[-1]), gone, way[:, k]) for k in (0, 1)])
        for d in (-STEP, STEP)
    )
    ahead = after - before
    ahead = ahead / np.maximum(np.linalg.norm(ahead, axis=1, keepdims=True), 1e-9)
    foot = np.where(number % 2 == 0, 1.0, -1.0)
    aside = np.column_stack([-ahead[:, 1], ahead[:, 0]])
    at = at + aside * (foot * ASIDE * (0.8 + 0.4 * uniform(number.astype(np.uint64), 61)))[:, None]
    turn = np.radians(foot * _TOES_OUT + _STRAYS * (2 * uniform(number.astype(np.uint64), 62) - 1))
    c, s = np.cos(turn), np.sin(turn)
    return Prints(at, np.column_stack([ahead[:, 0] * c - ahead[:, 1] * s, ahead[:, 0] * s + ahead[:, 1] * c]))


def _outside(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Metres outside a sole, less than nothing within; `x` toward the toes, `y` across, from its middle."""
    t = np.clip(x / LONG + 0.5, 0, 1)
    # Heel, waist and ball, round at both ends.
    ball = np.exp(-(((t - 0.68) / 0.26) ** 2))
    heel = np.exp(-(((t - 0.14) / 0.2) ** 2))
    half = WIDE / 2 * np.clip(_WAIST + (1 - _WAIST) * ball + (_HEEL - _WAIST) * heel, 0, 1)
    end = np.maximum(np.abs(x) - (LONG / 2 - half), 0)
    return np.asarray(np.hypot(end, y) - half)


def pressed(prints: Prints, at: np.ndarray, depth: np.ndarray) -> np.ndarray:
    """(V,) metres by which places (V, 2) of a cover (V,) deep go down (above 0) or up at the rims of prints."""
    out, down = np.zeros(len(at)), np.zeros(len(at))
    for middle, ahead in zip(prints.at, prints.ahead, strict=True):
        near = np.flatnonzero(np.abs(at - middle).max(axis=1) < LONG)
        if not len(near):
            continue
        delta = at[near] - middle
        x, y = delta @ ahead, delta @ np.array([-ahead[1], ahead[0]])
        outside = _outside(x, y)
        deep = PRESSED * depth[near]
        t = np.clip(0.5 - outside / _WALL, 0, 1)
        sole = t * t * (3 - 2 * t)
        bars = _TREAD * np.clip(2.5 * np.sin(2 * np.pi * x / _BARS), -1, 1) * (outside < -0.008)
        rim = _RIM_UP * deep * np.exp(-np.maximum(outside, 0) / _RIM_WIDE) * (1 - sole)
        down[near] = np.maximum(down[near], sole * deep - np.minimum(bars, 0.3 * deep) * sole)
        out[near] = np.maximum(out[near], rim)
    return np.where(down > 0.0, down - out * (down < 1e-4), -out)


def refined(positions: np.ndarray, faces: np.ndarray, prints: Prints) -> tuple[np.ndarray, np.ndarray]:
    """A mesh with its edges near prints halved until they are fine enough to show them, without gaps."""
    for _ in range(_ROUNDS):
        edges = np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        pairs, which = np.unique(edges, axis=0, return_inverse=True)
        which = which.reshape(-1, 3)
        a, b = positions[pairs[:, 0]], positions[pairs[:, 1]]
        long = np.linalg.norm(a - b, axis=1)
        split = (long > _FINEST) & _near(prints, ((a + b) / 2)[:, [0, 2]], 0.6 * LONG + long / 2)
        if not split.any():
            break
        number = np.full(len(pairs), -1)
        number[split] = len(positions) + np.arange(int(split.sum()))
        positions = np.concatenate([positions, ((a + b) / 2)[split]])
        faces = _halved(faces, number[which])
    return positions, faces


def _near(prints: Prints, at: np.ndarray, reach: np.ndarray) -> np.ndarray:
    """(E,) bool: is a place within its reach of a print's middle?"""
    out = np.zeros(len(at), bool)
    for middle in prints.at:
        out |= np.hypot(*(at - middle).T) < reach
    return out


def _halved(faces: np.ndarray, middle: np.ndarray) -> np.ndarray:
    """Triangles whose sides (from corner k to the next) have a new vertex `middle` (F, 3), or −1, in their midst."""
    count = (middle >= 0).sum(axis=1)
    out = [faces[count == 0]]
    # Turned until the sides that are halved come first.
    for wanted in (1, 2, 3):
        f, m = faces[count == wanted], middle[count == wanted]
        if not len(f):
            continue
        shift = np.zeros(len(f), int)
        for k in (2, 1, 0):
            ahead = np.stack([m[np.arange(len(f)), (k + j) % 3] >= 0 for j in range(wanted)])
            shift = np.where(ahead.all(axis=0), k, shift)
        pick = (shift[:, None] + np.arange(3)) % 3
        f, m = np.take_along_axis(f, pick, 1), np.take_along_axis(m, pick, 1)
        (a, b, c), (p, q, r) = f.T, m.T
        if wanted == 1:
            made = [(a, p, c), (p, b, c)]
        elif wanted == 2:
            made = [(a, p, c), (p, q, c), (p, b, q)]
        else:
            made = [(a, p, r), (p, b, q), (r, q, c), (p, q, r)]
        out += [np.stack(corners, axis=1) for corners in made]
    return np.concatenate(out).astype(faces.dtype)
