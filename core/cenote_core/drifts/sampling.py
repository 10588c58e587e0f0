"""Spaced points on any surfaces: progressive dart throwing.

A universal ladder of radii, each √2 below the one before, is thrown down to the spacing asked for; a last throw at
exactly that spacing fills up. Every level adds darts between those already lying (hierarchical dart throwing after
White, Cline, Egbert, *Poisson Disk Point Sets by Hierarchical Dart Throwing*, 2007; on surfaces after Cline et al.,
*Dart Throwing on Surfaces*, 2009). Ladder levels do not depend on the spacing, so points keep their places when it
changes.

At last the points are put in the order of their gaps, the widest first: how far the nearest older point lay. Of two
points one is the older, and lies at least the other's gap away; so no two of all points down to a gap lie nearer than
it, and every beginning of the list is itself well spaced.

Most darts fall too near to what lies already (`darts.py`); those that are left are held against each other
(`settling.py`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import TooHeavyError
from .darts import CHUNKS, Hand, Target, throw_darts
from .settling import Lying, in_order, settle
from .torus import Torus

LADDER_TOP = 1024.0
LADDER_STEP = 2.0**-0.5
DARTS = 2.0
"""Darts thrown per r² of surface on a ladder level."""
DARTS_LAST = 5.0
"""On the last level, where gaps would be seen."""
PACKING = 0.56
"""Points per r² that such a throw ends with, measured. Throwing at once, without levels, would approach the
random sequential limit 4 · 0.547 / π = 0.6965, but its prefixes would not be spaced."""
MOST_POINTS = 6_000_000
_MARGIN = 1.0 + 2e-6  # spacing also holds for positions read back as float32


@dataclass(frozen=True)
class SpacedPoints:
    """Points in progressive order.

    Attributes
    ----------
    positions : (N, 3) float32
    face : (N,) int32, index into the faces given
    bary : (N, 2) float32, weights of each face's second and third corner
    identity : (N,) uint64, stays the same for the same dart
    rank : (N,) float32, points per square metre from which on this point stands; ascending
    """

    positions: np.ndarray
    face: np.ndarray
    bary: np.ndarray
    identity: np.ndarray
    rank: np.ndarray

    def __len__(self) -> int:
        return len(self.positions)


def full_density(spacing: float) -> float:
    """The most points per square metre that keep `spacing` metres apart by this method."""
    return PACKING / (spacing * spacing)


def ladder(spacing: float) -> list[float]:
    """Radii from the widest level down to exactly `spacing`, metres."""
    radii = []
    radius = LADDER_TOP
    while radius > spacing * (1 + 1e-9):
        radii.append(radius)
        radius *= LADDER_STEP
    return [*radii, spacing]


def spaced_points(
    positions: np.ndarray, faces: np.ndarray, face_keys: np.ndarray, areas: np.ndarray, spacing: float, seed: int
) -> SpacedPoints:
    """Throw darts on triangles until no more than small gaps are left.

    Parameters
    ----------
    positions : (V, 3) float32, metres
    faces : (F, 3) int32
    face_keys : (F,) uint64
        Stable identity of each face, so that other surfaces may come and go without moving these points.
    areas : (F,) float64, square metres; 0 keeps a face free
    spacing : float
        No two points come closer, in a straight line, metres.
    seed : int

    Raises
    ------
    TooHeavyError
        If more than about six million points would be needed.
    """
    area = float(areas.sum())
    expected = area * full_density(spacing)
    if expected > MOST_POINTS:
        raise TooHeavyError(
            f"A spacing of {spacing:g} m on {area:,.0f} m² would need {expected:,.0f} places; "
            f"at most {MOST_POINTS:,}. Choose a wider spacing or fewer surfaces."
        )
    lying = Lying(int(expected * 1.05) + 64)
    if area > 0:
        target = Target(positions, faces, face_keys, areas, seed)
        hand = Hand(areas, DARTS_LAST / spacing**2)
        reach, thrown = LADDER_TOP / LADDER_STEP, 0.0
        for radius in ladder(spacing):
            before, thrown = thrown, thrown + (DARTS_LAST if radius == spacing else DARTS) / (radius * radius)
            _throw(lying, hand, target, radius * _MARGIN, reach, (before, thrown))
            reach = radius
    order = _widest_first(lying.gap[: lying.count])
    places, face, bary, identity = in_order(order, lying.position, lying.face, lying.bary, lying.identity)
    # As many stand at any density as that density asks for, whatever the edges of the surfaces add.
    rank = ((np.arange(lying.count) + 0.5) / max(area, 1e-9)).astype(np.float32)
    return SpacedPoints(places, face, bary, identity, rank)


def _widest_first(gap: np.ndarray) -> np.ndarray:
    """Stable order of gaps (positive float32, whose bits sort as they do); numbers in one word sort much faster."""
    keys = (~gap.view(np.uint32)).astype(np.uint64) << np.uint64(32) | np.arange(len(gap), dtype=np.uint64)
    keys.sort()
    return (keys & np.uint64(0xFFFFFFFF)).astype(np.int64)


def _throw(lying: Lying, hand: Hand, target: Target, radius: float, reach: float, thrown: tuple[float, float]) -> None:
    """One level: throw darts at `radius` between the points lying; `thrown` a square metre before and after."""
    faces = target.reached(thrown[1])
    if not len(faces):
        return
    chunks = min(CHUNKS, 1 << max(0, (len(faces) // 16).bit_length()))
    firsts = np.arange(chunks + 1, dtype=np.int64) * len(faces) // chunks
    starts = hand.starts(faces, firsts, thrown[1] - thrown[0])
    grid = Torus(lying.position[: lying.count], reach, target.bounds)
    kept = throw_darts(
        target.frames, target.sequences, target.areas, target.chance, faces, *thrown,
        grid.position, grid.starts, grid.inverse, grid.bits, radius, reach,
        firsts, starts, hand.spot, hand.dart,
    )  # fmt: skip
    settle(lying, hand, target, starts, kept, grid, radius, reach)
