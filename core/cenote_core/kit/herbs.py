"""Herbs and dwarf shrubs: rosettes, upright stems with leaves and flowers, mats, rushes. Finest level first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..mesh.mesh import Mesh, merge
from .cards import Cards, cards_mesh, direction
from .shapes import tube


def _rng(seed: int) -> np.random.Generator:
    return np.random.Generator(np.random.Philox(seed))


def _sway(at: np.ndarray, height: float, phase: float) -> tuple[float, float, float, float]:
    return float(np.clip(at[1] / max(height, 1e-3), 0, 1)) ** 1.5, 0.3, 1.0, phase


@dataclass(frozen=True)
class Rosette:
    """Leaves from one foot: how many, how long (metres), how upright (pitch range), width against length."""

    leaves: int
    length: float
    pitch: tuple[float, float]
    width: float
    slot: str = "leaf"
    droop: float = 0.45


@dataclass(frozen=True)
class Stems:
    """Upright stems: how many, how tall (metres), leaves a stem, leaf length, top picture and its size."""

    count: int
    height: float
    leaves: int
    leaf: float
    leaf_width: float = 0.5
    top: str = ""
    top_size: tuple[float, float] = (0.0, 0.0)
    lean: float = 0.15
    spread: float = 0.08
    top_flat: bool = False


def herb(seed: int, rosette: Rosette | None = None, stems: Stems | None = None) -> list[Mesh]:
    """A herb with a rosette, upright stems, or both; slots blade (stems), leaf and flower."""
    rng = _rng(seed)
    height = max(stems.height if stems else 0.0, rosette.length if rosette else 0.0)
    leaves, tops, stalks = Cards(), Cards(), []
    if rosette:
        for k in range(rosette.leaves):
            heading = k * 2.399963 + rng.normal(0, 0.2)
            age = k / max(1, rosette.leaves - 1)
            pitch = rosette.pitch[0] + (rosette.pitch[1] - rosette.pitch[0]) * age + rng.normal(0, 0.1)
            long = rosette.length * (1.05 - 0.45 * age) * rng.uniform(0.8, 1.15)
            at = np.array([0.0, 0.005, 0.0]) + direction(heading, 0.0) * 0.01
            tone = rng.uniform(0.75, 1.1)
            leaves.add(at, direction(heading, pitch), (long, long * rosette.width), tone, _sway(at, height, age))
    if stems:
        for _ in range(stems.count):
            heading, lean = rng.uniform(0, 6.28), stems.lean * rng.uniform(0.2, 1.0)
            foot = direction(rng.uniform(0, 6.28), 0.0) * stems.spread * np.sqrt(rng.random())
            tall = stems.height * rng.uniform(0.7, 1.08)
            t = np.linspace(0, 1, 6)
            bow = np.outer(np.sin(lean * t) * t * tall, direction(heading, 0.0))
            path = foot + bow + np.outer(t * tall * np.cos(lean * t * 0.6), [0, 1, 0])
            stalks.append(path)
            phase = float(rng.random())
            for j in range(stems.leaves):
                f = 0.12 + 0.82 * (j // 2 + 0.5) / max(1, stems.leaves / 2)
                at = np.array([np.interp(f, t, path[:, c]) for c in range(3)])
                swing = heading + (j % 2) * np.pi + (j // 2) * 1.57 + rng.normal(0, 0.2)
                long = stems.leaf * (1.1 - 0.65 * f) * rng.uniform(0.8, 1.15)
                pitch = 0.55 + 0.35 * f + rng.normal(0, 0.2)
                size = (long, long * stems.leaf_width)
                leaves.add(at, direction(swing, pitch), size, rng.uniform(0.8, 1.12), _sway(at, height, phase))
            if stems.top:
                at, out = path[-1], path[-1] - path[-2]
                tops.add(at, out / np.linalg.norm(out), stems.top_size, 1.0, _sway(at, height, phase))
    return _levels(leaves, tops, stalks, height, bool(stems and stems.top_flat), seed)


def _levels(
    leaves: Cards, tops: Cards, stalks: Sequence[np.ndarray], height: float, flat: bool, seed: int
) -> list[Mesh]:
    middle = np.array([0.0, -0.3 * height, 0.0])

    def level(step: int, wide: float, sides: int) -> Mesh:
        parts = []
        for path in stalks[:: max(1, step // 2)]:
            pick = np.unique([*range(0, len(path), step), len(path) - 1])
            radii = np.linspace(0.002, 0.001, len(path))[pick] * (1 + 0.5 * height)
            made = tube(path[pick], radii, sides, "blade", 0.2)
            stem = np.clip(made.positions[:, 1] / max(height, 1e-3), 0, 1) ** 1.5
            zero = np.zeros(len(stem))
            green = np.tile([0.075, 0.105, 0.03, 1.0], (len(stem), 1)).astype(np.float32)
            sway = np.column_stack([stem, zero, zero, zero]).astype(np.float32)
            parts.append(replace(made, sway=sway, colour=green))
        if len(leaves):
            kept = _every(leaves, step, wide)
            parts.append(cards_mesh(kept, "leaf", middle, 0.35, 0.3, seed, 0.9))
        if len(tops):
            parts.append(_crossed(_every(tops, max(1, step // 2), 1.0), flat, middle, seed))
        return merge(parts)

    return [level(1, 1.0, 5), level(2, 1.35, 3), level(4, 1.8, 3)]


def _crossed(tops: Cards, flat: bool, middle: np.ndarray, seed: int) -> Mesh:
    """Flowers: two crossed cards up the stem, or one lying open to the sky."""
    if flat:
        lying = Cards()
        for at, _, size, tone, sway in zip(tops.at, tops.out, tops.size, tops.tone, tops.sway, strict=True):
            out = direction(len(lying) * 1.3, 0.25)
            lying.add(at - out * size[0] / 2, out, size, tone, sway)
        return cards_mesh(lying, "flower", middle, 0.1, 0.1, seed, 0.1)
    first = cards_mesh(tops, "flower", middle, 0.06, 0.0, seed, 0.2)
    turned = Cards(tops.at, [o + np.array([0.02, 0.0, 0.03]) for o in tops.out], tops.size, tops.tone, tops.sway)
    second = cards_mesh(turned, "flower", middle, 0.06, 0.0, seed + 1, 1.5)
    return merge([first, second])


def _every(cards: Cards, step: int, wide: float) -> Cards:
    if step == 1:
        return cards
    sizes = [(long, broad * wide) for long, broad in cards.size[::step]]
    return Cards(cards.at[::step], cards.out[::step], sizes, cards.tone[::step], cards.sway[::step])


def mat(seed: int, radius: float, leaves: int, size: float, lift: float) -> list[Mesh]:
    """A mat of small leaves close to the ground, thinning toward its rim."""
    rng = _rng(seed)
    cards = Cards()
    for _ in range(leaves):
        far = radius * rng.random() ** 0.62
        heading = rng.uniform(0, 6.28)
        at = direction(heading, 0.0) * far + [0, lift * (1 - (far / radius) ** 2) * rng.uniform(0.1, 1.0), 0]
        out = direction(rng.uniform(0, 6.28), rng.uniform(0.05, 0.7))
        long = size * rng.uniform(0.65, 1.2)
        cards.add(at, out, (long, long), rng.uniform(0.75, 1.15), (0.1, 0.2, 0.6, float(rng.random())))
    middle = np.array([0.0, -radius, 0.0])
    return [
        cards_mesh(_every(cards, step, wide), "leaf", middle, 0.2, 0.2, seed, 0.5)
        for step, wide in ((1, 1.0), (2, 1.4), (5, 2.1))
    ]


def dwarf_shrub(seed: int, height: float, radius: float, stems: int, sprig: float) -> list[Mesh]:
    """A low bush of sprigs (heather, gorse): stems fan out from a foot, sprigs clothe the dome."""
    rng = _rng(seed)
    cards, wood = Cards(), []
    for k in range(stems):
        heading = k * 2.399963 + rng.normal(0, 0.2)
        out = np.sqrt((k + 0.5) / stems)
        tip = direction(heading, 0.0) * radius * out + [0, height * np.sqrt(max(0.05, 1 - 0.75 * out**2)), 0]
        t = np.linspace(0, 1, 5)[:, None]
        path = tip * t * [[1, 1, 1]] + np.array([0, 0.12 * height, 0]) * np.sin(np.pi * t)
        wood.append(path)
        for j in range(6):
            f = 0.15 + 0.85 * (j + rng.random()) / 6
            at = np.array([np.interp(f, t[:, 0], path[:, c]) for c in range(3)])
            grow = (path[-1] - path[-2]) / np.linalg.norm(path[-1] - path[-2])
            grow = grow + direction(rng.uniform(0, 6.28), rng.uniform(0.0, 0.8)) * 0.7
            long = sprig * rng.uniform(0.75, 1.15)
            sway = (float(np.clip(at[1] / height, 0, 1)) ** 1.5, 0.5, 0.6, float(rng.random()))
            cards.add(at, grow / np.linalg.norm(grow), (long, long * 0.75), rng.uniform(0.75, 1.15), sway)
    middle = np.array([0.0, -0.2 * height, 0.0])

    def level(step: int, wide: float, every: int) -> Mesh:
        parts = [tube(p, np.linspace(0.006, 0.002, len(p)), 3, "stem", 0.3) for p in wood[::every]]
        blank = [replace(p, sway=np.zeros((len(p.positions), 4), np.float32)) for p in parts]
        return merge([*blank, cards_mesh(_every(cards, step, wide), "leaf", middle, 0.1, 0.2, seed, 0.8)])

    return [level(1, 1.0, 1), level(3, 1.7, 3), level(7, 2.6, 9)]
