"""Trees and tall shrubs by species: trunk, limbs, side branches, leaf sprays; four levels of detail, finest first.

Limbs follow the golden angle up the trunk and take their lengths from a crown outline, as in the parametric model of
Weber and Penn (*Creation and Rendering of Realistic Trees*, 1995); radii follow da Vinci's rule that what leaves a
fork is as thick as what entered it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..mesh.mesh import Mesh, merge
from .cards import Cards, cards_mesh, direction
from .shapes import tube

GOLDEN = 2.399963


@dataclass(frozen=True)
class Species:
    """How a kind of tree grows. Angles in radians, lengths as shares unless a unit is named.

    Attributes
    ----------
    crown_base : height at which the crown begins, share of the height
    limbs : limbs on a tree 8 m high
    reach : longest limb, share of the height
    outline : crown outline: "oval", "cone", "round" or "vase"
    rise : pitch of limbs at the foot and at the top of the crown
    sag : how far a limb bends down along its length
    branch : length of side branches, share of their limb
    branch_gap : distance between side branches, metres
    hang : pitch of sprays, −1 hanging to 1 ascending
    spray : size of a leaf spray, metres
    spray_gap : distance between sprays along a branch, share of their size
    girth : radius of the trunk at its foot, share of the height
    wobble : how crooked the trunk is
    stems : number of trunks from one foot
    roll : largest turn of a spray about its own length; hanging sprays need little, level ones much, to be seen
    """

    crown_base: float = 0.24
    limbs: int = 34
    reach: float = 0.24
    outline: str = "oval"
    rise: tuple[float, float] = (0.5, 1.1)
    sag: float = 0.6
    branch: float = 0.5
    branch_gap: float = 0.3
    hang: float = -0.4
    spray: float = 0.4
    spray_gap: float = 0.42
    girth: float = 0.013
    wobble: float = 0.012
    stems: int = 1
    roll: float = 0.6


BIRCH = Species(
    crown_base=0.2,
    limbs=40,
    reach=0.25,
    rise=(0.65, 1.15),
    sag=0.85,
    hang=-0.75,
    spray=0.42,
    spray_gap=0.4,
    branch_gap=0.26,
)
ALDER = Species(
    crown_base=0.08,
    limbs=62,
    reach=0.25,
    outline="cone",
    rise=(0.55, 1.15),
    sag=0.3,
    hang=0.05,
    spray=0.42,
    spray_gap=0.34,
    branch_gap=0.26,
    girth=0.015,
    stems=2,
    roll=1.5,
)
ROWAN = Species(
    crown_base=0.2,
    limbs=34,
    reach=0.34,
    outline="vase",
    rise=(0.75, 1.25),
    sag=0.35,
    hang=0.1,
    spray=0.46,
    spray_gap=0.34,
    branch_gap=0.25,
    girth=0.013,
    wobble=0.014,
    roll=1.3,
)
PINE = Species(
    crown_base=0.42,
    limbs=40,
    reach=0.24,
    outline="round",
    rise=(0.05, 0.95),
    sag=-0.3,
    branch=0.5,
    branch_gap=0.24,
    hang=0.75,
    spray=0.36,
    spray_gap=0.36,
    girth=0.015,
    wobble=0.011,
    roll=1.5,
)
HAZEL = Species(
    crown_base=0.1,
    limbs=16,
    reach=0.34,
    outline="vase",
    rise=(0.9, 1.25),
    sag=0.4,
    branch_gap=0.2,
    hang=0.0,
    spray=0.32,
    spray_gap=0.42,
    girth=0.009,
    wobble=0.02,
    stems=5,
    roll=1.2,
)


@dataclass
class _Limb:
    path: np.ndarray
    radii: np.ndarray
    heading: float
    phase: float
    branches: list[tuple[np.ndarray, float]]


def tree(species: Species, seed: int, height: float) -> list[Mesh]:
    """A tree of a species, `height` metres tall; slots trunk, twig, leaf (sprays) and bough (whole branches)."""
    rng = np.random.Generator(np.random.Philox(seed))
    trunks = [_trunk(species, height, k, rng) for k in range(species.stems)]
    limbs = [limb for k, trunk in enumerate(trunks) for limb in _limbs(species, height, trunk, k, rng)]
    sprays = _sprays(species, height, trunks, limbs, rng)
    middle = np.array([0.0, height * (0.5 + species.crown_base / 2), 0.0])
    fine = [
        _wood(trunks, limbs, height, 20, 5, 1, 1),
        cards_mesh(sprays, "leaf", middle, 0.22, 0.25, seed, species.roll),
    ]
    fine.append(_branch_wood(limbs, height))
    boughs = _boughs(species, height, limbs, trunks, every=1, big=1.0)
    mid = [_wood(trunks, limbs, height, 7, 3, 2, 1), cards_mesh(boughs, "bough", middle, 0.2, 0.2, seed, species.roll)]
    coarse = _boughs(species, height, limbs, trunks, every=3, big=1.55)
    far = [_wood(trunks, limbs, height, 5, 3, 4, 3), cards_mesh(coarse, "bough", middle, 0.15, 0.2, seed, species.roll)]
    return [merge(fine), merge(mid), merge(far)]


def _trunk(species: Species, height: float, number: int, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """Path and radii of one trunk; several lean out from a common foot."""
    t = np.linspace(0, 1, 16)
    tall = height * (1.0 if number == 0 else rng.uniform(0.68, 0.95))
    lean = rng.normal(0, 0.03, 2)
    if species.stems > 1:
        heading = 2 * np.pi * (number + rng.uniform(-0.2, 0.2)) / species.stems
        lean += np.array([np.cos(heading), np.sin(heading)]) * rng.uniform(0.1, 0.22)
    bows = rng.uniform(0, 6.28, 4)
    wobble = species.wobble * np.minimum(t * 3, 1)
    x = lean[0] * t**1.3 + wobble * (np.sin(t * 7 + bows[0]) + 0.5 * np.sin(t * 17 + bows[1]))
    z = lean[1] * t**1.3 + wobble * (np.sin(t * 6 + bows[2]) + 0.5 * np.sin(t * 15 + bows[3]))
    foot = (species.girth * height + 0.012) / species.stems**0.4
    radii = foot * (1 - t) ** 0.85 + 0.005
    return np.column_stack([tall * (x - x[0]), tall * t, tall * (z - z[0])]), radii


def _outline(kind: str, x: np.ndarray | float) -> float:
    """Crown radius at a share of the crown's height, 0..1."""
    x = float(np.clip(x, 0, 1))
    if kind == "cone":
        return (1 - x) ** 0.8 * min(1.0, 0.55 + 3 * x)
    if kind == "round":
        return float(np.sqrt(max(0.0, 1 - (1.7 * x - 0.75) ** 2)))
    if kind == "vase":
        return float(np.sin(np.pi * (0.18 + 0.78 * x)) ** 0.7)
    return float(np.sin(np.pi * (0.1 + 0.88 * x) ** 0.8) ** 0.8)


