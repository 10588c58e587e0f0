"""Droplets laid by hand: along a stroke, at even distances in the surface, each a little beside its place."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from ..hashing import text_seed
from ..measures.painted import apply_touches
from ..mesh.rays import RayScene
from ..plan import BeadsPlan, TouchPlan
from ..scene.scene import Scene
from .growth import Droplets
from .landing import merged
from .profile import Profiles, volume_of

LAID = "lay"
"""The action of strokes that lay droplets one by one."""
_APART = 3.2
"""Radii of a larger droplet from one to the next."""
_SMALLER = 0.45
"""The smallest against the largest."""
_ASIDE = 0.35
"""Share of the brush by which they stray from its path where it is wholly soft."""
_MOST = 4000
_LIMIT, _AROUND = 512, 6
"""Texels along a side of the map that sides are told by, and how many are asked about each place."""
_OFF, _REACH = 0.004, 0.012
"""Metres over the surface from which it is looked for, and how far."""


def along_surface(points: np.ndarray, apart: float) -> np.ndarray:
    """(N, 3) places at even distances along a line of points (P, 3) that lie close on a surface; the first is the line's."""
    lengths = np.append(0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1)))
    s = np.arange(min(int(lengths[-1] / apart) + 1, _MOST)) * apart
    return np.column_stack([np.interp(s, lengths, points[:, k]) for k in range(3)])


def laid_by_hand(
    scene: Scene, key: str, plan: BeadsPlan, owner: str, made: Profiles, strokes: list[TouchPlan], rays: RayScene
) -> Droplets:
    """The droplets that strokes have laid on an owner; what was erased or thinned after is gone.

    Parameters
    ----------
    strokes : those on the beads, in the order they were made
    rays : the owner
    """
    parts: list[Droplets] = []
    for number, stroke in enumerate(strokes):
        if stroke.action != LAID or stroke.owner != owner or not stroke.visible:
            continue
        found = _stroke(scene, plan, owner, made, stroke, rays, text_seed(key) + plan.seed + number)
        left = np.ones(len(found), np.float32)
        local = scene.to_local(owner, found.at.astype(np.float32))
        apply_touches(left, local, owner, strokes[number + 1 :], scene.size(owner))
        parts.append(found.only(np.random.Generator(np.random.Philox(number + 1)).random(len(found)) < left))
    names = Droplets.__dataclass_fields__
    none = Droplets(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0), np.zeros((0, 3)), np.zeros(0, np.int64))
    whole = Droplets(*(np.concatenate([getattr(part, n) for part in (none, *parts)]) for n in names))
    return merged(whole, made)


def _facing(scene: Scene, owner: str, at: np.ndarray, rays: RayScene) -> np.ndarray:
    """(N, 3) normals of the surface that places lie on, and not of the other side of something thin."""
    texels = scene.table(owner, scene.resolution(owner, _LIMIT)).points
    around = cKDTree(texels.positions).query(at, k=_AROUND)[1]
    best, away = np.zeros_like(at), np.full(len(at), np.inf)
    for nearest in around.T:
        normal = texels.normals[nearest].astype(np.float64)
        met = rays.meet((at + normal * _OFF).astype(np.float32), (-normal).astype(np.float32), _REACH)
        # What the ray meets from behind is not the side that is looked at.
        front = met.hit & ((met.normals * normal).sum(axis=1) > 0)
        distance = np.where(front, np.linalg.norm(met.positions - at, axis=1), np.inf)
        nearer = distance < away
        best[nearer], away[nearer] = met.normals[nearer], distance[nearer]
    return best


def _stroke(
    scene: Scene, plan: BeadsPlan, owner: str, made: Profiles, stroke: TouchPlan, rays: RayScene, seed: int
) -> Droplets:
    size, rng = plan.size / 1000, np.random.Generator(np.random.Philox(seed))
    line = scene.to_site(owner, np.asarray(stroke.points, np.float32).reshape(-1, 3)).astype(np.float64)
    at = along_surface(line, _APART * size)
    normal = _facing(scene, owner, at, rays)
    aside = rng.normal(size=at.shape) * (_ASIDE * stroke.radius * stroke.falloff)
    aside -= normal * (aside * normal).sum(axis=1, keepdims=True)
    met = rays.meet((at + aside + normal * _OFF).astype(np.float32), (-normal).astype(np.float32), _REACH)
    keep = met.hit & (rng.random(len(at)) < stroke.strength)
    radius = size * (_SMALLER + (1 - _SMALLER) * rng.random(len(at)))[keep]
    count = int(keep.sum())
    names = rng.integers(0, 2**62, count)
    facing = normal[keep]
    return Droplets(
        met.positions[keep].astype(np.float64), facing, volume_of(made, radius), np.zeros((count, 3)), names
    )
