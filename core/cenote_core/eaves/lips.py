"""Lower edges of pieces over which water leaves them: eaves, copings, sills, rims.

An edge is a lip where a face that looks down ends in a bend outward, nothing of the piece goes on below, and there is
air under it. How much water comes there is what the runoff measure carries over the surface beside it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from ..graph.derived import derived
from ..hashing import uniform
from ..mesh.mesh import Mesh
from ..plan import GROUND
from ..scene.runoff_network import run, texels_of
from ..scene.scene import Scene

_LOOKS_DOWN = -0.3
"""Upward part of its normal under which a face counts as an underside."""
_STEEPEST = 0.4
"""Rise of an edge over its length beyond which water runs along it instead of leaving it."""
_LEVEL, _TOWARD = 0.02, 0.3
"""Slope under which a face counts as level, and the share of a slope that must lead to an edge."""
_SHORTEST = 0.004
"""Metres of edge that are worth a look."""
_WELD = 1e-4
"""Metres within which vertices are one."""
AIR = 0.06
"""Metres of air there must be under a lip; where nothing at all is below, it lies in the ground."""
_OUT, _BELOW = 0.004, 0.003
"""Metres outward and down from a lip at which what is below is looked for."""
_DEEP = 40.0
_NEAR = 2.0
"""Metres about an owner's box within which things may stand under its lips."""
_ABOUT = 0.045
"""Metres from a lip within which the water that comes there is read: about two texels of what it runs over."""
_NAMES = 4099
"""More than there are places on any lip."""
_ALONG = 0.25
"""Metres a lip is cut into at most, so that the water of each part is its own."""


@dataclass(frozen=True)
class Lips:
    """Lower edges, in pieces of a quarter of a metre at most.

    Attributes
    ----------
    start, end : (N, 3) float64 metres
    outward : (N, 3) float64 unit vectors, level, away from what the edge belongs to
    air : (N,) float64 metres down to what is below
    """

    start: np.ndarray
    end: np.ndarray
    outward: np.ndarray
    air: np.ndarray

    def __len__(self) -> int:
        return len(self.start)

    @property
    def length(self) -> np.ndarray:
        """(N,) metres."""
        return np.asarray(np.linalg.norm(self.end - self.start, axis=1))

    def only(self, keep: np.ndarray) -> Lips:
        """Those that `keep` picks."""
        return Lips(*(getattr(self, name)[keep] for name in self.__dataclass_fields__))


@derived(lambda scene, owner: [scene.mesh.ref(owner), scene.rays.ref(_about(scene, owner))], keep="disk")
def lips(scene: Scene, owner: str) -> Lips:
    """The lower edges of a piece with air under them."""
    found = lower_edges(scene.mesh(owner))
    if not len(found):
        return found
    rays = scene.rays(_about(scene, owner))
    middle = (found.start + found.end) / 2
    below = middle + found.outward * _OUT - np.array([0, _BELOW, 0])
    down = np.tile(np.array([0, -1, 0], np.float32), (len(below), 1))
    met = rays.meet(below.astype(np.float32), down, _DEEP)
    air = middle[:, 1] - met.positions[:, 1]
    # What stands against something else on its outside drips nowhere.
    outside = rays.meet((middle - np.array([0, _BELOW, 0])).astype(np.float32), found.outward.astype(np.float32), AIR)
    return Lips(found.start, found.end, found.outward, air).only(met.hit & (air > AIR) & ~outside.hit)


def _about(scene: Scene, owner: str) -> tuple[str, ...]:
    """What may stand under an owner's lips, the ground among it."""
    return tuple(sorted({GROUND, *scene.near(owner, _NEAR)}))


def lower_edges(mesh: Mesh) -> Lips:
    """Edges of a mesh (in metres, y up) over which water leaves it, whatever is below them."""
    corners = mesh.positions[mesh.faces].astype(np.float64)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    _, welded = np.unique(np.round(mesh.positions / _WELD).astype(np.int64), axis=0, return_inverse=True)
    sides = welded.reshape(-1)[mesh.faces][:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2)
    face, side = np.divmod(np.arange(len(sides)), 3)
    low, high = sides.min(axis=1).astype(np.int64), sides.max(axis=1).astype(np.int64)
    _, edge = np.unique(low * (int(sides.max(initial=0)) + 1) + high, return_inverse=True)
    order = np.argsort(edge, kind="stable")
    same = np.flatnonzero(np.diff(edge[order]) == 0)
    pairs = np.concatenate([np.stack([order[same], order[same + 1]]), np.stack([order[same + 1], order[same]])], axis=1)
    alone = order[np.isin(edge[order], np.flatnonzero(np.bincount(edge) == 1))]
    # Of each pair the first is the outer face; an edge with one face only hangs from that.
    first, second = np.concatenate([pairs[0], alone]), np.concatenate([pairs[1], np.full(len(alone), -1)])
    outer, under = face[first], np.where(second >= 0, face[second], -1)
    a, b = corners[outer, side[first]], corners[outer, (side[first] + 1) % 3]
    opposite = corners[outer, (side[first] + 2) % 3]
    keep = _sheds(a, b, opposite, normals[outer]) & _is_underside(a, corners, normals, outer, under, side, second)
    a, b, opposite, outer = a[keep], b[keep], opposite[keep], outer[keep]
    out = normals[outer] * [1, 0, 1]
    away = ((a + b) / 2 - opposite) * [1, 0, 1]
    out = np.where(np.linalg.norm(out, axis=1, keepdims=True) > 0.2, out, away)
    out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-9)
    return _cut(a, b, out)


