"""From where the ground's pictures are laid on it: from above, and on steep ground from the side.

Laid from above alone they would be drawn out on a bank of sixty degrees to twice their length and on a cutting to more
than that. The plate's shader uses the same formulas (web/src/plate/surfaceShader.ts).
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import inlined, parallel_kernel, prange
from ..ground.terrain import axes
from ..scene import land
from ..scene.scene import GROUND, Scene
from ..surfaces import formulas

_side_weight = inlined(formulas.side_weight)


def sides(positions: np.ndarray, normals: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where points of the ground lie in its pictures, seen from above, along x and along z, and how much each counts.

    The coordinates grow the same way along the surface in all three, x first and then against z, so that reliefs read
    from them lean in one frame. The shares are the squares of the normal's parts less `GENTLE`, divided by their sum:
    a known way of laying pictures without coordinates (triplanar mapping), narrowed so that one or two of them count.

    Parameters
    ----------
    positions : (N, 3), metres
    normals : (N, 3), of any length, pointing up

    Returns
    -------
    (N, 3, 2) float32, metres, and (N, 3) float32, which sum to 1.
    """
    places, shares = np.empty((len(positions), 3, 2), np.float32), np.empty((len(positions), 3), np.float32)
    _sides(np.ascontiguousarray(positions, np.float64), np.ascontiguousarray(normals, np.float64), places, shares)
    return places, shares


@parallel_kernel
def _sides(positions: np.ndarray, normals: np.ndarray, places: np.ndarray, shares: np.ndarray) -> None:
    for n in prange(len(positions)):
        x, y, z = positions[n, 0], positions[n, 1], positions[n, 2]
        nx, ny, nz = normals[n, 0], normals[n, 1], normals[n, 2]
        squared = nx * nx + ny * ny + nz * nz
        above, along_x, along_z = _side_weight(ny, squared), _side_weight(nx, squared), _side_weight(nz, squared)
        total = above + along_x + along_z
        shares[n, 0], shares[n, 1], shares[n, 2] = above / total, along_x / total, along_z / total
        places[n, 0, 0], places[n, 0, 1] = x, -z
        places[n, 1, 0], places[n, 1, 1] = (y if nx < 0 else -y), -z
        places[n, 2, 0], places[n, 2, 1] = x, (-y if nz < 0 else y)


@parallel_kernel
def _standing(
    across: np.ndarray,
    along: np.ndarray,
    heights: np.ndarray,
    slants: np.ndarray,
    positions: np.ndarray,
    normals: np.ndarray,
) -> None:
    """Positions and normals of the ground, bilinear, at places given in cells of its grid."""
    rows, columns = heights.shape
    for n in prange(len(across)):
        u, v = min(max(across[n], 0.0), columns - 1.000001), min(max(along[n], 0.0), rows - 1.000001)
        i, j = int(u), int(v)
        fu, fv = u - i, v - j
        a, b, c, d = (1 - fu) * (1 - fv), fu * (1 - fv), (1 - fu) * fv, fu * fv
        positions[n, 1] = a * heights[j, i] + b * heights[j, i + 1] + c * heights[j + 1, i] + d * heights[j + 1, i + 1]
        at = j * columns + i
        for k in range(3):
            low = a * slants[at, k] + b * slants[at + 1, k]
            normals[n, k] = low + c * slants[at + columns, k] + d * slants[at + columns + 1, k]


def ground_triplanar(scene: Scene, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """`sides` of the ground at (N, 2) places x, z."""
    x, z = axes(scene.site.ground)
    across, along = (at[:, 0] - x[0]) / (x[1] - x[0]), (at[:, 1] - z[0]) / (z[1] - z[0])
    positions, normals = np.column_stack([at[:, 0], np.zeros(len(at)), at[:, 1]]), np.empty((len(at), 3))
    _standing(across, along, land.heights(scene), scene.mesh(GROUND).normals, positions, normals)
    return sides(positions, normals)
