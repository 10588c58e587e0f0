"""The surface of the ground's water as it is drawn: a sheet for each form, with its depth, its flow and its foam."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import map_coordinates

from ..columns.grid import STEPS, Columns, columns_of, neighbours
from ..columns.sheet import LEVEL, Ends, cover_mesh
from ..graph.derived import derived
from ..mesh.mesh import Mesh
from ..plan import GROUND, Cut, Water
from ..scene.scene import Scene
from ..surfaces.water import TILE
from .bodies import Waters, waters
from .foam import dripped_refs, foam
from .waves import Waves, flow_waves, wind_waves


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


def _needs(scene: Scene, number: int) -> list[object]:
    now, form = scene.site.weather, scene.site.ground.waters()[number]
    return [waters.ref(scene), number, form.foam, now.wind, now.wind_from, dripped_refs(scene)]


@derived(_needs, keep="disk")
def sheet(scene: Scene, number: int) -> Sheet | None:
    """The surface of one of the ground's waters in the weather that shows; None where it has none."""
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
    form = scene.site.ground.waters()[number]
    white = map_coordinates(foam(scene, columns, found, form, lies), where, order=1, mode="nearest")
    mesh = replace(mesh, uv=(mesh.positions[:, [0, 2]] * [1, -1] / TILE).astype(np.float32))
    return Sheet(mesh, np.maximum(depth, 0).astype(np.float32), np.clip(white, 0, 1).astype(np.float32))


def waves_of(scene: Scene, form: Water | Cut) -> Waves:
    """The waves of one of the ground's waters in the weather that shows."""
    now = scene.site.weather
    if isinstance(form, Water):
        return wind_waves(now.wind, now.wind_from)
    found, number = waters(scene), scene.site.ground.waters().index(form)
    runs = found.speed[found.which == number]
    return flow_waves(runs.mean(axis=0) if len(runs) else np.zeros(2))
