"""The body of each droplet: its profile by size and contact angle, its own outline, its lean down a slope."""

from __future__ import annotations

import numpy as np

from ..hashing import uniform
from ..mesh.mesh import Mesh, make_mesh, vertex_normals
from ..mesh.rings import between_rings
from .growth import Droplets
from .profile import CAPILLARY, SAMPLES, Profiles, curve_of, foot_of

_WAVES = 5
"""Waves round an outline, from two on."""
_UNEVEN = 0.085
"""Mean size of the longest wave of an outline, of the radius: the edge is held by what it meets (pinning)."""
_LEAN = 0.55
"""Radii by which the top of a drop on a wall that is a capillary length wide stands below its middle."""
_SUNK = 0.06
"""Radii by which the rim lies below the surface, which may be curved."""
_KINDS = ((5, (0, 20, 32)), (8, (0, 14, 32)), (12, (0, 10, 20, 28, 32)), (26, (0, 4, 8, 12, 16, 20, 24, 28, 32)))
"""Sides of droplets from the plainest kind to the finest, and places of the profile at which they have rings."""
FINEST = len(_KINDS) - 1
_BY_SIZE = (0.0003, 0.0009, 0.003)
"""Radii from which droplets are of the next finer kind, where nothing is known of the eye."""


def kind_by_size(foot: np.ndarray) -> np.ndarray:
    """(N,) kind of droplets by the radius of their feet, metres."""
    return np.asarray(np.searchsorted(_BY_SIZE, foot, side="right"))


def triangles(kind: np.ndarray) -> np.ndarray:
    """(N,) triangles of droplets of some kinds."""
    each = np.array([sides * (2 * (len(rings) - 1) - 1) for sides, rings in _KINDS])
    return np.asarray(each[kind])


def outlines(names: np.ndarray, uneven: float) -> np.ndarray:
    """(N, 2, _WAVES) cosine and sine parts of the waves round each outline, of the radius."""
    size = _UNEVEN * uneven / np.arange(2, 2 + _WAVES) ** 0.8
    drawn = np.stack([uniform(names, 70 + k) for k in range(2 * _WAVES)], axis=1).reshape(-1, 2, _WAVES)
    return np.asarray((2 * drawn - 1) * size)


def outline_at(waves: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """(N, T) radius over the mean one at some angles."""
    out = np.ones((len(waves), len(turn)))
    for k in range(_WAVES):
        out += waves[:, 0, k, None] * np.cos((k + 2) * turn) + waves[:, 1, k, None] * np.sin((k + 2) * turn)
    return np.maximum(out, 0.35)


def frames(normal: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(N, 3) two unit vectors each that lie in the surface."""
    other = np.where(np.abs(normal[:, :1]) < 0.7, [[1.0, 0, 0]], [[0, 0, 1.0]])
    side = np.cross(normal, other)
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-12)
    return side, np.cross(normal, side)


def with_memory(waves: np.ndarray, drops: Droplets) -> np.ndarray:
    """Outlines in which droplets that have merged are still longer the way their parents lay."""
    side, across = frames(drops.normal)
    x, y = (drops.memory * side).sum(axis=1), (drops.memory * across).sum(axis=1)
    longer = np.hypot(x, y)
    twice = 2 * np.arctan2(y, x)
    out = waves.copy()
    out[:, 0, 0] += longer * np.cos(twice)
    out[:, 1, 0] += longer * np.sin(twice)
    return out


def bodies(drops: Droplets, made: Profiles, uneven: float, kind: np.ndarray | None = None) -> Mesh:
    """Droplets as a mesh: each a dome with its rim a little below the surface, of a `kind` (N,) or by its size."""
    foot = foot_of(made, drops.volume)
    kind = kind_by_size(foot) if kind is None else kind
    waves = with_memory(outlines(drops.name.astype(np.uint64), uneven), drops)
    parts_at, parts_faces, first = [], [], 0
    for number, (sides, rings) in enumerate(_KINDS):
        of = np.flatnonzero(kind == number)
        if not len(of):
            continue
        out, down = curve_of(made, drops.volume[of])
        turn = np.linspace(0, 2 * np.pi, sides, endpoint=False)
        round_ = outline_at(waves[of], turn)
        at = _placed(
            drops.only(of), foot[of], out[:, rings[1:]], down[:, rings[1:]], down[:, SAMPLES - 1], round_, turn
        )
        one = _faces(sides, len(rings) - 1)
        size = 1 + sides * (len(rings) - 1)
        parts_at.append(at.reshape(-1, 3))
        parts_faces.append((one[None] + (first + np.arange(len(of)) * size)[:, None, None]).reshape(-1, 3))
        first += len(of) * size
    if not parts_at:
        return make_mesh(np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32))
    positions, faces = np.concatenate(parts_at).astype(np.float32), np.concatenate(parts_faces).astype(np.int32)
    uv = np.zeros((len(positions), 2), np.float32)
    return make_mesh(positions, faces, normals=vertex_normals(positions, faces), uv=uv)


def _placed(
    drops: Droplets, foot: np.ndarray, out: np.ndarray, down: np.ndarray, height: np.ndarray, round_: np.ndarray,
    turn: np.ndarray,
) -> np.ndarray:  # fmt: skip
    """(N, 1 + rings · sides, 3) places of the top and of every ring."""
    side, across = frames(drops.normal)
    # On a slope the water hangs down in its skin.
    fall = np.array([0.0, -1.0, 0.0]) + drops.normal * drops.normal[:, 1:2]
    lean = fall * (_LEAN * foot * np.minimum(foot / CAPILLARY, 1.0) ** 2)[:, None]
    up = height[:, None] - down
    share = (up / height[:, None])[..., None]
    # The outline is that of the foot; the top is round.
    wide = 1 + (round_[:, None] - 1) * (out / np.maximum(foot, 1e-12)[:, None])[..., None]
    radius = out[..., None] * wide
    ring = (
        drops.at[:, None, None]
        + side[:, None, None] * (radius * np.cos(turn))[..., None]
        + across[:, None, None] * (radius * np.sin(turn))[..., None]
        + drops.normal[:, None, None] * (up - _SUNK * foot[:, None] * (1 - share[..., 0]) ** 8)[:, :, None, None]
        + lean[:, None, None] * share[..., None]
    )
    top = drops.at + drops.normal * height[:, None] + lean
    return np.concatenate([top[:, None], ring.reshape(len(foot), -1, 3)], axis=1)


def _faces(sides: int, rings: int) -> np.ndarray:
    """Triangles of a dome: its top, vertex 0, and the rings below it. They go round the other way than `fan` has it."""
    around = 1 + np.arange(sides)
    top = np.stack([np.zeros(sides, np.int64), around, np.roll(around, -1)], axis=1)
    return np.concatenate([top, 1 + between_rings(rings, sides)[:, ::-1]])
