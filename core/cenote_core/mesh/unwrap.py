"""Texture-space unwrap: a second coordinate set without overlaps, on any mesh."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import xatlas
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from .mesh import Mesh

PACKED_ONLY_FROM = 3000
"""Triangles from which charts are cut by normal direction and only packed: the packer alone is fast, its own
chart cutting grows steeply on lumpy meshes (37 s for 82 000 triangles were measured)."""

_USUAL = (0.01, 1000.0)
"""Metres a mesh may measure across for its charts to be cut as it is; others are sized to one metre for that."""
_LEAST = 1e-9


def unwrap(mesh: Mesh, resolution: int = 1024, padding: int = 2) -> Mesh:
    """The mesh with `uv2` filled in; vertices on chart borders are split.

    Parameters
    ----------
    mesh : Mesh
    resolution : int
        Texels on a side the charts will be used at; decides the padding between them.
    """
    if mesh.triangle_count == 0:
        return replace(mesh, uv2=np.zeros((len(mesh.positions), 2), np.float32))
    extent = float(np.ptp(mesh.positions, axis=0).max())
    # What the packer takes for nothing is told in metres.
    sized = mesh.positions if _USUAL[0] <= extent <= _USUAL[1] else mesh.positions / np.float32(max(extent, _LEAST))
    options = xatlas.PackOptions()
    options.resolution = resolution
    options.padding = padding
    options.bilinear = True
    atlas = xatlas.Atlas()
    if mesh.triangle_count < PACKED_ONLY_FROM:
        atlas.add_mesh(sized, mesh.faces.astype(np.uint32), mesh.normals)
        atlas.generate(pack_options=options)
        vmap, faces, uv2 = atlas[0]
        source, order = np.asarray(vmap, np.int64), np.asarray(faces, np.int32)
        return mesh.with_vertices(source, order, uv2=_numbers(uv2))
    split, flat = _charts_by_direction(mesh, sized)
    atlas.add_uv_mesh(flat.astype(np.float32), split.faces.astype(np.uint32))
    atlas.generate(pack_options=options)
    vmap, faces, uv2 = atlas[0]
    return split.with_vertices(np.asarray(vmap, np.int64), np.asarray(faces, np.int32), uv2=_numbers(uv2))


def _numbers(uv2: np.ndarray) -> np.ndarray:
    """Charts without any area come back as no numbers: they lie in a corner."""
    return np.nan_to_num(np.asarray(uv2, np.float32), nan=0.0, posinf=0.0, neginf=0.0)


def _charts_by_direction(mesh: Mesh, positions: np.ndarray) -> tuple[Mesh, np.ndarray]:
    """Split the mesh into connected patches facing one of six directions; flat coordinates as its `positions` are sized.

    Patches are laid out far apart, so that the packer sees them as separate charts.
    """
    normal = mesh.face_normals()
    axis = np.abs(normal).argmax(axis=1)
    sign = np.take_along_axis(normal, axis[:, None], 1)[:, 0] < 0
    direction = axis * 2 + sign
    patch = _patches(mesh, direction)
    corners = mesh.faces.ravel()
    key = corners.astype(np.int64) * (patch.max() + 1) + np.repeat(patch, 3)
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    source = corners[first]
    corner_direction = np.repeat(direction, 3)[first]
    corner_patch = np.repeat(patch, 3)[first]
    p = positions[source].astype(np.float64)
    a = corner_direction // 2
    flip = np.where(corner_direction % 2 == 1, -1.0, 1.0)
    flat = np.column_stack(
        [
            np.select([a == 0, a == 1], [-p[:, 2] * flip, p[:, 0]], p[:, 0] * flip),
            np.select([a == 0, a == 1], [p[:, 1], -p[:, 2] * flip], p[:, 1]),
        ]
    )
    split = mesh.with_vertices(source, inverse, uv2=None)
    extent = float(np.ptp(flat, axis=0).max()) + 1.0
    columns = int(np.ceil(np.sqrt(corner_patch.max() + 1)))
    flat = flat + np.column_stack([corner_patch % columns, corner_patch // columns]) * extent * 1.5
    return split, flat


def _patches(mesh: Mesh, direction: np.ndarray) -> np.ndarray:
    """(F,) patch number: faces joined over shared edges when they face the same direction."""
    _, welded = np.unique(np.round(mesh.positions, 5), axis=0, return_inverse=True)
    faces = welded[mesh.faces]
    edges = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
    owner = np.tile(np.arange(len(faces)), 3)
    order = np.lexsort((edges[:, 1], edges[:, 0]))
    same = (edges[order][1:] == edges[order][:-1]).all(axis=1)
    a, b = owner[order][:-1][same], owner[order][1:][same]
    joined = direction[a] == direction[b]
    graph = coo_array((np.ones(joined.sum(), np.int8), (a[joined], b[joined])), shape=(len(faces), len(faces)))
    return np.asarray(connected_components(graph, directed=False)[1], np.int64)
