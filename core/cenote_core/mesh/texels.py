"""Texel tables: which point of the mesh each texel of its unwrap stands for."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..base.kernels import kernel
from ..errors import CenoteError
from .mesh import Mesh, Points, points_on


@dataclass(frozen=True)
class TexelTable:
    """The covered texels of a square map, or of some of its rows.

    Attributes
    ----------
    resolution : int
    index : (N,) int64, flat index of each covered texel, row 0 at v = 0 or the first there is
    face : (N,) int32
    bary : (N, 2) float32
    points : Points, with `areas` in square metres a texel
    nearest : (rows · resolution,) int32, for every texel the covered one nearest to it (number into `index`)
    """

    resolution: int
    index: np.ndarray
    face: np.ndarray
    bary: np.ndarray
    points: Points
    nearest: np.ndarray

    def spread(self, values: np.ndarray) -> np.ndarray:
        """A full map from values at the covered texels; gaps take their nearest neighbour, so that bilinear
        reading never mixes in emptiness. (N, …) → (rows, resolution, …)."""
        return values[self.nearest].reshape(-1, self.resolution, *values.shape[1:])


@kernel
def _rasterise(
    uv: np.ndarray, faces: np.ndarray, resolution: int, first: int, face_map: np.ndarray, bary: np.ndarray
) -> None:
    last = first + len(face_map) - 1
    for f in range(len(faces)):
        a, b, c = faces[f]
        ax, ay = uv[a, 0] * resolution - 0.5, uv[a, 1] * resolution - 0.5
        bx, by = uv[b, 0] * resolution - 0.5, uv[b, 1] * resolution - 0.5
        cx, cy = uv[c, 0] * resolution - 0.5, uv[c, 1] * resolution - 0.5
        det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if abs(det) < 1e-12:
            continue
        x0, x1 = max(0, int(np.floor(min(ax, bx, cx)))), min(resolution - 1, int(np.ceil(max(ax, bx, cx))))
        y0, y1 = max(first, int(np.floor(min(ay, by, cy)))), min(last, int(np.ceil(max(ay, by, cy))))
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                u = ((x - ax) * (cy - ay) - (cx - ax) * (y - ay)) / det
                v = ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) / det
                if u >= -1e-6 and v >= -1e-6 and u + v <= 1.000001:
                    face_map[y - first, x] = f
                    bary[y - first, x, 0] = u
                    bary[y - first, x, 1] = v


def texel_table(mesh: Mesh, resolution: int, rows: tuple[int, int] | None = None) -> TexelTable:
    """Rasterise the unwrap of `mesh` into `resolution`² texels (texel centres), or into some rows of them.

    Raises CenoteError for a mesh without triangles. Of rows alone the areas are shares of the rows' texels, and gaps are filled from the rows.
    """
    assert mesh.uv2 is not None, "unwrap the mesh first"
    if not len(mesh.faces):
        raise CenoteError("It has no triangles, so nothing can lie on it. Bring in another model.")
    first, last = rows or (0, resolution)
    face_map = np.full((last - first, resolution), -1, np.int32)
    bary = np.zeros((last - first, resolution, 2), np.float32)
    _rasterise(mesh.uv2, mesh.faces, resolution, first, face_map, bary)
    covered = face_map >= 0
    index = np.flatnonzero(covered)
    if len(index) == 0:
        # A mesh smaller than a texel still has one: its first face.
        covered[0, 0] = True
        face_map[0, 0] = 0
        index = np.zeros(1, np.int64)
    face, weights = face_map.ravel()[index], bary.reshape(-1, 2)[index]
    points = points_on(mesh, face, weights)
    texels_per_face = np.bincount(face, minlength=len(mesh.faces))
    points = Points(
        points.positions,
        points.normals,
        points.uv2,
        points.slots,
        (mesh.face_areas()[face] / texels_per_face[face]).astype(np.float32),
    )
    return TexelTable(resolution, index, face, weights, points, _nearest_covered(covered, index))


def _nearest_covered(covered: np.ndarray, index: np.ndarray) -> np.ndarray:
    """For every texel the number of the covered one nearest to it."""
    number = np.zeros(covered.size, np.int32)
    number[index] = np.arange(len(index), dtype=np.int32)
    if len(index) == covered.size:
        return number
    _, nearest = distance_transform_edt(~covered, return_indices=True)
    return number[(nearest[0].astype(np.int64) * covered.shape[1] + nearest[1]).ravel()]


def sample_map(image: np.ndarray, uv: np.ndarray) -> np.ndarray:
    """Bilinear reading of a square map at unwrapped coordinates; (R, R, …) and (N, 2) → (N, …)."""
    resolution = image.shape[0]
    xy = np.clip(uv.astype(np.float64) * resolution - 0.5, 0, resolution - 1)
    low = np.minimum(xy.astype(np.int64), resolution - 2)
    frac = xy - low
    x, y = low[:, 0], low[:, 1]
    fx, fy = (frac[:, k].reshape(-1, *[1] * (image.ndim - 2)) for k in range(2))
    top = image[y, x] * (1 - fx) + image[y, x + 1] * fx
    bottom = image[y + 1, x] * (1 - fx) + image[y + 1, x + 1] * fx
    return np.asarray(top * (1 - fy) + bottom * fy, image.dtype)
