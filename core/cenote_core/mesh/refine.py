"""Cutting triangles finer where they are looked at closely, without cracks.

Edges are marked, not triangles: an edge that two triangles share is marked for both or for neither, wherever their
vertices are split along a seam, so that the finer mesh closes where the coarser one did. A triangle is cut by its
marked edges (Bey, *Tetrahedral grid refinement*, 1995, in the plane: one, two or three of them).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

_MOST_ROUNDS = 40
_ALIKE = 0.7
"""Edges count as equally long from this share of the longest on; half of it would bring back what was just cut."""


@dataclass(frozen=True)
class Refined:
    """A finer mesh.

    Attributes
    ----------
    values : (V, K) float64, positions first, then whatever else vertices carry
    faces : (F, 3) int64
    welded : (V,) int64, the same number for vertices at the same place
    source : (F,) int64, the face each is a part of
    whole : is every edge as short as was asked for?
    """

    values: np.ndarray
    faces: np.ndarray
    welded: np.ndarray
    source: np.ndarray
    whole: bool


Longest = Callable[[np.ndarray], np.ndarray]
"""(F, 3, 3) corners of triangles → (F,) longest edge each may have, metres."""


def welded(positions: np.ndarray) -> np.ndarray:
    """(V,) int64, the same number for vertices at the same place."""
    return np.unique(np.ascontiguousarray(positions), axis=0, return_inverse=True)[1].astype(np.int64).ravel()


def refine(values: np.ndarray, faces: np.ndarray, longest: Longest, most: int) -> Refined:
    """Halve edges that are longer than `longest` says for one of their triangles, until none is.

    Parameters
    ----------
    values : (V, K) float64, positions in the first three columns
    most : stop before there are more faces than this
    """
    values, faces = np.asarray(values, np.float64), np.asarray(faces, np.int64)
    weld, source, known = welded(values[:, :3]), np.arange(len(faces)), 0
    for _ in range(_MOST_ROUNDS):
        pairs, edge = _edges(weld, faces)
        marked = np.zeros(len(pairs), bool)
        # Faces that were left as they were are known to be fine enough.
        marked[edge[known:][_too_long(values, faces[known:], longest)]] = True
        cut = marked[edge]
        if not cut.any():
            return Refined(values, faces, weld, source, True)
        if len(faces) + int(cut.sum()) > most:
            return Refined(values, faces, weld, source, False)
        values, weld, middle = _with_middles(values, weld, faces, edge, cut, len(pairs))
        faces, of = _cut(values, faces, cut, middle)
        source, known = source[of], int((~cut.any(axis=1)).sum())
    return Refined(values, faces, weld, source, False)


def _too_long(values: np.ndarray, faces: np.ndarray, longest: Longest) -> np.ndarray:
    """(F, 3) bool: which edges are longer than their triangle may have; edge k runs from corner k to the next.

    Of a long thin triangle the short edges wait until the long ones have come near them, which takes a third fewer.
    """
    p = values[faces, :3]
    length = np.linalg.norm(p - p[:, [1, 2, 0]], axis=2)
    return np.asarray((length > longest(p)[:, None]) & (length > _ALIKE * length.max(axis=1, keepdims=True)))


def _edges(weld: np.ndarray, faces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Numbers of all edges as pairs of places, and (F, 3) which of them each side of a face is."""
    a, b = weld[faces], weld[faces[:, [1, 2, 0]]]
    low, high = np.minimum(a, b), np.maximum(a, b)
    pairs, which = np.unique((low << 32 | high).ravel(), return_inverse=True)
    return pairs, which.reshape(-1, 3)


def _with_middles(
    values: np.ndarray, weld: np.ndarray, faces: np.ndarray, edge: np.ndarray, cut: np.ndarray, edges: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Vertices with those in the middles of cut edges, and (F, 3) their numbers, −1 where there is none."""
    a, b = faces, faces[:, [1, 2, 0]]
    low, high = np.minimum(a, b)[cut], np.maximum(a, b)[cut]
    made, which = np.unique(low << 32 | high, return_inverse=True)
    low, high = made >> 32, made & 0xFFFFFFFF
    middles = (values[low] + values[high]) / 2
    # Middles of one edge lie at one place, whichever vertices it was between.
    place = np.empty(len(made), np.int64)
    place[which] = edge[cut]
    numbers = np.full(faces.shape, -1, np.int64)
    numbers[cut] = which + len(values)
    fresh = np.unique(place, return_inverse=True)[1].ravel() + (int(weld.max()) + 1)
    return np.concatenate([values, middles]), np.concatenate([weld, fresh]), numbers


def _cut(values: np.ndarray, faces: np.ndarray, cut: np.ndarray, middle: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The faces after their marked edges were halved, and (F',) which each was a part of."""
    count = cut.sum(axis=1)
    numbers = np.arange(len(faces))
    parts, of = [faces[count == 0]], [numbers[count == 0]]

    def add(which: np.ndarray, *corners: tuple[np.ndarray, np.ndarray, np.ndarray]) -> None:
        for three in corners:
            parts.append(np.column_stack(three))
            of.append(which)

    for turn in range(3):
        at = [(turn + k) % 3 for k in range(3)]
        one = np.flatnonzero((count == 1) & cut[:, turn])
        a, b, c = (faces[one, k] for k in at)
        m = middle[one, turn]
        add(one, (a, m, c), (m, b, c))
        two = np.flatnonzero((count == 2) & cut[:, at[0]] & cut[:, at[1]])
        a, b, c = (faces[two, k] for k in at)
        m, n = middle[two, at[0]], middle[two, at[1]]
        add(two, (m, b, n))
        # The quadrilateral that is left along its shorter diagonal.
        span = lambda i, j: np.linalg.norm(values[i, :3] - values[j, :3], axis=1)  # noqa: E731
        first = span(a, n) <= span(m, c)
        k, j = np.flatnonzero(first), np.flatnonzero(~first)
        add(two[k], (a[k], m[k], n[k]), (a[k], n[k], c[k]))
        add(two[j], (a[j], m[j], c[j]), (m[j], n[j], c[j]))
    three = np.flatnonzero(count == 3)
    a, b, c = faces[three].T
    m, n, o = middle[three].T
    add(three, (a, m, o), (m, b, n), (o, n, c), (m, n, o))
    return np.concatenate(parts), np.concatenate(of)