def _at(path: np.ndarray, f: float) -> np.ndarray:
    s = np.linspace(0, 1, len(path))
    return np.array([np.interp(f, s, path[:, k]) for k in range(3)])


def _bent(
    at: np.ndarray, heading: float, pitch: float, length: float, sag: float, steps: int, rng: np.random.Generator
) -> tuple[np.ndarray, float]:
    """A branch's path and the heading of its end."""
    points = [at]
    for k in range(steps):
        points.append(points[-1] + length / steps * direction(heading, pitch))
        pitch -= sag / steps * (0.5 + k / steps) + rng.normal(0, 0.06)
        heading += rng.normal(0, 0.13)
    return np.array(points), heading


def _limbs(
    species: Species, height: float, trunk: tuple[np.ndarray, np.ndarray], number: int, rng: np.random.Generator
) -> list[_Limb]:
    path, radii = trunk
    count = max(6, int(species.limbs * (height / 8) ** 0.6 / species.stems**0.6))
    start = rng.uniform(0, 6.28) + number
    out = []
    for k in range(count):
        x = ((k + rng.uniform(0, 0.9)) / count) ** 0.92
        s = species.crown_base + (0.985 - species.crown_base) * x
        heading = start + k * GOLDEN + rng.normal(0, 0.25)
        length = height * species.reach * (0.1 + 0.9 * _outline(species.outline, x)) * rng.uniform(0.75, 1.15)
        pitch = species.rise[0] + (species.rise[1] - species.rise[0]) * x + rng.normal(0, 0.12)
        limb, ending = _bent(_at(path, s), heading, pitch, length, species.sag, 7, rng)
        thick = max(0.006, 0.45 * float(np.interp(s, np.linspace(0, 1, len(radii)), radii)))
        branches = []
        gaps = max(2, int(length / species.branch_gap))
        for j in range(gaps):
            f = 0.2 + 0.75 * (j + rng.random() * 0.7) / gaps
            swing = heading + (1 if j % 2 else -1) * rng.uniform(0.5, 1.1)
            reach = length * species.branch * (1.1 - 0.75 * f) * rng.uniform(0.7, 1.15)
            tilt = pitch - species.sag * f + rng.normal(0, 0.22)
            branches.append(_bent(_at(limb, f), swing, tilt, max(reach, 0.12), species.sag * 0.8, 4, rng))
        out.append(_Limb(limb, np.linspace(thick, 0.003, len(limb)), ending, rng.random(), branches))
    return out