def _sheds(a: np.ndarray, b: np.ndarray, opposite: np.ndarray, normal: np.ndarray) -> np.ndarray:
    """Does water on a face come to this edge of it and leave it there?"""
    long = np.linalg.norm(b - a, axis=1)
    level = np.abs(b[:, 1] - a[:, 1]) < _STEEPEST * long
    middle = (a[:, 1] + b[:, 1]) / 2
    downhill = normal * normal[:, 1:2] - np.array([0, 1, 0])
    along = (b - a) / np.maximum(long, 1e-9)[:, None]
    away = a - opposite
    away = away - along * (away * along).sum(axis=1, keepdims=True)
    toward = (downhill * away).sum(axis=1) / np.maximum(np.linalg.norm(away, axis=1), 1e-9)
    steep = np.linalg.norm(downhill, axis=1)
    # On what is level water goes to every side.
    comes = (steep < _LEVEL) | (toward > _TOWARD * steep)
    not_up = opposite[:, 1] > middle - 0.02 * long
    return (long > _SHORTEST) & level & (normal[:, 1] > _LOOKS_DOWN) & not_up & comes


def _is_underside(
    a: np.ndarray, corners: np.ndarray, normals: np.ndarray, outer: np.ndarray, under: np.ndarray, side: np.ndarray,
    second: np.ndarray,
) -> np.ndarray:  # fmt: skip
    """Is the face across an edge an underside that bends away from the outer one? True where there is none."""
    there = np.where(under >= 0, under, 0)
    beyond = corners[there, (side[np.where(second >= 0, second, 0)] + 2) % 3]
    convex = ((beyond - a) * normals[outer]).sum(axis=1) < 0
    return (under < 0) | ((normals[there, 1] < _LOOKS_DOWN) & convex)


def _cut(a: np.ndarray, b: np.ndarray, out: np.ndarray) -> Lips:
    """Edges in short pieces."""
    pieces = np.maximum(np.ceil(np.linalg.norm(b - a, axis=1) / _ALONG).astype(int), 1)
    of = np.repeat(np.arange(len(a)), pieces)
    number = np.arange(len(of)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    low, high = (number / pieces[of])[:, None], ((number + 1) / pieces[of])[:, None]
    return Lips(a[of] + (b - a)[of] * low, a[of] + (b - a)[of] * high, out[of], np.zeros(len(of)))


def places_along(along: Lips, apart: float, channel: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places on lips, about one to so many metres: (N,) which lip, (N,) uint64 names, (N, 3) metres.

    `channel` and the three after it are the numbers of its identities that are used up.
    """
    every = np.arange(len(along)).astype(np.uint64)
    places = np.floor(along.length / apart + uniform(every, channel)).astype(int)
    of = np.repeat(np.arange(len(along)), places)
    within = np.arange(len(of)) - np.repeat(np.cumsum(places) - places, places)
    name = of.astype(np.uint64) * np.uint64(_NAMES) + within.astype(np.uint64)
    share = uniform(name, channel + 1)[:, None]
    return of, name, along.start[of] * (1 - share) + along.end[of] * share


def fed_refs(scene: Scene, owner: str) -> list[Any]:
    """What `fed` hangs on."""
    now = scene.site.weather
    return [lips.ref(scene, owner), run.ref(scene, now.wind_from, now.wind, (), (), 0.0)]


def fed(scene: Scene, owner: str) -> np.ndarray:
    """(N,) float64 metres of rained-on surface that drain over each of an owner's lips: the most that comes near it."""
    now, along = scene.site.weather, lips(scene, owner)
    table, own = texels_of(scene, owner)
    water = run(scene, now.wind_from, now.wind, (), (), 0.0)[own]
    out = np.zeros(len(along))
    carries = np.flatnonzero((table.points.normals[:, 1] > _LOOKS_DOWN) & (water > 0))
    if len(along) and len(carries):
        found = cKDTree(table.points.positions[carries]).query_ball_point((along.start + along.end) / 2, _ABOUT)
        for n, near in enumerate(found):
            out[n] = water[carries[near]].max() if near else 0.0
    return out
