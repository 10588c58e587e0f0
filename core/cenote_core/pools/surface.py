"""The surface of standing water as it is drawn."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import label

from ..columns.grid import STEPS, Columns, columns_of, neighbours
from ..columns.sheet import LEVEL, Ends, cover_mesh
from ..graph.derived import Ref, derived
from ..mesh.mesh import Mesh
from ..plan import GROUND
from ..scene.scene import Scene
from .standing import Standing, bed, standing_water

MATERIAL, IN_RAIN = "still_water", "rain_rings"
"""What its surface is made of, and while it rains."""
LEAST = 0.0007
"""Metres of water that are a pool; less is a film."""
_OVER = 0.0022
"""Metres a pool on what is built level lies over it: its hollows are no part of its shape."""
_FEWEST = 12
"""Columns under which a pool is a drop."""


def large(found: Standing) -> np.ndarray:
    """(R, C) metres of water where there are more than a few columns of it."""
    wet, count = label(found.depth > LEAST)
    sizes = np.bincount(wet.ravel(), minlength=count + 1)
    return np.where(sizes[wet] >= _FEWEST, found.depth, 0.0)


@derived(
    lambda scene, owner, standing: [standing_water.ref(scene, owner, standing), bed.ref(scene, owner)], keep="disk"
)
def _surface(scene: Scene, owner: str, standing: float) -> Mesh:
    columns, found = columns_of(scene, owner), standing_water(scene, owner, standing)
    depth = large(found)
    lies = depth > LEAST
    floor = bed(scene, owner)
    base = columns.height + _OVER
    if owner == GROUND:
        # Open ground is shaped as its hollows are: there the water lies as high as it stands.
        base = np.where(lies, np.maximum(np.nan_to_num(found.level), columns.height + _OVER), columns.height)
    mesh = cover_mesh(columns, base, np.zeros(base.shape), lies, _rims(columns, base, floor, found, lies), rim=False)
    if not len(mesh.faces):
        return mesh
    up = np.tile(np.array([0, 1, 0], np.float32), (len(mesh.positions), 1))
    return replace(mesh, normals=up)


def _rims(columns: Columns, base: np.ndarray, floor: np.ndarray, found: Standing, lies: np.ndarray) -> Ends:
    """Where a pool ends on the way to each neighbour: where its bed rises through its surface."""
    level = np.nan_to_num(found.level, nan=-np.inf)
    other, goes_on = neighbours(floor), neighbours(lies, False)
    rise = np.maximum(other - floor[..., None], 1e-6)
    with np.errstate(invalid="ignore"):
        share = np.clip((level - floor)[..., None] / rise, 0, 1)
    share = np.where(columns.joined & ~np.isnan(share), share, np.minimum(columns.ends, 1.0))
    open_ = lies[..., None] & ~(columns.joined & goes_on)
    flat = np.repeat(base[..., None], len(STEPS), axis=-1)
    nothing = np.zeros(share.shape)
    return Ends(open_, share, flat, nothing, np.full(share.shape, LEVEL, np.int8))


def surface_ref(scene: Scene, owner: str) -> Ref[Mesh] | None:
    """The water that stands on an owner in the weather that shows, without making it; None while none does."""
    standing = scene.site.weather.standing / 1000
    return _surface.ref(scene, owner, standing) if standing > 0 else None


def water_surface(scene: Scene, owner: str) -> Mesh | None:
    """The same, made; None where none stands."""
    found = surface_ref(scene, owner)
    mesh = found.value() if found else None
    return mesh if mesh is not None and len(mesh.faces) else None
