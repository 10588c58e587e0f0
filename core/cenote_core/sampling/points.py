"""Spaced points on any surfaces: progressive dart throwing.

A universal ladder of radii, each √2 below the one before, is thrown down to the spacing asked for; a last throw at
exactly that spacing fills up. Every level adds darts between those already lying (hierarchical dart throwing after
White, Cline, Egbert, *Poisson Disk Point Sets by Hierarchical Dart Throwing*, 2007; on surfaces after Cline et al.,
*Dart Throwing on Surfaces*, 2009). Ladder levels do not depend on the spacing, so that most points are the same ones
when it changes, in their places.

Most darts fall too near to what lies already (`darts.py`); those that are left are held against each other
(`conflicts.py`). At last the points are put in the order of their gaps, the widest first: how far the nearest older
point lay. Of two points one is the older, and lies at least the other's gap away; so no two of all points down to a gap
lie nearer than it, and every beginning of the list is itself well spaced.

Where they shall lie more evenly, fewer darts are thrown, somewhat closer than the spacing asked for, and what lies is
eased apart along the surfaces (`relaxation.py`); the few points that have not come to keep the spacing go, and holes get
one (`gap_filling.py`). That takes half as long again; as many points then lie a tenth wider apart, in an order made anew
(`progressive.py`), and some centimetres elsewhere at another spacing.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import TooHeavyError
from .conflicts import Accepted, resolve_conflicts
from .darts import CHUNKS, DartBatch, SurfaceSampler, throw_darts
from .gap_filling import RING, fill_gaps
from .hash_grid import HashGrid
from .neighbours import neighbours
from .progressive import insertion_radii
from .relaxation import SEEN, relaxed
from .surface_walk import SurfacePoints, WalkSurface

LADDER_TOP = 1024.0
LADDER_STEP = 2.0**-0.5


@dataclass(frozen=True)
class Throw:
    """How darts are thrown.

    Attributes
    ----------
    darts : per r² of surface on each level of the ladder
    last : on the last level, where gaps would be seen
    closer : how much closer than the spacing asked for
    packing : points per square of the spacing that this ends with, measured; a hexagonal lattice has 2 / √3 = 1.155
    """

    darts: float
    last: float
    closer: float
    packing: float


THROWN = Throw(2.0, 5.0, 1.0, 0.56)
"""Throwing at once, without levels, would approach the random sequential limit 4 · 0.547 / π = 0.6965, but its prefixes
would not be spaced."""
EVEN = Throw(1.25, 1.5, 1.195, 0.70)
"""What gaps its last level leaves close as points come apart, or are filled."""
MOST_POINTS = 3_000_000
"""Places of one drift: with all that is known of each they take some 1.5 GB while they are worked out."""
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


def full_density(spacing: float, even: bool = False) -> float:
    """The most points per square metre that keep `spacing` metres apart by this method."""
    return (EVEN if even else THROWN).packing / (spacing * spacing)


def ladder(spacing: float) -> list[float]:
    """Radii from the widest level down to exactly `spacing`, metres."""
    radii = []
    radius = LADDER_TOP
    while radius > spacing * (1 + 1e-9):
        radii.append(radius)
        radius *= LADDER_STEP
    return [*radii, spacing]


def spaced_points(
    positions: np.ndarray, faces: np.ndarray, face_keys: np.ndarray, areas: np.ndarray, spacing: float, seed: int,
    even: bool = False,
) -> SpacedPoints:  # fmt: skip
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
    even : bool
        Ease them apart.

    Raises
    ------
    TooHeavyError
        If more than about six million points would be needed.
    """
    area = float(areas.sum())
    expected = area * full_density(spacing, even)
    if expected > MOST_POINTS:
        raise TooHeavyError(
            f"A spacing of {spacing:g} m on {area:,.0f} m² would need {expected:,.0f} places; "
            f"at most {MOST_POINTS:,}. Choose a wider spacing or fewer surfaces."
        )
    if area == 0:
        return no_points()
    throw = EVEN if even else THROWN
    radius = spacing / throw.closer
    lying = Accepted(int(expected * 1.1) + 64)
    target = SurfaceSampler(positions, faces, face_keys, areas, seed)
    hand = DartBatch(areas, throw.last / radius**2)
    reach, thrown = LADDER_TOP / LADDER_STEP, 0.0
    for level in ladder(radius):
        before, thrown = thrown, thrown + (throw.last if level == radius else throw.darts) / (level * level)
        _throw(lying, hand, target, level * _MARGIN, reach, (before, thrown))
        reach = level
    at, gap = SurfacePoints(lying.position, lying.face, lying.bary, lying.identity), lying.gap[: lying.count]
    if even:
        at, gap = _spread(at, gap, target, faces, spacing)
    at = at.taken(_widest_first(gap)[: int((gap >= 0).sum())])
    # As many stand at any density as that density asks for, whatever the edges of the surfaces add.
    rank = ((np.arange(len(at)) + 0.5) / area).astype(np.float32)
    return SpacedPoints(*at.parts(), rank)


