"""Exact distances from points to triangles, segments and points, by a tree of bounding boxes.

The ray engine answers rays only, so nearest-point queries have a tree of their own: median splits over the primitives'
middles, boxes in depth-first order, visited nearest box first. The point-triangle distance follows Ericson,
*Real-Time Collision Detection* (2005), 5.1.5.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.kernels import inlined, kernel, parallel_kernel, prange

_LEAF = 4
_NEEDLE = 1e-18
"""Square of the height over the longest side from which a triangle is one: finer ones are told from their rounding."""
_TINY = 1e-300
"""What a length of nothing counts as where it is divided by."""


@dataclass(frozen=True)
class NearestTree:
    """Triangles (segments and points count as flat ones) ready to be asked.

    Attributes
    ----------
    corners : (T, 3, 3) float64, in the tree's order
    order : (T,) int64, number of each in the list the tree was made from
    low, high : (N, 3) float64, boxes
    first, count : (N,) int64, range of triangles of a leaf, count 0 for inner boxes
    right : (N,) int64, second child of an inner box; the first follows directly
    """

    corners: np.ndarray
    order: np.ndarray
    low: np.ndarray
    high: np.ndarray
    first: np.ndarray
    count: np.ndarray
    right: np.ndarray

    def distance(self, points: np.ndarray, limit: float = np.inf) -> np.ndarray:
        """(N, 3) points → (N,) float64 metres to the nearest primitive; `limit` where none is nearer than that."""
        return self.nearest(points, limit)[0]

    def nearest(self, points: np.ndarray, limit: float = np.inf) -> tuple[np.ndarray, np.ndarray]:
        """Distance and number of the nearest primitive, −1 where none is within `limit`."""
        distance = np.empty(len(points))
        which = np.empty(len(points), np.int64)
        start = limit * limit if np.isfinite(limit) else 1e30
        at = np.ascontiguousarray(points, np.float64)
        _query(at, self.corners, self.low, self.high, self.first, self.count, self.right, start, distance, which)
        which = np.where(which < 0, -1, self.order[which]) if len(self.order) else np.full(len(points), -1)
        return distance, which


def triangle_tree(positions: np.ndarray, faces: np.ndarray) -> NearestTree:
    """A tree over triangles; (V, 3) and (F, 3)."""
    return _tree(positions[faces].astype(np.float64))


def segment_tree(start: np.ndarray, end: np.ndarray) -> NearestTree:
    """A tree over segments; (S, 3) each."""
    return _tree(np.stack([start, end, end], axis=1).astype(np.float64))


def line_tree(points: np.ndarray, closed: bool = False) -> NearestTree:
    """A tree over the segments of a line, (P, 3)."""
    end = np.concatenate([points[1:], points[:1]]) if closed else points[1:]
    start = points if closed else points[:-1]
    return segment_tree(start, end)


def _tree(corners: np.ndarray) -> NearestTree:
    count = len(corners)
    if count == 0:
        empty = np.zeros(0, np.int64)
        return NearestTree(np.zeros((0, 3, 3)), empty, np.zeros((0, 3)), np.zeros((0, 3)), empty, empty, empty)
    corners = _flat_ones_as_segments(corners)
    boxes = 4 * (count // _LEAF + 2)
    order = np.arange(count)
    low, high = np.empty((boxes, 3)), np.empty((boxes, 3))
    first, counts, right = (np.zeros(boxes, np.int64) for _ in range(3))
    middle = corners.mean(axis=1)
    used = _build(corners, middle, order, low, high, first, counts, right)
    return NearestTree(corners[order], order, low[:used], high[:used], first[:used], counts[:used], right[:used])


def _flat_ones_as_segments(corners: np.ndarray) -> np.ndarray:
    """(T, 3, 3) with triangles that have no area, or next to none, as what they are: their longest side, its end twice.

    Which region of a triangle a point is nearest to is told by signs of areas, which are noise where there is none.
    """
    sides = corners[:, [1, 2, 0]] - corners
    length = np.einsum("tkc,tkc->tk", sides, sides)
    longest = length.argmax(axis=1)
    area = np.cross(sides[:, 0], sides[:, 1])
    flat = np.flatnonzero(np.einsum("tc,tc->t", area, area) <= _NEEDLE * length.max(axis=1) ** 2)
    if not len(flat):
        return corners
    out = corners.copy()
    start = longest[flat]
    out[flat, 0], out[flat, 1] = corners[flat, start], corners[flat, (start + 1) % 3]
    out[flat, 2] = out[flat, 1]
    return out


@kernel
def _build(
    corners: np.ndarray,
    middle: np.ndarray,
    order: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    first: np.ndarray,
    counts: np.ndarray,
    right: np.ndarray,
) -> int:
    stack = [(0, len(order), -1)]
    used = 0
    while len(stack) > 0:
        start, end, parent = stack.pop()
        node = used
        used += 1
        if parent >= 0:
            right[parent] = node
        for k in range(3):
            low[node, k], high[node, k] = 1e30, -1e30
        wide = np.full(3, -1e30)
        narrow = np.full(3, 1e30)
        for n in range(start, end):
            t = order[n]
            for k in range(3):
                for c in range(3):
                    low[node, k] = min(low[node, k], corners[t, c, k])
                    high[node, k] = max(high[node, k], corners[t, c, k])
                wide[k] = max(wide[k], middle[t, k])
                narrow[k] = min(narrow[k], middle[t, k])
        extent = wide - narrow
        axis = int(np.argmax(extent))
        if end - start <= _LEAF or extent[axis] <= 0.0:
            first[node] = start
            counts[node] = end - start
            continue
        part = order[start:end]
        half = (end - start) // 2
        by = np.argsort(middle[part, axis], kind="mergesort")
        order[start:end] = part[by]
        # The second child is pushed first, so that the first one follows directly behind its parent.
        stack.append((start + half, end, node))
        stack.append((start, start + half, -1))
    return used


@inlined()
def _box(p: np.ndarray, low: np.ndarray, high: np.ndarray, node: int) -> float:
    x = max(low[node, 0] - p[0], 0.0, p[0] - high[node, 0])
    y = max(low[node, 1] - p[1], 0.0, p[1] - high[node, 1])
    z = max(low[node, 2] - p[2], 0.0, p[2] - high[node, 2])
    return x * x + y * y + z * z


@inlined()
def _dot(ax: float, ay: float, az: float, bx: float, by: float, bz: float) -> float:
    return ax * bx + ay * by + az * bz


@kernel
def _triangle(p: np.ndarray, tri: np.ndarray) -> float:
    """Squared distance from a point to a triangle, flat ones included. Scalars only: arrays would be allocated."""
    ax, ay, az = tri[0, 0], tri[0, 1], tri[0, 2]
    bx, by, bz = tri[1, 0] - ax, tri[1, 1] - ay, tri[1, 2] - az
    cx, cy, cz = tri[2, 0] - ax, tri[2, 1] - ay, tri[2, 2] - az
    px, py, pz = p[0] - ax, p[1] - ay, p[2] - az
    d1, d2 = _dot(bx, by, bz, px, py, pz), _dot(cx, cy, cz, px, py, pz)
    v, w = 0.0, 0.0
    if d1 > 0 or d2 > 0:
        d3, d4 = d1 - _dot(bx, by, bz, bx, by, bz), d2 - _dot(bx, by, bz, cx, cy, cz)
        d5, d6 = d1 - _dot(bx, by, bz, cx, cy, cz), d2 - _dot(cx, cy, cz, cx, cy, cz)
        va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
        if d3 >= 0 and d4 <= d3:
            v = 1.0
        elif vc <= 0 and d1 >= 0 and d3 <= 0:
            v = d1 / max(d1 - d3, _TINY)
        elif d6 >= 0 and d5 <= d6:
            w = 1.0
        elif vb <= 0 and d2 >= 0 and d6 <= 0:
            w = d2 / max(d2 - d6, _TINY)
        elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
            w = (d4 - d3) / max(d4 - d3 + d5 - d6, _TINY)
            v = 1.0 - w
        else:
            total = max(va + vb + vc, _TINY)
            v, w = vb / total, vc / total
    ex, ey, ez = px - bx * v - cx * w, py - by * v - cy * w, pz - bz * v - cz * w
    return ex * ex + ey * ey + ez * ez


@parallel_kernel
def _query(
    points: np.ndarray,
    corners: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    first: np.ndarray,
    counts: np.ndarray,
    right: np.ndarray,
    start: float,
    distance: np.ndarray,
    which: np.ndarray,
) -> None:
    for n in prange(len(points)):
        best, found = start, -1
        stack = np.empty(96, np.int64)
        top = 0
        if len(counts) > 0:
            stack[0] = 0
            top = 1
        p = points[n]
        while top > 0:
            top -= 1
            node = stack[top]
            if _box(p, low, high, node) >= best:
                continue
            if counts[node] > 0:
                for t in range(first[node], first[node] + counts[node]):
                    d = _triangle(p, corners[t])
                    if d < best:
                        best, found = d, t
                continue
            a, b = node + 1, right[node]
            if _box(p, low, high, a) < _box(p, low, high, b):
                stack[top], stack[top + 1] = b, a
            else:
                stack[top], stack[top + 1] = a, b
            top += 2
        distance[n] = np.sqrt(best)
        which[n] = found
