"""A cover of snow or water as a mesh: a sheet over the nodes that carry it, cut where what carries it ends, with a round rim.

Cells are cut as in marching squares (Lorensen and Cline 1987), at ends that are known exactly. At an edge snow stands
nearly upright, bulges over it a little and turns in below, as cohesion holds it (after von Festenberg and Gumhold,
*Diffusion-based snow cover generation*, 2011).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.kernels import kernel
from ..mesh.mesh import Mesh, face_areas, make_mesh, vertex_normals
from .grid import STEPS, Columns, plan_of

THIN, DROP, CONTACT, LEVEL = range(4)
"""How a cover ends: it thins out, what carries it drops away, something rises out of it, or it is level to its end."""
RISE = 0.5
"""Share of its depth that snow stands upright at an edge."""
_BULGE = ((0.10, 0.36), (0.13, 0.2), (0.07, 0.05), (0.0, 0.0))
"""Rows of the rim under its top: how far out and how high, in depths."""
_TUCK, _SINK = 0.012, 0.01
"""Metres its last row lies inward and below what it lies on, so that no gap shows."""
_LEAST_AREA = 1e-9


@dataclass(frozen=True)
class Ends:
    """Where a cover ends on the way from each node to its neighbours.

    Attributes
    ----------
    open : (R, C, 4) bool, does it end there?
    share : (R, C, 4) of the way
    base : (R, C, 4) height of what it lies on there, metres
    depth : (R, C, 4) of the snow there, metres
    kind : (R, C, 4) int8, one of the above
    """

    open: np.ndarray
    share: np.ndarray
    base: np.ndarray
    depth: np.ndarray
    kind: np.ndarray


@kernel
def _cut(lies: np.ndarray, joined: np.ndarray, faces: np.ndarray, rims: np.ndarray) -> tuple[int, int]:
    """Fill in triangles (F, 3) and pieces of the rim (S, 2); vertices are nodes, then four ends a node, flat.

    Every cell is cut into the groups of its corners that hang together; the corners of a cell go round by `STEPS`.
    """
    rows, columns = lies.shape
    nodes = rows * columns
    count, edges = 0, 0
    ring = np.zeros(8, np.int64)
    for r in range(rows - 1):
        for c in range(columns - 1):
            corner = (r * columns + c, r * columns + c + 1, (r + 1) * columns + c + 1, (r + 1) * columns + c)
            on = (lies[r, c], lies[r, c + 1], lies[r + 1, c + 1], lies[r + 1, c])
            if not (on[0] or on[1] or on[2] or on[3]):
                continue
            # Does each side of the cell hold together, and which way does it lead from its corners?
            side = (joined[r, c, 0], joined[r, c + 1, 1], joined[r + 1, c, 0], joined[r, c, 1])
            done = np.zeros(4, np.bool_)
            for first in range(4):
                if done[first] or not on[first]:
                    continue
                member = np.zeros(4, np.bool_)
                member[first] = True
                for _ in range(3):
                    for k in range(4):
                        other = (k + 1) % 4
                        if side[k] and on[k] and on[other] and (member[k] or member[other]):
                            member[k] = member[other] = True
                length = 0
                last_end = -1
                first_end = -1
                for k in range(4):
                    other = (k + 1) % 4
                    if member[k]:
                        done[k] = True
                        ring[length] = corner[k]
                        length += 1
                    whole = side[k] and member[k] and member[other]
                    if whole or not (member[k] or member[other]):
                        continue
                    # From a corner along the side, and back from the next one: forward is 0, 1, 2, 3.
                    if member[k]:
                        end = nodes + 4 * corner[k] + k
                        ring[length] = end
                        length += 1
                        last_end = end
                    if member[other]:
                        end = nodes + 4 * corner[other] + (k + 2) % 4
                        ring[length] = end
                        length += 1
                        if last_end >= 0:
                            rims[edges, 0], rims[edges, 1] = last_end, end
                            edges += 1
                            last_end = -1
                        else:
                            first_end = end
                if last_end >= 0 and first_end >= 0:
                    rims[edges, 0], rims[edges, 1] = last_end, first_end
                    edges += 1
                for k in range(1, length - 1):
                    faces[count, 0], faces[count, 1], faces[count, 2] = ring[0], ring[k + 1], ring[k]
                    count += 1
    return count, edges


def cover_mesh(
    columns: Columns, base: np.ndarray, depth: np.ndarray, lies: np.ndarray, ends: Ends, rim: bool = True
) -> Mesh:
    """A cover as a mesh; `uv` in metres from above. Empty where none lies.

    Parameters
    ----------
    base, depth : (R, C) float64, metres
    lies : (R, C) bool, where there is a cover
    rim : does it stand up at its ends and turn in below, as snow does? Water is a sheet and nothing else
    """
    rows, count = lies.shape
    joined = ~ends.open & lies[..., None]
    cells = (rows - 1) * (count - 1)
    faces, rims = np.zeros((8 * cells, 3), np.int64), np.zeros((4 * cells, 2), np.int64)
    made, edges = _cut(lies, joined, faces, rims)
    faces, rims = faces[:made], rims[:edges]
    if made == 0:
        return make_mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int32))
    positions, tops, foot = _vertices(columns, base, depth, ends)
    if rim:
        skirt_at, skirt = _rim(positions, foot, tops, rims, len(positions))
        positions, faces = np.concatenate([positions, skirt_at]), np.concatenate([faces, skirt])
    used, faces = np.unique(faces, return_inverse=True)
    positions, faces = positions[used], faces.reshape(-1, 3)
    faces = faces[face_areas(positions, faces.astype(np.int32)) > _LEAST_AREA].astype(np.int32)
    uv = np.column_stack([positions[:, 0], -positions[:, 2]])
    return make_mesh(positions, faces, normals=vertex_normals(positions, faces), uv=uv)


def _vertices(
    columns: Columns, base: np.ndarray, depth: np.ndarray, ends: Ends
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(V, 3) nodes and ends, (V,) depth of the snow at each as its rim takes it, and (V,) height of what it lies on."""
    rows, count = base.shape
    r, c = (v.astype(float) for v in np.mgrid[0:rows, 0:count])
    step = np.array(STEPS, float)
    er, ec = (v[..., None] + ends.share * step[:, k] for k, v in enumerate((r, c)))
    flat = np.concatenate([plan_of(columns, c, r).reshape(-1, 2), plan_of(columns, ec, er).reshape(-1, 2)])
    upright = np.where(ends.kind == DROP, RISE * ends.depth, np.where(ends.kind == CONTACT, ends.depth, -_SINK))
    upright = np.where(ends.kind == LEVEL, 0.0, upright)
    height = np.concatenate([(base + depth).ravel(), (ends.base + upright).ravel()])
    bulges = np.where(ends.kind == DROP, ends.depth, 0.0)
    tops = np.concatenate([depth.ravel(), bulges.ravel()])
    foot = np.concatenate([base.ravel(), ends.base.ravel()])
    return np.column_stack([flat[:, 0], height, flat[:, 1]]), tops, foot


