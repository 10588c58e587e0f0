"""How much of the sky reaches each part of a plant through its own leaves.

A path tracer finds that out by itself. Where light is not traced, a plant without it looks cut from paper: as bright at
its heart and foot as at its tips.

Leaves are taken as a cloud of small plates turned every way, as in Monsi and Saeki (1953): light that goes a length s
through them is weakened by exp(-½ a s), with a the one-sided area of leaves in a volume.
"""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from ..base.kernels import parallel_kernel, prange
from ..mesh.mesh import Mesh

CELLS = 28
"""Cells along the longest side of a plant."""
FILLED = 0.6
"""Share of its card that a leaf's cut-out fills, on average over the kit."""
TURNS = 6
HEIGHTS = (0.93, 0.70, 0.36)
"""Cosines of the angle from the zenith; middles of three bands that receive equal light on a level leaf, about."""


def openness(mesh: Mesh, at: np.ndarray | None = None, filled: float = FILLED, cells: int = CELLS) -> np.ndarray:
    """Share of the sky's light that reaches points of a plant, weighted by the cosine from the zenith.

    Parameters
    ----------
    mesh : all its triangles count as leaves
    at : (N, 3) metres; the mesh's own vertices without it
    filled : share of each triangle that is there, 0 to 1
    cells : along the mesh's longest side

    Returns
    -------
    (N,) float32, 0 to 1; 1 throughout for a mesh without area
    """
    points = np.asarray(mesh.positions if at is None else at, np.float64)
    corners = mesh.positions[mesh.faces].astype(np.float64)
    areas = mesh.face_areas()
    low, high = mesh.bounds()
    cell = float((high - low).max()) / cells
    if cell <= 0 or areas.sum() <= 0:
        return np.ones(len(points), np.float32)
    shape = np.maximum(np.ceil((high - low) / cell).astype(int), 1)
    density = np.zeros(shape)
    # Large triangles lie in several cells: each is laid down at points of its own, spread over it.
    for weights in _SPREAD:
        place = np.tensordot(weights, corners, axes=(0, 1))
        index = np.clip(((place - low) / cell).astype(int), 0, shape - 1)
        np.add.at(density, tuple(index.T), areas * (filled / len(_SPREAD)) / cell**3)
    return _through(density, (points - low) / cell, cell, _directions())


def drawn_shade(mesh: Mesh) -> np.ndarray:
    """(V,) how much darker a plant's vertices are drawn where light is not traced.

    The root of the openness: about half of the light is the sun's, which shadows take care of, and leaves throw some of
    what they keep from each other on.
    """
    return np.sqrt(openness(mesh))


def as_drawn(levels: list[Mesh]) -> list[Mesh]:
    """Levels of detail of a plant with its shade in the colours of their vertices, for drawing without traced light.

    Every level takes it from the nearest vertex of the finest, so that they are equally bright.
    """
    shade = drawn_shade(levels[0])
    tree = cKDTree(levels[0].positions)
    return [levels[0].darkened(shade), *(m.darkened(shade[tree.query(m.positions)[1]]) for m in levels[1:])]


def _spread(parts: int) -> np.ndarray:
    """Barycentric weights of the middles of parts² equal triangles."""
    found = []
    for i in range(parts):
        for j in range(parts - i):
            found.append(((i + 1 / 3) / parts, (j + 1 / 3) / parts))
            if i + j < parts - 1:
                found.append(((i + 2 / 3) / parts, (j + 2 / 3) / parts))
    return np.array([(u, v, 1 - u - v) for u, v in found])


_SPREAD = _spread(4)


def _directions() -> np.ndarray:
    """(D, 3) unit vectors into the upper half, each standing for an equal share of a level leaf's light."""
    found = []
    for band, up in enumerate(HEIGHTS):
        flat = np.sqrt(1 - up * up)
        for k in range(TURNS):
            angle = 2 * np.pi * (k + band / len(HEIGHTS)) / TURNS
            found.append((flat * np.cos(angle), up, flat * np.sin(angle)))
    return np.array(found)


@parallel_kernel
def _through(density: np.ndarray, points: np.ndarray, cell: float, directions: np.ndarray) -> np.ndarray:
    """Mean light that comes through; in steps of half a cell, from half a cell off: a leaf does not shade itself."""
    out = np.empty(len(points), np.float32)
    nx, ny, nz = density.shape
    for n in prange(len(points)):
        light = 0.0
        for d in range(len(directions)):
            depth = 0.0
            step = 1
            while depth < 12.0:
                x = points[n, 0] + directions[d, 0] * 0.5 * step
                y = points[n, 1] + directions[d, 1] * 0.5 * step
                z = points[n, 2] + directions[d, 2] * 0.5 * step
                if x < 0 or y < 0 or z < 0 or x >= nx or y >= ny or z >= nz:
                    break
                depth += 0.5 * density[int(x), int(y), int(z)] * 0.5 * cell
                step += 1
            light += np.exp(-depth)
        out[n] = light / len(directions)
    return out
