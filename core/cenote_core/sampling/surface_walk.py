"""Points that lie on triangles, and ways along the surface from one triangle to the next."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.kernels import inlined, kernel, parallel_kernel, prange, uint64

_EDGES = 16
"""Edges crossed on one way at most."""
_SMOOTH = 0.7
"""Cosine between the normals of two faces from which on a way leads from one to the other."""


@dataclass(frozen=True)
class SurfacePoints:
    """Points and where they lie on triangles.

    Attributes
    ----------
    position : (N, 3) float32
    face : (N,) int32
    bary : (N, 2) float32, weights of the second and third corner
    identity : (N,) uint64
    """

    position: np.ndarray
    face: np.ndarray
    bary: np.ndarray
    identity: np.ndarray

    def __len__(self) -> int:
        return len(self.face)

    def parts(self) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        return self.position, self.face, self.bary, self.identity

    def taken(self, order: np.ndarray) -> SurfacePoints:
        """Those of these numbers, in this order."""
        return SurfacePoints(*_taken(order, *self.parts()))

    def followed_by(self, others: SurfacePoints) -> SurfacePoints:
        return SurfacePoints(*(np.concatenate(pair) for pair in zip(self.parts(), others.parts(), strict=True)))

    def elsewhere(self) -> SurfacePoints:
        """Room for the same points in other places."""
        return SurfacePoints(
            np.empty_like(self.position), np.empty_like(self.face), np.empty_like(self.bary), self.identity
        )


@parallel_kernel
def _taken(
    order: np.ndarray, position: np.ndarray, face: np.ndarray, bary: np.ndarray, identity: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Position, face, weights and identity are taken together, as they lie apart."""
    positions, faces = np.empty((len(order), 3), np.float32), np.empty(len(order), np.int32)
    weights, identities = np.empty((len(order), 2), np.float32), np.empty(len(order), np.uint64)
    for k in prange(len(order)):
        n = order[k]
        for axis in range(3):
            positions[k, axis] = position[n, axis]
        faces[k], identities[k] = face[n], identity[n]
        weights[k, 0], weights[k, 1] = bary[n, 0], bary[n, 1]
    return positions, faces, weights, identities


class WalkSurface:
    """Triangles to walk on: those that have an area.

    Attributes
    ----------
    frames : (F, 9) float32, first corner and the edges from it to the others
    faces : (F, 3) int32
    fans, fan : where the faces about each corner start, and those faces
    rim : (F,) bool, faces that touch a border
    """

    def __init__(self, frames: np.ndarray, faces: np.ndarray, areas: np.ndarray) -> None:
        self.frames, self.faces = frames, faces
        self.fans, self.fan, self.rim = _fans(faces, areas)

    def frames_at(self, face: np.ndarray) -> np.ndarray:
        """(N, 9) float32: frames of these faces. Ways that change the face change them too."""
        return _rows(self.frames, face)


@parallel_kernel
def _rows(frames: np.ndarray, face: np.ndarray) -> np.ndarray:
    out = np.empty((len(face), 9), np.float32)
    for n in prange(len(face)):
        f = face[n]
        for k in range(9):
            out[n, k] = frames[f, k]
    return out


