"""Far cards: a plant drawn once from two sides, or a mat from above, standing for it in the distance."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import distance_transform_edt
from scipy.spatial import ConvexHull, QhullError

from ..base.kernels import kernel
from ..materials.material import Material, linear_to_srgb, material, srgb_to_linear
from ..mesh.mesh import Mesh, make_mesh
from .baked_openness import drawn_shade

SIDE = 512
"""Texels along a side of the picture."""
SLOT = "far"
_BORDER = 1.02
CORNERS = 8
_FINER = 2
"""The picture is drawn so many times as fine, so that blades narrower than a texel cover their share of it."""


@dataclass(frozen=True)
class _View:
    """One drawing of a plant: what runs across it, up it and toward the eye, and the part of the picture it fills."""

    across: tuple[int, int]  # axis and sign
    up: tuple[int, int]
    toward: tuple[int, int]
    first: float
    share: float

    def flat(self, points: np.ndarray) -> np.ndarray:
        """(N, 2) across and up."""
        return np.column_stack([points[:, axis] * sign for axis, sign in (self.across, self.up)])

    def depth(self, points: np.ndarray) -> np.ndarray:
        return np.asarray(points[:, self.toward[0]] * self.toward[1])


_SIDES = (_View((0, 1), (1, 1), (2, 1), 0.0, 0.5), _View((2, -1), (1, 1), (0, 1), 0.5, 0.5))
_ABOVE = (_View((0, 1), (2, -1), (1, 1), 0.0, 1.0),)


def _frame(mesh: Mesh, lying: bool) -> np.ndarray:
    """Least and greatest corner of every view, metres: the same distance to both sides of the axis, all of the height."""
    low, high = mesh.bounds()
    half = float(max(np.abs(low[[0, 2]]).max(), np.abs(high[[0, 2]]).max())) * _BORDER
    if lying:
        return np.array([(-half, -half), (half, half)])
    return np.array([(-half, min(float(low[1]), 0.0)), (half, float(high[1]) * _BORDER)])


def impostor_card(mesh: Mesh, triangles: int = 4 * CORNERS, lying: bool = False) -> Mesh:
    """A card cut to the plant's outline, or two that cross, with normals as of a round body.

    Parameters
    ----------
    triangles : at most so many are made, but no fewer than four
    lying : a mat's card lies on the ground, a little higher in the middle; u and v run over it as seen from above.
        Else u 0..½ is seen along z, ½..1 along x.
    """
    return _lying(mesh, triangles) if lying else _crossed(mesh, triangles)


def _crossed(mesh: Mesh, triangles: int) -> Mesh:
    corners = max(4, min(CORNERS, triangles // 4 + 2))
    frame = _frame(mesh, False)
    (_, foot), (_, top) = frame
    positions, uv, faces = [], [], []
    offset = 0
    for number, view in enumerate(_SIDES):
        ring = card_outline(view.flat(mesh.positions).astype(np.float64), frame, corners)
        (x, y), flat = ring.T, np.zeros(len(ring))
        positions.append(np.column_stack([x, y, flat] if number == 0 else [flat, y, -x]))
        uv.append(_within(ring, frame, view))
        fan = np.arange(1, len(x) - 1)
        faces.append(np.column_stack([np.zeros_like(fan), fan, fan + 1]) + offset)
        offset += len(x)
    points = np.concatenate(positions)
    middle = np.array([0.0, foot + 0.35 * (top - foot), 0.0])
    normals = points - middle + np.array([0, 0.5 * (top - foot), 0])
    bent = np.clip(points[:, 1] / max(top, 1e-3), 0, 1) ** 2
    return _card(points, np.concatenate(faces), np.concatenate(uv), normals, bent)


def _lying(mesh: Mesh, triangles: int) -> Mesh:
    frame, (view,) = _frame(mesh, True), _ABOVE
    ring = card_outline(view.flat(mesh.positions).astype(np.float64), frame, max(4, min(CORNERS, triangles)))
    around = np.vstack([np.zeros(2), ring])
    far, high = np.hypot(mesh.positions[:, 0], mesh.positions[:, 2]) / frame[1, 0], mesh.positions[:, 1]
    height = np.full(len(around), max(float(np.median(high[far >= 0.75 * far.max()])), 0.002))
    height[0] = max(float(np.quantile(high[far <= max(0.4, float(far.min()))], 0.75)), float(height[1]))
    points = np.column_stack([around[:, 0], height, -around[:, 1]])
    corner = np.arange(1, len(around))
    faces = np.column_stack([np.zeros_like(corner), corner, np.roll(corner, -1)])
    normals = np.column_stack(
        [0.35 * points[:, 0] / frame[1, 0], np.ones(len(points)), 0.35 * points[:, 2] / frame[1, 0]]
    )
    moved = 0.0 if mesh.sway is None else float(mesh.sway[:, 0].mean())
    return _card(points, faces, _within(around, frame, view), normals, np.full(len(points), moved))


def _within(flat: np.ndarray, frame: np.ndarray, view: _View) -> np.ndarray:
    """(N, 2) u and v of places in a view."""
    share = (flat - frame[0]) / (frame[1] - frame[0])
    return np.column_stack([view.first + view.share * share[:, 0], share[:, 1]])


def _card(points: np.ndarray, faces: np.ndarray, uv: np.ndarray, normals: np.ndarray, bent: np.ndarray) -> Mesh:
    normals = normals / np.linalg.norm(normals, axis=1, keepdims=True)
    made = make_mesh(points, faces, slot_names=(SLOT,), uv=uv, normals=normals, colour=np.ones((len(points), 4)))
    zero = np.zeros(len(points))
    return replace(made, sway=np.column_stack([bent, zero, zero, zero]).astype(np.float32))


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


def impostor_picture(mesh: Mesh, pictures: Callable[[str], Material], lying: bool = False) -> Material:
    """Draw the finest level as `impostor_card` shows it, darker where its own leaves keep the sky out, else without light.

    `pictures` gives the material of a slot by its name.
    """
    frame, side = _frame(mesh, lying), SIDE * _FINER
    colour = np.zeros((side, side, 3), np.float32)
    alpha = np.zeros((side, side), np.float32)
    depth = np.full((side, side), -1e9, np.float32)
    tint = np.ones((len(mesh.positions), 3), np.float32) if mesh.colour is None else mesh.colour[:, :3]
    tint = tint * drawn_shade(mesh)[:, None]
    for slot, name in enumerate(mesh.slot_names):
        faces = mesh.faces[mesh.slots == slot]
        source = pictures(name)
        image = srgb_to_linear(source.colour.astype(np.float32) / 255)
        cut = np.full(image.shape[:2], 255, np.uint8) if source.alpha is None else source.alpha
        tile = source.tile if source.tile > 0 and not mesh.own_uv else 1.0
        for view in _ABOVE if lying else _SIDES:
            u, v = _within(view.flat(mesh.positions), frame, view).T
            place = np.column_stack([u * side, (1 - v) * side, view.depth(mesh.positions)]).astype(np.float32)
            _draw(place, faces, mesh.uv / np.float32(tile), tint, image, cut, colour, alpha, depth)
    colour, alpha = _reduced(colour, alpha)
    flat = np.full(alpha.shape, 0.5, np.float32)
    return material(linear_to_srgb(_filled(colour, alpha)), 0.8, flat, 0.0, 0.0, alpha=alpha, translucency=0.35)


def _reduced(colour: np.ndarray, alpha: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Means over the finer texels: of the colours that are there, and of whether there is any."""

    def sums(plane: np.ndarray) -> np.ndarray:
        rows = len(plane) // _FINER
        return plane.reshape(rows, _FINER, rows, _FINER, -1).sum(axis=(1, 3))

    covered = sums(alpha)
    return sums(colour) / np.maximum(covered, 1.0), covered[..., 0] / _FINER**2


@kernel
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
    if not alpha.any():
        return colour
    _, (rows, cols) = distance_transform_edt(alpha == 0, return_indices=True)
    return np.asarray(colour[rows, cols])
