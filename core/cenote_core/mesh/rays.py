"""Ray queries against everything that stands on a site."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from . import engine
from .jit import dr

_RAYS_AT_ONCE = 24_000_000
BYTES_A_TRIANGLE = 160
"""What the ray engine holds for each triangle, tree included (measured on 3.4 million)."""


@dataclass(frozen=True)
class Met:
    """What rays met first.

    Attributes
    ----------
    hit : (N,) bool
    face : (N,) int64, of the joined triangles; −1 for none
    bary : (N, 2) float32, shares of the face's second and third corner
    positions : (N, 3) float32, metres; where nothing is met, the end of the ray
    normals : (N, 3) float32 of the faces met, turned toward where the ray came from
    """

    hit: np.ndarray
    face: np.ndarray
    bary: np.ndarray
    positions: np.ndarray
    normals: np.ndarray


class RayScene:
    """A set of triangles that rays can be tested against.

    Parameters
    ----------
    positions : (V, 3) float32, metres
    faces : (F, 3) int32
    """

    def __init__(self, positions: np.ndarray, faces: np.ndarray) -> None:
        self.empty = len(faces) == 0
        self.nbytes = BYTES_A_TRIANGLE * len(faces)
        self._scene: Any = None if self.empty else engine.run(lambda mi: build_scene(mi, positions, faces)[0])

    def occlusion(
        self,
        points: np.ndarray,
        normals: np.ndarray,
        reach: float,
        rays: int = 128,
        progress: Callable[[float], None] | None = None,
    ) -> np.ndarray:
        """Cosine-weighted share of the hemisphere closed off within a distance.

        The share is ∫ V(ω) cos θ dω / π over the hemisphere about the normal, V = 1 where a ray hits within
        `reach`. Directions are a Fibonacci lattice mapped by Malley's method (uniform disk lifted to the
        hemisphere), turned for each point by its own hash, so the result depends on nothing but its input.

        Parameters
        ----------
        points, normals : (N, 3) float32
        reach : float, metres
        rays : int
            Rays a point. The standard error is at most 0.5/√rays, in practice about half of that.

        Returns
        -------
        (N,) float32 in 0..1
        """
        if self.empty or len(points) == 0:
            return np.zeros(len(points), np.float32)
        step = max(1, _RAYS_AT_ONCE // rays)
        parts = []
        for start in range(0, len(points), step):
            window = slice(start, start + step)
            parts.append(
                engine.run(
                    lambda mi, w=window, s=start: _occlusion(  # type: ignore[misc]
                        mi, self._scene, points[w], normals[w], reach, rays, s
                    )
                )
            )
            if progress:
                progress(min(1.0, (start + step) / len(points)))
        return np.concatenate(parts)

    def room_above(self, points: np.ndarray, headroom: float | np.ndarray) -> np.ndarray:
        """(N,) bool: is there `headroom` metres of free height, and does the point not lie inside something solid?

        The headroom may be one for all or one for each.

        A point counts as inside when most of five rays, up and to four sides, first meet a face from behind;
        one ray alone would be fooled where two solids touch.
        """
        if self.empty or len(points) == 0:
            return np.ones(len(points), bool)
        wanted = np.broadcast_to(np.asarray(headroom, np.float32), len(points))
        return engine.run(lambda mi: _room_above(mi, self._scene, points, wanted))

    def open_toward(self, points: np.ndarray, direction: np.ndarray, reach: float) -> np.ndarray:
        """(N,) float32: 1 where nothing is hit within `reach` metres in a direction (3,), else 0."""
        if self.empty or len(points) == 0:
            return np.ones(len(points), np.float32)
        return engine.run(lambda mi: _open_toward(mi, self._scene, points, direction, reach))

    def meet(self, points: np.ndarray, directions: np.ndarray, reach: float) -> Met:
        """What rays from (N, 3) points in (N, 3) unit directions meet first within `reach` metres."""
        if self.empty or len(points) == 0:
            count, none = len(points), np.zeros((len(points), 3), np.float32)
            return Met(np.zeros(count, bool), np.full(count, -1), none[:, :2], points + directions * reach, none)
        return engine.run(lambda mi: _meet(mi, self._scene, points, directions, reach))

    def surface_below(self, points: np.ndarray, above: float) -> np.ndarray:
        """(N,) height of the first surface met going down from `above` metres over each point; −inf if there is none."""
        if self.empty or len(points) == 0:
            return np.full(len(points), -np.inf)
        return engine.run(lambda mi: _surface_below(mi, self._scene, points, above))


def build_scene(mi: Any, positions: np.ndarray, faces: np.ndarray) -> tuple[Any, Any]:
    """Triangles in the ray engine, and their positions as its kernels read them; on the engine's thread."""
    mesh = mi.Mesh("standing", len(positions), len(faces))
    params = mi.traverse(mesh)
    corners = mi.Float(np.ascontiguousarray(positions, np.float32).ravel())
    params["vertex_positions"] = corners
    params["faces"] = mi.UInt32(np.ascontiguousarray(faces, np.uint32).ravel())
    params.update()
    return mi.load_dict({"type": "scene", "mesh": mesh}), corners


def _point(mi: Any, array: np.ndarray) -> Any:
    return mi.Point3f(*(mi.Float(np.ascontiguousarray(array[:, k], np.float32)) for k in range(3)))