@kernel
def _fans(faces: np.ndarray, areas: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Where the faces about each corner start, those faces, and which faces touch a border.

    About a corner inside every other corner is once the next of a face and once the one before: what is added and
    taken away cancels out.
    """
    top = 0
    for f in range(len(faces)):
        for k in range(3):
            top = max(top, faces[f, k])
    starts, odd = np.zeros(top + 2, np.int32), np.zeros(top + 1, np.int32)
    for f in range(len(faces)):
        if areas[f] > 0:
            for k in range(3):
                v = uint64(faces[f, k])
                starts[v] += 1
                odd[v] += faces[f, (k + 1) % 3] - faces[f, (k + 2) % 3]
    total = 0
    for v in range(len(starts)):
        total += starts[v]
        starts[v] = total
    out, rim = np.empty(total, np.int32), np.zeros(len(faces), np.bool_)
    for f in range(len(faces) - 1, -1, -1):
        if areas[f] > 0:
            for k in range(3):
                v = uint64(faces[f, k])
                starts[v] -= 1
                out[starts[v]] = f
                rim[f] |= odd[v] != 0
    return starts, out, rim


@inlined()
def along(n: int, frame: np.ndarray, dx: float, dy: float, dz: float) -> tuple[float, float]:
    """What going (dx, dy, dz), laid flat on the triangle, adds to the weights; nothing on one that is but a line."""
    bx, by, bz = np.float64(frame[n, 3]), np.float64(frame[n, 4]), np.float64(frame[n, 5])
    cx, cy, cz = np.float64(frame[n, 6]), np.float64(frame[n, 7]), np.float64(frame[n, 8])
    bb, bc, cc = bx * bx + by * by + bz * bz, bx * cx + by * cy + bz * cz, cx * cx + cy * cy + cz * cz
    b, c = bx * dx + by * dy + bz * dz, cx * dx + cy * dy + cz * dz
    area = bb * cc - bc * bc
    whole = 1.0 / area if area > 1e-12 * bb * cc else 0.0
    return (cc * b - bc * c) * whole, (bb * c - bc * b) * whole


@kernel
def walk(
    n: int, f: int, u: float, v: float, dx: float, dy: float, dz: float, frame: np.ndarray, frames: np.ndarray,
    faces: np.ndarray, fans: np.ndarray, fan: np.ndarray,
) -> tuple[bool, int, float, float]:  # fmt: skip
    """Face and weights of point `n` after going (dx, dy, dz) along the surface; its frame is changed with the face.

    Where the way leads over a border, a sharp crease or very many edges it is not gone at all, and the first returned
    is false: points that went as far as they could would stand in a row there.
    """
    at, first_u, first_v = f, u, v
    left = 1.0
    for _ in range(_EDGES):
        du, dv = along(n, frame, dx, dy, dz)
        # How much of the way is gone when each weight falls to nought; the least of them is the edge that is met.
        edge, share = -1, left
        if u + du * left < 0 and -u / du < share:
            edge, share = 1, -u / du
        if v + dv * left < 0 and -v / dv < share:
            edge, share = 2, -v / dv
        if du + dv > 0 and u + v + (du + dv) * left > 1 and (1 - u - v) / (du + dv) < share:
            edge, share = 0, (1 - u - v) / (du + dv)
        share = max(share, 0.0)
        u, v = max(u + du * share, 0.0), max(v + dv * share, 0.0)
        if u + v > 1:
            u, v = u / (u + v), v / (u + v)
        left -= share
        if edge < 0 or left <= 0:
            return True, f, u, v
        # The edge lies between the two corners after the one whose weight is nought.
        one, other = faces[f, (edge + 1) % 3], faces[f, (edge + 2) % 3]
        g = _beyond(f, one, other, faces, fans, fan)
        if g < 0 or _crease(f, g, frames):
            break
        part = v if edge == 0 else (1 - u - v if edge == 1 else u)  # weight of `other`
        u, v = 0.0, 0.0
        for k in range(1, 3):
            weight = part if faces[g, k] == other else (1 - part if faces[g, k] == one else 0.0)
            u, v = (weight, v) if k == 1 else (u, weight)
        f = g
        for k in range(9):
            frame[n, k] = frames[f, k]
    for k in range(9):
        frame[n, k] = frames[at, k]
    return False, at, first_u, first_v


@kernel
def _crease(f: int, g: int, frames: np.ndarray) -> bool:
    """Whether two faces meet at more than about 45°."""
    ax, ay, az = _normal(f, frames)
    bx, by, bz = _normal(g, frames)
    return ax * bx + ay * by + az * bz < _SMOOTH * np.sqrt(
        (ax * ax + ay * ay + az * az) * (bx * bx + by * by + bz * bz)
    )


@inlined()
def _normal(f: int, frames: np.ndarray) -> tuple[float, float, float]:
    bx, by, bz = frames[f, 3], frames[f, 4], frames[f, 5]
    cx, cy, cz = frames[f, 6], frames[f, 7], frames[f, 8]
    return by * cz - bz * cy, bz * cx - bx * cz, bx * cy - by * cx


@kernel
def _beyond(f: int, one: int, other: int, faces: np.ndarray, fans: np.ndarray, fan: np.ndarray) -> int:
    """The face that shares the edge between two corners with face `f`; −1 at a border."""
    for e in range(fans[one], fans[one + 1]):
        g = fan[e]
        if g != f and (faces[g, 0] == other or faces[g, 1] == other or faces[g, 2] == other):
            return np.int64(g)  # type: ignore[return-value]
    return -1