def _sway(at: np.ndarray, height: float, along: float, phase: float) -> tuple[float, float, float, float]:
    """Weights at a place: the stem bends with the square of its height, a branch with its own length."""
    stem = float(np.clip(at[1] / height, 0, 1.2)) ** 2
    return stem, float(np.clip(along, 0, 1)), 1.0, phase


def _sprays(
    species: Species,
    height: float,
    trunks: list[tuple[np.ndarray, np.ndarray]],
    limbs: list[_Limb],
    rng: np.random.Generator,
) -> Cards:
    cards = Cards()
    size = species.spray * (height / 8) ** 0.25

    def spray(at: np.ndarray, heading: float, pitch: float, along: float, phase: float, share: float = 1.0) -> None:
        long = size * share * rng.uniform(0.8, 1.2)
        out = direction(heading, pitch)
        cards.add(at, out, (long, long * 0.9), rng.uniform(0.8, 1.15), _sway(at, height, along, phase))

    for limb in limbs:
        for path, heading in limb.branches:
            length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
            count = max(2, int(length / (size * species.spray_gap)))
            for j in range(count):
                f = 0.25 + 0.75 * (j + rng.random() * 0.8) / count
                swing = heading + (1 if j % 2 else -1) * rng.uniform(0.3, 1.2)
                spray(_at(path, f), swing, species.hang + rng.normal(0, 0.35), 0.4 + 0.6 * f, limb.phase)
            spray(path[-1], heading, species.hang * 0.6 + rng.normal(0, 0.2), 1.0, limb.phase)
        spray(limb.path[-1], limb.heading, species.hang * 0.4, 1.0, limb.phase)
    for path, _ in trunks:
        for _ in range(7):
            at = path[-1] - [0, rng.uniform(0, 0.05) * height, 0]
            spray(at, rng.uniform(0, 6.28), rng.uniform(0.1, 1.1), 0.3, rng.random(), 0.85)
    return cards


