"""The surface of standing water as it is drawn, and how wet it makes what lies round it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import distance_transform_edt, label, map_coordinates

from ..base.noise import noise
from ..columns.grid import STEPS, Columns, columns_of, neighbours
from ..columns.sheet import LEVEL, Ends, cover_mesh
from ..graph.derived import Ref, derived
from ..mesh.mesh import Mesh
from ..mesh.texels import TexelTable, sample_map
from ..plan import GROUND
from ..scene.measuring import SHELTER_LIMIT
from ..scene.provided import provides
from ..scene.running import run, runoff_map
from ..scene.scene import Scene
from .standing import Standing, bed, standing_water

MATERIAL, IN_RAIN = "still_water", "rain_rings"
"""What its surface is made of, and while it rains."""
LEAST = 0.0007
"""Metres of water that are a pool; less is a film."""
_OVER = 0.0022
"""Metres a pool on what is built level lies over it: its hollows are no part of its shape."""
_HALO, _RAGGED = 0.16, 0.6
"""Metres round a pool that are damp, and how uneven that border is."""
_BESIDE = 0.06
"""Metres above or below its columns from which a texel is not of the same surface."""
_STREAK = (0.35, 2.2)
"""Metres of rained-on surface over a place from which a streak shows on it, and from which it is soaked."""
_STEEP = 0.75
"""Upward part of a normal from which a place has no streaks of its own."""
_FEWEST = 12
"""Columns under which a pool is a drop."""


def _large(found: Standing) -> np.ndarray:
    """(R, C) metres of water where there are more than a few columns of it."""
    wet, count = label(found.depth > LEAST)
    sizes = np.bincount(wet.ravel(), minlength=count + 1)
    return np.where(sizes[wet] >= _FEWEST, found.depth, 0.0)


@derived(
    lambda scene, owner, standing: [standing_water.ref(scene, owner, standing), bed.ref(scene, owner)], keep="disk"
)
def _surface(scene: Scene, owner: str, standing: float) -> Mesh:
    columns, found = columns_of(scene, owner), standing_water(scene, owner, standing)
    depth = _large(found)
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


def _damp_needs(scene: Scene, owner: str, standing: float) -> list[object]:
    side = _side(scene, owner)
    return [standing_water.ref(scene, owner, standing), columns_of.ref(scene, owner), scene.table.ref(owner, side)]


def _side(scene: Scene, owner: str) -> int:
    return scene.resolution(owner, SHELTER_LIMIT)


@derived(_damp_needs)
def damp(scene: Scene, owner: str, standing: float) -> np.ndarray:
    """(R, R) float32 over an owner's unwrap: 1 under standing water, less beside it, 0 away from it."""
    columns, table = columns_of(scene, owner), scene.table(owner, _side(scene, owner))
    depth = _large(standing_water(scene, owner, standing))
    lies = depth > LEAST
    if not lies.any():
        return np.zeros((table.resolution, table.resolution), np.float32)
    away = distance_transform_edt(~lies) * columns.cell
    places = (columns.places() * [1.0, 0.0, 1.0]).reshape(-1, 3).astype(np.float32)
    ragged = 1 + _RAGGED * 2 * (noise(places, 0.25, 3, 71, 0.0).reshape(away.shape) - 0.5)
    shares = np.clip(1 - away / (_HALO * ragged), 0, 1)
    return table.spread(_on_texels(columns, shares, table))


def _on_texels(columns: Columns, values: np.ndarray, table: TexelTable) -> np.ndarray:
    """(N,) values of columns at an owner's texels; none where these are not of the columns' surface."""
    at = table.points.positions.astype(np.float64)
    where = np.stack(columns.node_of(at[:, [0, 2]]))
    height = map_coordinates(np.nan_to_num(columns.height, nan=-1e6), where, order=0, mode="nearest")
    found = map_coordinates(values, where, order=1, mode="constant")
    return np.where(np.abs(height - at[:, 1]) < _BESIDE, found, 0.0).astype(np.float32)


def _wet_needs(scene: Scene, owner: str, standing: float, running: float) -> list[object]:
    now = scene.site.weather
    pools = [damp.ref(scene, owner, standing)] if standing > 0 else []
    runs = [run.ref(scene, now.wind_from, now.wind, (), (), 0.0)] if running > 0 and owner != GROUND else []
    return [*pools, *runs, running, scene.table.ref(owner, _side(scene, owner))]


@derived(_wet_needs, keep="disk")
def _wet(scene: Scene, owner: str, standing: float, running: float) -> np.ndarray:
    """(R, R) float32 how wet places are besides what falls on them: by pools, and where water runs down."""
    table = scene.table(owner, _side(scene, owner))
    out = damp(scene, owner, standing) if standing > 0 else np.zeros((table.resolution,) * 2, np.float32)
    if running > 0 and owner != GROUND:
        now = scene.site.weather
        water = runoff_map(scene, owner, now.wind_from, now.wind, (), (), 0.0)
        there = sample_map(water, table.points.uv2)
        share = np.clip((there - _STREAK[0]) / (_STREAK[1] - _STREAK[0]), 0, 1)
        # On what is level the rain itself wets all of it.
        steep = np.clip((_STEEP - table.points.normals[:, 1]) / 0.2, 0, 1)
        out = np.maximum(out, table.spread((running * share * steep).astype(np.float32)))
    return out


@provides("damp")
def damp_ref(scene: Scene, owner: str) -> Ref[np.ndarray] | None:
    """How wet places are in the weather that shows besides what falls on them, without making it; None while all is dry."""
    now = scene.site.weather
    running = max(0.0, now.wetness - now.dried)
    return _wet.ref(scene, owner, now.standing / 1000, running) if now.wets else None


def damp_map(scene: Scene, owner: str) -> np.ndarray | None:
    """The same, made."""
    found = damp_ref(scene, owner)
    return found.value() if found else None