def no_points() -> SpacedPoints:
    """None at all."""
    return SpacedPoints(
        np.zeros((0, 3), np.float32), np.zeros(0, np.int32), np.zeros((0, 2), np.float32), np.zeros(0, np.uint64),
        np.zeros(0, np.float32),
    )  # fmt: skip


def _spread(
    at: SurfacePoints, gap: np.ndarray, target: SurfaceSampler, faces: np.ndarray, spacing: float
) -> tuple[SurfacePoints, np.ndarray]:
    """Points eased apart, with more in the holes, and their gaps, squared; −1 for those that do not keep the spacing."""
    radius = spacing / EVEN.closer
    grid = HashGrid(at.position[: len(gap)], SEEN * radius / 2, target.bounds)
    floor = WalkSurface(target.frames, faces, target.areas)
    at, age = at.taken(grid.order), np.take(gap, grid.order)
    at = relaxed(at, neighbours(grid, SEEN * radius), floor, radius)
    kept = spacing * _MARGIN
    seen = (1 + RING) * kept * _MARGIN
    grid = HashGrid(at.position, seen / 2, target.bounds)
    near = neighbours(grid, seen)
    at, age = at.taken(grid.order), np.take(age, grid.order)
    gap = insertion_radii(at, age, near, kept, target.bounds, LADDER_TOP)
    more = fill_gaps(at, near, gap >= 0, floor, kept)
    # What fills holes comes last: it keeps the spacing from all before it.
    return at.followed_by(more), np.concatenate([gap, np.full(len(more), spacing * spacing, np.float32)])


def _widest_first(gap: np.ndarray) -> np.ndarray:
    """Stable order of gaps (positive float32, whose bits sort as they do, −1 at last); numbers in one word sort much faster."""
    keys = (~np.maximum(gap, 0.0).view(np.uint32)).astype(np.uint64) << np.uint64(32) | np.arange(
        len(gap), dtype=np.uint64
    )
    keys.sort()
    return (keys & np.uint64(0xFFFFFFFF)).astype(np.int64)


def _throw(
    lying: Accepted, hand: DartBatch, target: SurfaceSampler, radius: float, reach: float, thrown: tuple[float, float]
) -> None:
    """One level: throw darts at `radius` between the points lying; `thrown` a square metre before and after."""
    faces = target.reached(thrown[1])
    if not len(faces):
        return
    chunks = min(CHUNKS, 1 << max(0, (len(faces) // 16).bit_length()))
    firsts = np.arange(chunks + 1, dtype=np.int64) * len(faces) // chunks
    starts = hand.starts(faces, firsts, thrown[1] - thrown[0])
    grid = HashGrid(lying.position[: lying.count], reach, target.bounds)
    kept = throw_darts(
        target.frames, target.sequences, target.areas, target.chance, faces, *thrown,
        grid.position, grid.starts, grid.inverse, grid.bits, radius, reach,
        firsts, starts, hand.spot, hand.dart,
    )  # fmt: skip
    resolve_conflicts(lying, hand, target, starts, kept, grid, radius, reach)