def _boughs(
    species: Species,
    height: float,
    limbs: list[_Limb],
    trunks: list[tuple[np.ndarray, np.ndarray]],
    every: int,
    big: float,
) -> Cards:
    """One card for each side branch (every = 1) or for groups of them, as large as what it stands for."""
    cards = Cards()
    size = species.spray * (height / 8) ** 0.25
    number = 0
    for limb in limbs:
        for path, heading in limb.branches:
            number += 1
            if number % every:
                continue
            chord = path[-1] - path[0]
            length = float(np.linalg.norm(chord))
            out = chord / max(length, 1e-6) + direction(heading, species.hang) * 0.45
            out /= np.linalg.norm(out)
            long = (length + size * 0.9) * big
            wide = max(long * 0.8, size * 1.5 * big)
            cards.add(path[0], out, (long, wide), 0.85 + 0.3 * limb.phase, _sway(path[0], height, 0.6, limb.phase))
        chord = limb.path[-1] - limb.path[-3]
        out = chord / max(float(np.linalg.norm(chord)), 1e-6)
        long = size * 1.7 * big
        cards.add(limb.path[-2], out, (long, long * 0.8), 1.0, _sway(limb.path[-2], height, 0.8, limb.phase))
    for path, _ in trunks:
        for k in range(3):
            long = size * 2.0 * big
            cards.add(path[-2], direction(k * 2.1, 0.9), (long, long * 0.7), 1.0, _sway(path[-2], height, 0.2, 0.1))
    return cards


def _tube(
    path: np.ndarray, radii: np.ndarray, sides: int, slot: str, repeat: float, height: float, phase: float
) -> Mesh:
    made = tube(path, radii, sides, slot, repeat)
    along = np.repeat(np.linspace(0, 1, len(path)), sides + 1)
    stem = np.clip(made.positions[:, 1] / height, 0, 1.2) ** 2
    branch = along * (0.0 if slot == "trunk" else 1.0)
    sway = np.column_stack([stem, branch, np.zeros(len(stem)), np.full(len(stem), phase)])
    return replace(made, sway=sway.astype(np.float32))


_COLLAR = (-0.12, 0.0, 0.06, 0.14, 0.28, 0.55)
"""Shares of a trunk's lowest stretch between which it widens to its roots, from a little below the ground."""
_CLOSE, _APART = 3.0, 0.22
"""Up to this stretch of a trunk rings are so far apart, in stretches."""
_WIDER, _OVER = 0.75, 3.0
"""How much wider it is at the ground, and the radii over which that runs out."""


def _with_collar(path: np.ndarray, radii: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A trunk's path and radii with the root collar: what meets the ground is no post."""
    number = np.arange(len(path), dtype=float)
    # Rings close enough near the ground for what lies on the bark to end between them.
    rings = np.concatenate([_COLLAR, np.arange(0.78, _CLOSE, _APART), number[number >= _CLOSE]])
    above = np.maximum(rings, 0)
    lowest = path[0] + min(_COLLAR) * (path[1] - path[0])
    path = np.column_stack([np.interp(above, number, path[:, k]) for k in range(3)])
    path[0], radii = lowest, np.interp(above, number, radii)
    up = np.maximum(path[:, 1] - path[1, 1], 0)
    return path, radii * (1 + _WIDER * np.exp(-up / (_OVER * radii[0])))


def _wood(
    trunks: list[tuple[np.ndarray, np.ndarray]],
    limbs: list[_Limb],
    height: float,
    sides: int,
    limb_sides: int,
    step: int,
    every: int,
) -> Mesh:
    parts = [_tube(*_with_collar(path, radii), sides, "trunk", 0.8, height, 0.0) for path, radii in trunks]
    for limb in limbs[::every]:
        pick = np.unique([*range(0, len(limb.path), step), len(limb.path) - 1])
        parts.append(_tube(limb.path[pick], limb.radii[pick], limb_sides, "twig", 0.4, height, limb.phase))
    return merge(parts)


def _branch_wood(limbs: list[_Limb], height: float) -> Mesh:
    parts = []
    for limb in limbs:
        for path, _ in limb.branches:
            radii = np.linspace(max(0.004, float(limb.radii.mean()) * 0.5), 0.002, len(path))
            parts.append(_tube(path, radii, 3, "twig", 0.4, height, limb.phase))
    return merge(parts)
