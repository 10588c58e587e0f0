"""Far cards: a plant drawn once from two sides, standing for it in the distance."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numba import njit
from scipy.spatial import ConvexHull, QhullError

from ..materials.material import Material, linear_to_srgb, material, srgb_to_linear
from ..mesh.mesh import Mesh, make_mesh
from .openness import drawn_shade

SIDE = 256
"""Texels of one view; the picture holds two beside each other."""
SLOT = "far"
_BORDER = 1.02
CORNERS = 8


def _extent(mesh: Mesh) -> tuple[float, float, float]:
    """Half width around the axis, foot and top, metres."""
    low, high = mesh.bounds()
    half = float(max(np.abs(low[[0, 2]]).max(), np.abs(high[[0, 2]]).max())) * _BORDER
    return half, float(min(low[1], 0.0)), float(high[1]) * _BORDER


def far_card(mesh: Mesh, triangles: int = 4 * CORNERS) -> Mesh:
    """Two crossed cards cut to the plant's outline, u 0..½ seen along z, ½..1 along x; normals as of a round body.

    They have at most so many triangles, but no fewer than four.
    """
    corners = max(4, min(CORNERS, triangles // 4 + 2))
    half, foot, top = _extent(mesh)
    middle = np.array([0.0, foot + 0.35 * (top - foot), 0.0])
    frame = np.array([(-half, foot), (half, top)])
    positions, uv, faces = [], [], []
    offset = 0
    for view in range(2):
        across = mesh.positions[:, 0] if view == 0 else -mesh.positions[:, 2]
        x, y = card_outline(np.column_stack([across, mesh.positions[:, 1]]).astype(np.float64), frame, corners).T
        flat = np.zeros(len(x))
        positions.append(np.column_stack([x, y, flat] if view == 0 else [flat, y, -x]))
        uv.append(np.column_stack([(x / half + 1) / 4 + 0.5 * view, (y - foot) / (top - foot)]))
        fan = np.arange(1, len(x) - 1)
        faces.append(np.column_stack([np.zeros_like(fan), fan, fan + 1]) + offset)
        offset += len(x)
    points = np.concatenate(positions)
    normals = points - middle + np.array([0, 0.5 * (top - foot), 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    made = make_mesh(
        points, np.concatenate(faces), slot_names=(SLOT,), uv=np.concatenate(uv), normals=normals,
        colour=np.ones((len(points), 4)),
    )  # fmt: skip
    stem = np.clip(points[:, 1] / max(top, 1e-3), 0, 1) ** 2
    zero = np.zeros(len(points))
    return replace(made, sway=np.column_stack([stem, zero, zero, zero]).astype(np.float32))


def card_outline(points: np.ndarray, frame: np.ndarray, corners: int = CORNERS) -> np.ndarray:
    """A convex outline of few corners around flat points, within a frame: what lies outside a card need not be drawn.

    Edges of the convex hull are taken away, the cheapest in area first, by running their neighbours on until they
    meet, so that all points stay inside.

    Parameters
    ----------
    points : (N, 2)
    frame : (2, 2) least and greatest corner, around all points

    Returns
    -------
    (K, 2) counter-clockwise; the frame itself where the points make no area
    """
    try:
        hull = points[ConvexHull(points).vertices]
    except (QhullError, ValueError):
        (a, b), (c, d) = frame
        return np.array([(a, b), (c, b), (c, d), (a, d)])
    # A little room, as the picture of the plant blurs a little beyond it.
    middle = (hull.min(axis=0) + hull.max(axis=0)) / 2
    hull = np.clip(middle + (hull - middle) * (2 * _BORDER - 1), frame[0], frame[1])
    while len(hull) > corners:
        best, least = -1, np.inf
        for k in range(len(hull)):
            met = _run_on(hull, k)
            if met is None or (met < frame[0]).any() or (met > frame[1]).any():
                continue
            p, q = hull[k], hull[(k + 1) % len(hull)]
            added = abs((q[0] - p[0]) * (met[1] - p[1]) - (q[1] - p[1]) * (met[0] - p[0]))
            if added < least:
                best, least = k, added
        if best < 0:
            break
        hull[best] = _run_on(hull, best)
        hull = np.delete(hull, (best + 1) % len(hull), axis=0)
    return np.clip(hull, frame[0], frame[1])


def _run_on(hull: np.ndarray, edge: int) -> np.ndarray | None:
    """Where the two neighbours of an edge meet beyond it; None if they never do."""
    n = len(hull)
    a, b, c, d = (hull[(edge + k) % n] for k in (-1, 0, 1, 2))
    u, v = b - a, d - c
    cross = u[0] * v[1] - u[1] * v[0]
    if cross <= 1e-12:
        return None
    t = ((c[0] - a[0]) * v[1] - (c[1] - a[1]) * v[0]) / cross
    return np.asarray(a + t * u) if t >= 1 else None


def far_picture(mesh: Mesh, pictures: Callable[[str], Material]) -> Material:
    """Draw the finest level from two sides, darker where its own leaves keep the sky out, else without light.

    `pictures` gives the material of a slot by its name.
    """
    half, foot, top = _extent(mesh)
    colour = np.zeros((SIDE, 2 * SIDE, 3), np.float32)
    alpha = np.zeros((SIDE, 2 * SIDE), np.float32)
    depth = np.full((SIDE, 2 * SIDE), -1e9, np.float32)
    tint = np.ones((len(mesh.positions), 3), np.float32) if mesh.colour is None else mesh.colour[:, :3]
    tint = tint * drawn_shade(mesh)[:, None]
    for slot, name in enumerate(mesh.slot_names):
        faces = mesh.faces[mesh.slots == slot]
        source = pictures(name)
        image = srgb_to_linear(source.colour.astype(np.float32) / 255)
        cut = np.full(image.shape[:2], 255, np.uint8) if source.alpha is None else source.alpha
        tile = source.tile if source.tile > 0 and not mesh.own_uv else 1.0
        for view in range(2):
            across = mesh.positions[:, 0] if view == 0 else -mesh.positions[:, 2]
            away = mesh.positions[:, 2] if view == 0 else mesh.positions[:, 0]
            x = (across / half + 1) / 2 * SIDE + view * SIDE
            y = (1 - (mesh.positions[:, 1] - foot) / (top - foot)) * SIDE
            place = np.column_stack([x, y, away]).astype(np.float32)
            _draw(place, faces, mesh.uv / np.float32(tile), tint, image, cut, colour, alpha, depth)
    colour = _filled(colour, alpha)
    square = np.zeros((2 * SIDE, 2 * SIDE, 4), np.float32)
    square[..., :3] = linear_to_srgb(np.repeat(colour, 2, axis=0))
    square[..., 3] = np.repeat(alpha, 2, axis=0)
    flat = np.full(square.shape[:2], 0.5, np.float32)
    return material(square[..., :3], 0.8, flat, 0.0, 0.0, alpha=square[..., 3], translucency=0.35)


@njit(cache=True, nogil=True)
def _draw(
    place: np.ndarray,
    faces: np.ndarray,
    uv: np.ndarray,
    tint: np.ndarray,
    image: np.ndarray,
    cut: np.ndarray,
    colour: np.ndarray,
    alpha: np.ndarray,
    depth: np.ndarray,
) -> None:
    """Triangles into a depth buffer, cut out by alpha."""
    rows, columns = depth.shape
    high, wide = cut.shape
    for f in range(len(faces)):
        a, b, c = faces[f]
        ax, ay, bx, by, cx, cy = place[a, 0], place[a, 1], place[b, 0], place[b, 1], place[c, 0], place[c, 1]
        det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if abs(det) < 1e-9:
            continue
        for row in range(max(0, int(min(ay, by, cy))), min(rows, int(max(ay, by, cy)) + 1)):
            for col in range(max(0, int(min(ax, bx, cx))), min(columns, int(max(ax, bx, cx)) + 1)):
                px, py = col + 0.5, row + 0.5
                v = ((px - ax) * (cy - ay) - (cx - ax) * (py - ay)) / det
                w = ((bx - ax) * (py - ay) - (px - ax) * (by - ay)) / det
                u = 1 - v - w
                if u < 0 or v < 0 or w < 0:
                    continue
                z = u * place[a, 2] + v * place[b, 2] + w * place[c, 2]
                if z <= depth[row, col]:
                    continue
                s = u * uv[a, 0] + v * uv[b, 0] + w * uv[c, 0]
                t = u * uv[a, 1] + v * uv[b, 1] + w * uv[c, 1]
                i = int((s - np.floor(s)) * wide) % wide
                j = int((1 - (t - np.floor(t))) * high) % high
                if cut[j, i] < 110:
                    continue
                depth[row, col] = z
                alpha[row, col] = 1.0
                for k in range(3):
                    shade = u * tint[a, k] + v * tint[b, k] + w * tint[c, k]
                    colour[row, col, k] = image[j, i, k] * shade


def _filled(colour: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """Empty texels take the colour of their nearest drawn one, so that reduced pictures have no dark rim."""
    from scipy.ndimage import distance_transform_edt

    if not alpha.any():
        return colour
    _, (rows, cols) = distance_transform_edt(alpha == 0, return_indices=True)
    return np.asarray(colour[rows, cols])
