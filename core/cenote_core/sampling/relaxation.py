"""Points eased apart on their surfaces: those that lie close push each other away.

The push grows as the distance falls short of what is wished for, and each point goes along the surface with it, over
the edges of its triangle where it must (after Turk, *Re-Tiling Polygonal Surfaces*, 1992). Thrown darts lie close in
some places and leave room in others; a few rounds even that out, so that as many points lie wider apart.

All points of a round go at once from where they lay, so the order they are reckoned in makes no difference.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined, parallel_kernel, prange, uint64
from .neighbours import Neighbours
from .surface_walk import SurfacePoints, WalkSurface, along, walk

WISHED = ((1.45, 0.5), (1.35, 0.5), (1.25, 0.5))
"""For each round the distance wished for, in parts of the radius the darts were thrown at, and the share of what is
lacking that each of the two goes."""
SEEN = 1.7
"""Who lay farther than this at first, in the same parts, is not asked whether it has come near: hardly any does."""
_STRIDE = 0.1
"""A point goes at most so far in a round, in parts of the radius."""
_AHEAD = 5.0
"""Who lies by a border and would be over it after so many of its strides stays: nobody stands beyond it and pushes back, and points
that came as near as they could would stand in a row along it."""


def relaxed(at: SurfacePoints, near: Neighbours, floor: WalkSurface, radius: float) -> SurfacePoints:
    """Points after some rounds of pushing.

    Parameters
    ----------
    at : SurfacePoints, N points
    near : Neighbours of them, within SEEN · radius
    floor : Floor
    radius : float
        What the points keep apart, metres.
    """
    # What lies beside each other is read together: each point has the frame of its triangle at hand.
    frame = floor.frames_at(at.face)
    coming = at.elsewhere()
    stride = np.float32(radius * _STRIDE)
    for turn, (wished, pace) in enumerate(WISHED):
        _push(
            at.position, at.face, at.bary, *near.parts(),
            frame, floor.frames, floor.faces, floor.fans, floor.fan, floor.rim,
            np.float32(radius * wished), stride, np.float32(pace), coming.position, coming.face, coming.bary,
        )  # fmt: skip
        # What was given is only read.
        at, coming = coming, (at.elsewhere() if turn == 0 else at)
    return at


@inlined()
def push_from(
    n: int, position: np.ndarray, begin: int, end: int, others: np.ndarray, wished: float
) -> tuple[float, float, float]:
    """How point `n` is pushed by its neighbours: the sum of what each distance lacks of the one wished for."""
    x, y, z = position[n, 0], position[n, 1], position[n, 2]
    dx, dy, dz = np.float32(0), np.float32(0), np.float32(0)
    for e in range(begin, end):
        m = uint64(others[e])
        ex, ey, ez = x - position[m, 0], y - position[m, 1], z - position[m, 2]
        far = np.sqrt(ex * ex + ey * ey + ez * ez) + np.float32(1e-12)
        push = max(wished / far - np.float32(1), np.float32(0))
        dx, dy, dz = dx + push * ex, dy + push * ey, dz + push * ez
    return dx, dy, dz  # type: ignore[return-value]


@parallel_kernel
def _push(
    position: np.ndarray, face: np.ndarray, bary: np.ndarray, starts: np.ndarray, counts: np.ndarray,
    others: np.ndarray, frame: np.ndarray, frames: np.ndarray, faces: np.ndarray, fans: np.ndarray, fan: np.ndarray,
    rim: np.ndarray, wished: float, stride: float, pace: float, out_position: np.ndarray, out_face: np.ndarray, out_bary: np.ndarray,
) -> None:  # fmt: skip
    """One round: each point goes a share of what it lacks of the distance wished for from each neighbour, as that one does."""
    for n in prange(len(face)):
        dx, dy, dz = push_from(n, position, starts[n], starts[n] + counts[n], others, wished)
        dx, dy, dz = pace * dx, pace * dy, pace * dz
        going = np.sqrt(dx * dx + dy * dy + dz * dz)
        if going > stride:
            shorter = stride / going
            dx, dy, dz = dx * shorter, dy * shorter, dz * shorter
        f, u, v = np.int64(face[n]), np.float64(bary[n, 0]), np.float64(bary[n, 1])
        du, dv = along(n, frame, dx, dy, dz)
        if rim[f]:
            ax, ay, az = np.float32(_AHEAD) * dx, np.float32(_AHEAD) * dy, np.float32(_AHEAD) * dz
            free, _, _, _ = walk(n, f, u, v, ax, ay, az, frame, frames, faces, fans, fan)
            for k in range(9):
                frame[n, k] = frames[f, k]
            if not free:
                du, dv = 0.0, 0.0
        if min(u + du, v + dv, 1.0 - u - v - du - dv) >= 0:
            u, v = u + du, v + dv
        else:
            _, f, u, v = walk(n, f, u, v, dx, dy, dz, frame, frames, faces, fans, fan)
        out_face[n], out_bary[n, 0], out_bary[n, 1] = f, u, v
        for k in range(3):
            out_position[n, k] = frame[n, k] + u * frame[n, 3 + k] + v * frame[n, 6 + k]
