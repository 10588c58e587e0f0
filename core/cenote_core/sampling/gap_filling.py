"""Holes among spread points on a surface, and places in them.

A point looks about on a ring somewhat wider than the spacing for a place that none of the others lies near (as
candidates are sought in Bridson, *Fast Poisson Disk Sampling in Arbitrary Dimensions*, 2007). Most have none, and who
has many others about is not asked.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import kernel, parallel_kernel, prange, uint64
from ..hashing import hash_combine, unit
from .hash_grid import HashGrid, distance_sq
from .neighbours import Neighbours, neighbours
from .progressive import asked
from .surface_walk import SurfacePoints, WalkSurface, walk

RING = 1.06
"""Radius of the ring, in parts of the spacing."""
_LOOKS = 8
_TURN_C, _TURN_S = np.float32(np.cos(2 * np.pi / _LOOKS)), np.float32(np.sin(2 * np.pi / _LOOKS))
_MANY = 8
"""Who has more points, itself included, within a spacing and a ring lies at no hole."""
_NONE = 1e18


def fill_gaps(
    at: SurfacePoints, near: Neighbours, staying: np.ndarray, floor: WalkSurface, spacing: float
) -> SurfacePoints:
    """Points in the holes among those that stay, none nearer to them or to each other than `spacing`.

    Parameters
    ----------
    at : SurfacePoints, N points
    near : Neighbours of them within (1 + RING) · spacing
    staying : (N,) bool
    floor : Floor
    spacing : float
        Metres.
    """
    # Of another spacing others are in the holes, though beside the same points.
    name = np.float64(spacing).view(np.uint64)
    ways = _ways(
        at.position, at.face, at.identity, *near.parts(), staying, floor.frames,
        np.float32(spacing),
    )  # fmt: skip
    beside = np.flatnonzero(ways[:, 0] < 0.5 * _NONE)
    place = at.taken(beside)
    there = _go(
        ways[beside],
        floor.frames_at(place.face),
        floor.frames,
        floor.faces,
        floor.fans,
        floor.fan,
        *place.parts(),
        name,
    )
    free = there & _free(place.position, beside, at.position, *near.parts(), staying, spacing**2)
    place = place.taken(np.flatnonzero(free))
    if not len(place):
        return place
    grid = HashGrid(place.position, spacing / 2, np.array([place.position.min(axis=0), place.position.max(axis=0)]))
    place = place.taken(grid.order)
    same_age = np.zeros(len(place), np.float32)
    alone = asked(place.position, same_age, place.identity, neighbours(grid, spacing), spacing)
    return place.taken(np.flatnonzero(alone))


@parallel_kernel
def _ways(
    position: np.ndarray, face: np.ndarray, identity: np.ndarray, starts: np.ndarray, counts: np.ndarray,
    others: np.ndarray, staying: np.ndarray, frames: np.ndarray, spacing: float,
) -> np.ndarray:  # fmt: skip
    """(N, 3) float32: from each point to the freest place on its ring, laid flat; _NONE where none is free."""
    out = np.empty((len(face), 3), np.float32)
    ring = np.float32(RING) * spacing
    for n in prange(len(face)):
        out[n, 0] = _NONE
        if not staying[n]:
            continue
        about = 0
        for e in range(starts[n], starts[n] + counts[n]):
            about += int(staying[others[e]])
        if about > _MANY:
            continue
        f = face[n]
        bx, by, bz = frames[f, 3], frames[f, 4], frames[f, 5]
        nx = by * frames[f, 8] - bz * frames[f, 7]
        ny = bz * frames[f, 6] - bx * frames[f, 8]
        nz = bx * frames[f, 7] - by * frames[f, 6]
        wide, up = np.sqrt(bx * bx + by * by + bz * bz), np.sqrt(nx * nx + ny * ny + nz * nz)
        bx, by, bz = bx / wide, by / wide, bz / wide
        nx, ny, nz = nx / up, ny / up, nz / up
        cx, cy, cz = ny * bz - nz * by, nz * bx - nx * bz, nx * by - ny * bx
        widest = spacing * spacing
        angle = unit(hash_combine(identity[n], uint64(_LOOKS))) * 2 * np.pi
        c, s = ring * np.float32(np.cos(angle)), ring * np.float32(np.sin(angle))
        for _ in range(_LOOKS):
            c, s = c * _TURN_C - s * _TURN_S, c * _TURN_S + s * _TURN_C
            x, y, z = c * bx + s * cx, c * by + s * cy, c * bz + s * cz
            px, py, pz = position[n, 0] + x, position[n, 1] + y, position[n, 2] + z
            free = _NONE
            for e in range(starts[n], starts[n] + counts[n]):
                m = uint64(others[e])
                if staying[m]:
                    free = min(free, distance_sq(position, m, px, py, pz))
                    if free <= widest:
                        break
            if free > widest:
                widest = free
                out[n, 0], out[n, 1], out[n, 2] = x, y, z
    return out


@kernel
def _go(
    ways: np.ndarray, frame: np.ndarray, frames: np.ndarray, faces: np.ndarray, fans: np.ndarray, fan: np.ndarray,
    position: np.ndarray, face: np.ndarray, bary: np.ndarray, identity: np.ndarray,
    name: int,
) -> np.ndarray:  # fmt: skip
    """Go from where points lie, and name those that come there after them, in place; (N,) bool: which came there."""
    out = np.empty(len(ways), np.bool_)
    for n in range(len(ways)):
        out[n], f, u, v = walk(
            n, np.int64(face[n]), np.float64(bary[n, 0]), np.float64(bary[n, 1]), ways[n, 0], ways[n, 1], ways[n, 2],
            frame, frames, faces, fans, fan,
        )  # fmt: skip
        face[n], bary[n, 0], bary[n, 1] = f, u, v
        identity[n] = hash_combine(identity[n], name)
        for k in range(3):
            position[n, k] = frame[n, k] + u * frame[n, 3 + k] + v * frame[n, 6 + k]
    return out


@kernel
def _free(
    place: np.ndarray, beside: np.ndarray, position: np.ndarray, starts: np.ndarray, counts: np.ndarray,
    others: np.ndarray, staying: np.ndarray, limit: float,
) -> np.ndarray:  # fmt: skip
    """(M,) bool: places none of the points that stay lies near, nor the one beside which they lie."""
    out = np.empty(len(place), np.bool_)
    for k in range(len(place)):
        n = beside[k]
        x, y, z = place[k, 0], place[k, 1], place[k, 2]
        out[k] = distance_sq(position, n, x, y, z) >= limit
        for e in range(starts[n], starts[n] + counts[n]):
            if staying[others[e]] and distance_sq(position, others[e], x, y, z) < limit:
                out[k] = False
    return out