def _rim(
    positions: np.ndarray, foot: np.ndarray, tops: np.ndarray, rims: np.ndarray, first: int
) -> tuple[np.ndarray, np.ndarray]:
    """Rows of vertices under the rim, (…, 3), and the triangles between them."""
    at = np.unique(rims)
    outward = np.zeros((len(positions), 2))
    along = positions[rims[:, 1]][:, [0, 2]] - positions[rims[:, 0]][:, [0, 2]]
    # The sheet lies to the right of a rim that goes round by `STEPS` as seen from above, so out is to the left.
    out = np.column_stack([along[:, 1], -along[:, 0]])
    for k in (0, 1):
        np.add.at(outward, rims[:, k], out)
    outward = outward[at] / np.maximum(np.linalg.norm(outward[at], axis=1, keepdims=True), 1e-12)
    rows = []
    for lateral, high in _BULGE:
        shift = lateral * tops[at]
        y = foot[at] + high * tops[at]
        if (lateral, high) == _BULGE[-1]:
            shift, y = shift - _TUCK, y - _SINK
        rows.append(
            np.column_stack(
                [positions[at][:, 0] + outward[:, 0] * shift, y, positions[at][:, 2] + outward[:, 1] * shift]
            )
        )
    number = np.full(len(positions), -1)
    number[at] = np.arange(len(at))
    above, faces = rims, []
    for k in range(len(rows)):
        below = first + k * len(at) + number[rims]
        faces += [
            np.column_stack([above[:, 0], above[:, 1], below[:, 1]]),
            np.column_stack([above[:, 0], below[:, 1], below[:, 0]]),
        ]
        above = below
    return np.concatenate(rows), np.concatenate(faces)
