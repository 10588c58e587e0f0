"""The surface of the ground's water as it is drawn: a sheet for each form, with its depth, its flow and its foam."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import distance_transform_edt, gaussian_filter, map_coordinates

from ..base.compass import compass
from ..base.noise import noise
from ..columns.grid import STEPS, Columns, columns_of, neighbours
from ..columns.sheet import LEVEL, Ends, cover_mesh
from ..graph.derived import Ref, derived
from ..mesh.mesh import Mesh
from ..plan import GROUND, Cut, Water
from ..scene.scene import Scene
from ..surfaces.water import TILE
from .bodies import Waters, waters
from .waves import Waves, flow_waves, wind_waves

_BREAKS, _WHITE = 0.45, 1.1
"""Metres a second from which running water breaks, and at which it is white."""
_CALM, _STORM = 5.0, 14.0
"""Wind (m/s) from which foam gathers at the lee shore, and with which it is thick."""
_LINE = 0.22
"""Metres from the shore within which foam lines lie."""


@dataclass(frozen=True)
class Sheet:
    """The surface of one form's water.

    Attributes
    ----------
    mesh : its `uv` is metres over the tile of its waves
    depth : (V,) float32 metres of water under each vertex
    foam : (V,) float32 share of it that is white
    """

    mesh: Mesh
    depth: np.ndarray
    foam: np.ndarray


def _rims(columns: Columns, found: Waters, lies: np.ndarray) -> Ends:
    """Where water ends on the way to each neighbour: where its bed rises through its surface."""
    level, bed = np.nan_to_num(found.level, nan=-np.inf), columns.height
    other, goes_on = neighbours(bed), neighbours(lies, False)
    with np.errstate(invalid="ignore"):
        share = np.clip((level - bed)[..., None] / np.maximum(other - bed[..., None], 1e-6), 0, 1)
    share = np.where(columns.joined & ~np.isnan(share), share, np.minimum(columns.ends, 1.0))
    open_ = lies[..., None] & ~(columns.joined & goes_on)
    flat = np.repeat(np.nan_to_num(found.level)[..., None], len(STEPS), axis=-1)
    return Ends(open_, share, flat, np.zeros(share.shape), np.full(share.shape, LEVEL, np.int8))


@derived(lambda scene, number, wind, wind_from: [waters.ref(scene), number, wind, wind_from], keep="disk")
def sheet(scene: Scene, number: int, wind: float, wind_from: float) -> Sheet | None:
    """The surface of one of the ground's waters; None where it has none."""
    columns, found = columns_of(scene, GROUND), waters(scene)
    lies = found.which == number
    if not lies.any():
        return None
    base = np.where(lies, np.nan_to_num(found.level), columns.height)
    mesh = cover_mesh(columns, base, np.zeros(base.shape), lies, _rims(columns, found, lies), rim=False)
    if not len(mesh.faces):
        return None
    where = np.stack(columns.node_of(mesh.positions[:, [0, 2]].astype(np.float64)))
    depth = map_coordinates(found.depth, where, order=1, mode="nearest")
    white = map_coordinates(_foam(columns, found, lies, wind, wind_from), where, order=1, mode="nearest")
    mesh = replace(mesh, uv=(mesh.positions[:, [0, 2]] * [1, -1] / TILE).astype(np.float32))
    return Sheet(mesh, np.maximum(depth, 0).astype(np.float32), np.clip(white, 0, 1).astype(np.float32))


def _foam(columns: Columns, found: Waters, lies: np.ndarray, wind: float, wind_from: float) -> np.ndarray:
    """(R, C) share of the water that is white: where it breaks, in lines along its banks, and at the lee shore."""
    speed = np.linalg.norm(found.speed, axis=-1)
    breaks = np.clip((speed - _BREAKS) / (_WHITE - _BREAKS), 0, 1)
    # What was beaten white is carried on a way.
    breaks = np.maximum(breaks, 0.8 * gaussian_filter(breaks, 4.0))
    shore = distance_transform_edt(lies) * columns.cell
    lines = np.exp(-shore / _LINE) * np.clip((speed.max() - _BREAKS / 2) / _BREAKS, 0, 1) * np.clip(8 * speed, 0, 1)
    toward = -compass(wind_from)
    slope = np.stack(np.gradient(gaussian_filter(lies.astype(float), 2.0))[::-1], axis=-1) @ columns.along
    lee = np.clip(-(slope @ toward) * 6, 0, 1) * np.clip((wind - _CALM) / (_STORM - _CALM), 0, 1)
    places = columns.places().reshape(-1, 3).astype(np.float32)
    torn = noise(places * np.array([1, 0, 1], np.float32), 0.35, 4, 91, 0.5).reshape(lies.shape)
    return np.asarray(np.clip((breaks + 0.7 * lines + lee) * (0.3 + 1.6 * torn) - 0.12, 0, 1) * lies)


def sheet_ref(scene: Scene, number: int) -> Ref[Sheet | None]:
    """The same in the weather that shows, without making it."""
    now = scene.site.weather
    return sheet.ref(scene, number, now.wind, now.wind_from)


def waves_of(scene: Scene, form: Water | Cut) -> Waves:
    """The waves of one of the ground's waters in the weather that shows."""
    now = scene.site.weather
    if isinstance(form, Water):
        return wind_waves(now.wind, now.wind_from)
    found, number = waters(scene), scene.site.ground.waters().index(form)
    runs = found.speed[found.which == number]
    return flow_waves(runs.mean(axis=0) if len(runs) else np.zeros(2))