def _occlusion(
    mi: Any, scene: Any, points: np.ndarray, normals: np.ndarray, reach: float, rays: int, first: int
) -> np.ndarray:
    count = len(points)
    point, normal = _point(mi, points), mi.Normal3f(_point(mi, normals))
    frame = mi.Frame3f(normal)
    # Leave the surface by a little more than float precision at this distance from the origin.
    offset = 1e-4 + 2e-6 * dr.max(dr.abs(point))
    origin = point + normal * offset
    index = dr.arange(mi.UInt32, count) + first
    turn = mi.Float(mi.sample_tea_32(index, mi.UInt32(1))[0]) * (2.0**-32)
    shift = mi.Float(mi.sample_tea_32(index, mi.UInt32(2))[0]) * (2.0**-32)
    golden = 0.6180339887498949

    def body(i: Any, hits: Any) -> tuple[Any, Any]:
        u = (mi.Float(i) + shift) / rays
        v = mi.Float(i) * golden + turn
        v -= dr.floor(v)
        radius = dr.sqrt(u)
        sine, cosine = dr.sincos(2 * dr.pi * v)
        local = mi.Vector3f(radius * cosine, radius * sine, dr.sqrt(dr.maximum(0.0, 1 - u)))
        ray = mi.Ray3f(origin, frame.to_world(local))
        ray.maxt = mi.Float(reach)
        hits += dr.select(scene.ray_test(ray), mi.UInt32(1), mi.UInt32(0))
        return i + 1, hits

    _, hits = dr.while_loop((dr.zeros(mi.UInt32, count), dr.zeros(mi.UInt32, count)), lambda i, hits: i < rays, body)
    return (np.array(hits, dtype=np.uint32) / np.float32(rays)).astype(np.float32)


FEELERS = 30.0
"""How far it is felt for solids round a place, metres."""
_FEELERS = ((0.0, 1.0, 0.0), (0.96, 0.28, 0.0), (-0.96, 0.28, 0.0), (0.0, 0.28, 0.96), (0.0, 0.28, -0.96))


def _room_above(mi: Any, scene: Any, points: np.ndarray, headroom: np.ndarray) -> np.ndarray:
    low, votes = _feel(mi, scene, points, headroom, _FEELERS[:3])
    # Where none of the first three met a face from behind, all five cannot come to three.
    doubtful = np.flatnonzero(votes)
    if len(doubtful):
        votes[doubtful] += _feel(mi, scene, points[doubtful], headroom[doubtful], _FEELERS[3:])[1]
    return ~(low | (votes >= 3))


def _feel(
    mi: Any, scene: Any, points: np.ndarray, headroom: np.ndarray, feelers: tuple[tuple[float, float, float], ...]
) -> tuple[np.ndarray, np.ndarray]:
    """(N,) bool: is something met upward within the headroom? (N,) uint32: how many rays met a face from behind.

    Everything is evaluated at once: each question asked by itself would trace the rays again.
    """
    origin, wanted = _point(mi, points) + mi.Vector3f(0, 0.02, 0), mi.Float(np.ascontiguousarray(headroom))
    low, votes = dr.zeros(mi.UInt32, len(points)), dr.zeros(mi.UInt32, len(points))
    for feeler in feelers:
        direction = mi.Vector3f(*feeler)
        ray = mi.Ray3f(origin, direction)
        ray.maxt = mi.Float(FEELERS)
        hit = scene.ray_intersect(ray, mi.RayFlags.Minimal, False, mi.Bool(True))
        behind = hit.is_valid() & (dr.dot(hit.n, direction) > 0)
        votes += dr.select(behind, mi.UInt32(1), mi.UInt32(0))
        if feeler[1] == 1.0:
            low = dr.select(hit.is_valid() & (hit.t < wanted), mi.UInt32(1), mi.UInt32(0))
    dr.eval(low, votes)
    return np.array(low).astype(bool), np.array(votes)


def _open_toward(mi: Any, scene: Any, points: np.ndarray, direction: np.ndarray, reach: float) -> np.ndarray:
    ray = mi.Ray3f(_point(mi, points), mi.Vector3f(*(float(v) for v in direction)))
    ray.maxt = mi.Float(reach)
    return np.where(np.array(scene.ray_test(ray)), 0.0, 1.0).astype(np.float32)


def _meet(mi: Any, scene: Any, points: np.ndarray, directions: np.ndarray, reach: float) -> Met:
    direction = mi.Vector3f(_point(mi, directions))
    ray = mi.Ray3f(_point(mi, points), direction)
    ray.maxt = mi.Float(reach)
    found = scene.ray_intersect_preliminary(ray)
    valid = found.is_valid()
    surface = found.compute_surface_interaction(ray, mi.RayFlags.Minimal)
    normal = dr.mulsign(surface.n, -dr.dot(surface.n, direction))
    t = dr.select(valid, found.t, mi.Float(reach))
    dr.eval(valid, found, normal, t)
    hit = np.array(valid).astype(bool)
    rows = lambda values: np.ascontiguousarray(np.array(values, np.float32).T)  # noqa: E731
    at = points + directions * np.array(t, np.float32)[:, None]
    face = np.where(hit, np.array(found.prim_index).astype(np.int64), -1)
    turned = np.where(hit[:, None], rows(normal), 0).astype(np.float32)
    return Met(hit, face, rows(found.prim_uv), at.astype(np.float32), turned)


def _surface_below(mi: Any, scene: Any, points: np.ndarray, above: float) -> np.ndarray:
    origin = _point(mi, points) + mi.Vector3f(0, above, 0)
    hit = scene.ray_intersect(mi.Ray3f(origin, mi.Vector3f(0, -1, 0)))
    found, t = np.array(hit.is_valid()), np.array(hit.t)
    return np.where(found, points[:, 1] + above - t, -np.inf)
