"""Ferns and bracken. Each returns its levels of detail, finest first; every plant stands with its foot at the origin."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..mesh.mesh import Mesh, merge
from .plants import swaying
from .shapes import card_strip, tube

_UP = np.array([0.0, 1.0, 0.0])


def _rng(seed: int) -> np.random.Generator:
    return np.random.Generator(np.random.Philox(seed))


def _rising(heading: float, length: float, pitch: np.ndarray) -> np.ndarray:
    """(N, 3) points of a line of some length whose pieces rise at the pitches (N,) above the horizontal, radians."""
    out = np.array([np.cos(heading), 0, np.sin(heading)])
    step = length / (len(pitch) - 1)
    run = np.concatenate([[0], np.cumsum(np.cos(pitch[:-1]) * step)])
    rise = np.concatenate([[0], np.cumsum(np.sin(pitch[:-1]) * step)])
    return np.outer(run, out) + np.outer(rise, _UP)


def fern(seed: int, height: float = 0.7, fronds: int = 11) -> list[Mesh]:
    """A fern: fronds rise from a crown and arch over, the young ones upright, the old ones browning."""
    rng = _rng(seed)
    plans = []
    for k in range(fronds):
        heading = 2 * np.pi * (k * 0.381966 + rng.uniform(-0.05, 0.05))
        old = rng.random() < 0.18
        plans.append(
            (
                heading,
                height * rng.uniform(0.72, 1.12),
                rng.uniform(0.5, 1.0) + 0.25 * old,
                rng.uniform(0.24, 0.32),
                np.array([0.95, 0.8, 0.6]) if old else np.array([0.95, 1.0, 0.9]) * rng.uniform(0.7, 1.05),
                rng.normal(0, 0.25),
            )
        )

    def level(segments: int, share: float, wide: float) -> Mesh:
        parts = []
        for heading, length, arch, frond_width, tint, roll in plans[: max(3, int(fronds * share))]:
            t = np.linspace(0, 1, segments + 1)
            out = np.array([np.cos(heading), 0, np.sin(heading)])
            spine = _rising(heading, length, 1.25 - arch * (0.35 + 1.25 * t)) + out * 0.02
            side = np.array([-np.sin(heading), roll * 0.4, np.cos(heading)])
            widths = np.full(segments + 1, length * frond_width * 1.5 * wide)
            parts.append(card_strip(spine, side, widths, -0.22, "frond", tint))
        return swaying(merge(parts), height)

    return [level(7, 1.0, 1.0), level(3, 0.8, 1.1), level(2, 0.5, 1.35)]


@dataclass(frozen=True)
class _Frond:
    """One frond of bracken: where it rises, where it heads, and how long stalk and blade are, metres."""

    foot: np.ndarray
    heading: float
    stalk: float
    blade: float
    pitch: float
    tint: np.ndarray
    droop: float


def bracken(seed: int, height: float = 1.15, fronds: int = 5) -> list[Mesh]:
    """Bracken: bare stalks, each bent over into one broad frond of pinnae in pairs, the lowest pair the longest.

    Unlike a fern its fronds rise singly, a hand apart, from a rootstock that creeps in the ground.
    """
    rng = _rng(seed)
    plans = []
    for k in range(fronds):
        heading = 2 * np.pi * (k * 0.381966 + rng.uniform(-0.08, 0.08))
        tall = height * (1.0 if k == 0 else rng.uniform(0.55, 0.95))
        old = rng.random() < 0.3
        tint = np.array([1.0, 0.82, 0.55]) if old else np.array([0.92, 1.0, 0.85])
        reach = 0.26 * height * np.sqrt((k + 0.3) / fronds)
        foot = reach * np.array([np.cos(heading * 1.7), 0, np.sin(heading * 1.7)])
        plans.append(
            _Frond(foot, heading, tall * 0.46, tall * rng.uniform(0.85, 1.05), rng.uniform(0.75, 1.15),
                   tint * rng.uniform(0.75, 1.05), rng.uniform(0.25, 0.5))
        )  # fmt: skip

    def level(pairs: int, bends: int, sides: int, share: float, wide: float) -> Mesh:
        chosen = plans[: max(3, round(fronds * share))]
        parts = [part for frond in chosen for part in _bracken_frond(frond, pairs, bends, sides, wide)]
        return swaying(merge(parts), height)

    return [level(9, 2, 3, 1.0, 1.0), level(6, 1, 3, 0.8, 1.35), level(3, 1, 0, 0.6, 2.3)]


def _bracken_frond(frond: _Frond, pairs: int, bends: int, sides: int, wide: float) -> list[Mesh]:
    """Stalk (none with 0 sides) and pinnae of one frond, each pinna bent at so many places."""
    stalk = frond.foot + _rising(frond.heading, frond.stalk, np.array([1.52, 1.48, 1.4, 1.3]))
    t = np.linspace(0, 1, 7)
    rachis = stalk[-1] + _rising(frond.heading, frond.blade, frond.pitch * (1 - 1.35 * t))
    parts = []
    if sides:
        whole = np.concatenate([stalk, rachis[1:]])[:: 1 if bends > 1 else 3]
        parts.append(tube(whole, np.linspace(0.006, 0.0015, len(whole)), sides, "stalk", 0.3))
    ahead = np.array([np.cos(frond.heading), 0, np.sin(frond.heading)])
    across = np.cross(ahead, _UP)
    for k in range(pairs):
        s = 0.04 + 0.86 * k / pairs
        at = np.array([np.interp(s, t, rachis[:, axis]) for axis in range(3)])
        # A triangle in outline: the length of the pinnae falls evenly to the tip.
        length = 0.56 * frond.blade * (1 - s) ** 0.85 + 0.02
        for hand in (-1, 1):
            out = across * hand * 0.88 + ahead * 0.47
            f = np.linspace(0, 1, bends + 1)
            fall = -frond.droop * length * f**2 + 0.12 * length * f
            spine = at + np.outer(f * length, out) + np.outer(fall, _UP)
            widths = np.full(bends + 1, min(0.42 * length + 0.02, 1.25 * frond.blade / pairs) * wide)
            # Each is turned a little about its own length, the way they lie one over the other.
            side = np.cross(out, _UP) + 0.55 * hand * _UP
            parts.append(card_strip(spine, side, widths, -0.15, "pinna", frond.tint))
    tip = np.array([np.interp(s, t, rachis[:, axis]) for axis in range(3) for s in (0.82, 1.0)]).reshape(3, 2).T
    parts.append(card_strip(tip, across, np.full(2, 0.16 * frond.blade * wide), -0.15, "pinna", frond.tint))
    return parts
