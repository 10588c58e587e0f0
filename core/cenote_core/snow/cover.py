"""The cover of snow on each owner as it is drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import fast_simplification
import numpy as np
from scipy.ndimage import distance_transform_edt
from scipy.spatial import cKDTree

from ..columns.grid import Columns, columns_of
from ..columns.sheet import cover_mesh
from ..graph.derived import Ref, derived
from ..mesh.mesh import Mesh, cleaned, make_mesh, vertex_normals
from ..plan import GROUND
from ..scene.scene import Scene
from . import prints
from .fall import Wind, wind_of
from .snow_depth import Lying, lying, strokes

MATERIAL = "fresh_snow"
"""What a cover is made of."""
_KEPT = 0.14
"""Share of a cover's triangles that are left: it is smooth, and is seen to be so with fewer."""
_FEW = 1500
"""Triangles that are not worth making fewer."""


@dataclass(frozen=True)
class Cover:
    """A cover of snow as it is drawn.

    Attributes
    ----------
    mesh : in the site's coordinates, with coordinates in metres
    lift : (V,) float32 metres of each vertex over what the snow lies on
    """

    mesh: Mesh
    lift: np.ndarray


def _shape(scene: Scene, owner: str, fallen: float, wind: Wind, melted: float) -> list[Any]:
    walks = strokes(scene, owner, walked=True)
    return [lying.ref(scene, owner, fallen, wind, melted), columns_of.ref(scene, owner), walks, scene.matrix(owner)]


@derived(_shape, keep="disk")
def _cover(scene: Scene, owner: str, fallen: float, wind: Wind, melted: float) -> Cover:
    found, columns = lying(scene, owner, fallen, wind, melted), columns_of(scene, owner)
    mesh = _simplified(cover_mesh(columns, found.base, found.top, found.lies, found.ends))
    lift = _lift(columns, found, mesh.positions)
    for stroke in strokes(scene, owner, walked=True):
        way = scene.to_site(owner, np.array(stroke.points, np.float32))[:, [0, 2]].astype(np.float64)
        mesh = _walked(mesh, lift, prints.along(way), stroke.strength)
        lift = _lift(columns, found, mesh.positions)
    return Cover(mesh, lift)


def _walked(mesh: Mesh, lift: np.ndarray, steps: prints.Prints, strength: float) -> Mesh:
    """A cover with footprints in it; vertices that were there keep their numbers."""
    positions, faces = prints.refined(mesh.positions.astype(np.float64), mesh.faces, steps)
    # What is new lies between what was there, and is as deep.
    deep = np.interp(np.arange(len(positions)), np.arange(len(lift)), lift)
    if len(positions) > len(lift):
        _, nearest = cKDTree(mesh.positions).query(positions[len(lift) :])
        deep[len(lift) :] = lift[nearest]
    positions[:, 1] -= strength * prints.pressed(steps, positions[:, [0, 2]], deep)
    return _meshed(positions.astype(np.float32), faces)


def _lift(columns: Columns, found: Lying, at: np.ndarray) -> np.ndarray:
    """(V,) metres over the nearest column that carries snow."""
    if not len(at):
        return np.zeros(0, np.float32)
    nearest = distance_transform_edt(~found.lies, return_distances=False, return_indices=True)
    row, column = columns.node_of(at[:, [0, 2]].astype(np.float64))
    r, c = (np.clip(np.round(v), 0, n - 1).astype(int) for v, n in zip((row, column), found.base.shape, strict=True))
    r, c = nearest[0][r, c], nearest[1][r, c]
    return np.clip(at[:, 1] - found.base[r, c], 0, np.maximum(found.top[r, c], 0)).astype(np.float32)


def _simplified(mesh: Mesh) -> Mesh:
    if len(mesh.faces) <= _FEW:
        return mesh
    share = max(_KEPT, _FEW / len(mesh.faces))
    positions, faces = fast_simplification.simplify(mesh.positions, mesh.faces, 1.0 - share)
    return cleaned(_meshed(np.asarray(positions, np.float32), np.asarray(faces, np.int32)))


def _meshed(positions: np.ndarray, faces: np.ndarray) -> Mesh:
    """Positions and faces with smooth normals and coordinates in metres."""
    uv = np.column_stack([positions[:, 0], -positions[:, 2]]).astype(np.float32)
    return make_mesh(positions, faces, normals=vertex_normals(positions, faces), uv=uv)


def takes_snow(scene: Scene, owner: str) -> bool:
    """Does snow lie on an owner at all?"""
    return owner == GROUND or scene.piece(owner).takes_snow


def _asked(scene: Scene, owner: str) -> tuple[float, Wind, float] | None:
    """Metres that fell, the wind they came with and metres that have melted; None where no snow lies."""
    now = scene.site.weather
    if not now.snow > now.melted or not takes_snow(scene, owner):
        return None
    return now.snow_depth, wind_of(scene), now.melted / 100


def lying_ref(scene: Scene, owner: str) -> Ref[Lying] | None:
    """Snow on an owner's columns in the weather that shows, without making it; None while none lies."""
    asked = _asked(scene, owner)
    return lying.ref(scene, owner, *asked) if asked else None


def cover_ref(scene: Scene, owner: str) -> Ref[Cover] | None:
    """The cover on an owner in the weather that shows, without making it; None while no snow lies."""
    asked = _asked(scene, owner)
    return _cover.ref(scene, owner, *asked) if asked else None


def snow_cover(scene: Scene, owner: str) -> Cover | None:
    """The same, made; None where none lies."""
    found = cover_ref(scene, owner)
    cover = found.value() if found else None
    return cover if cover is not None and len(cover.mesh.faces) else None
