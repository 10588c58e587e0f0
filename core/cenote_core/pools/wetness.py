"""How wet places are besides what falls on them: under and round pools, where water runs down, and at the feet of walls;
and where mud has settled."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import distance_transform_edt, map_coordinates

from ..base.noise import noise
from ..columns.grid import Columns, columns_of
from ..graph.derived import Ref, derived
from ..ground.terrain import height_at
from ..measures.damp import damp as risen
from ..mesh.texels import TexelTable, sample_map
from ..plan import GROUND
from ..scene.land import heights
from ..scene.measuring import SHELTER_LIMIT
from ..scene.provided import DAMP
from ..scene.runoff_network import run, runoff_map
from ..scene.scene import Scene
from ..waters.bodies import waters
from ..weather.exposure import sky_exposure, wetted
from .standing import standing_water
from .surface import LEAST, large

_HALO, _RAGGED = 0.16, 0.6
"""Metres round a pool that are damp, and how uneven that border is."""
_BESIDE = 0.06
"""Metres above or below its columns from which a texel is not of the same surface."""
_STREAK = (0.35, 2.2)
"""Metres of rained-on surface over a place from which a streak shows on it, and from which it is soaked."""
_STEEP = 0.75
"""Upward part of a normal from which a place has no streaks of its own."""
_FOOT, _FOOT_SEED = (0.16, 0.6, 0.5), 83
"""Metres that water stands in a wall's foot after long rain, how uneven, and how wide its waves are in metres."""
_RAINED = 0.35
"""Exposure from which a foot is as wet as it gets: under a roof the ground beside it is dry."""
_SHORE, _SHORE_WAVES = (0.09, 0.7), 0.3
"""Metres above water and beside it that its waves keep wet, and how wide the waves of that border are."""
_RIM, _BED = (0.05, 0.11), 0.55
"""Metres inside and outside a pool's border where mud lies that it has left, and how much of it on its bed."""


def _damp_needs(scene: Scene, owner: str, standing: float) -> list[object]:
    side = _side(scene, owner)
    return [standing_water.ref(scene, owner, standing), columns_of.ref(scene, owner), scene.table.ref(owner, side)]


def _side(scene: Scene, owner: str) -> int:
    return scene.resolution(owner, SHELTER_LIMIT)


@derived(_damp_needs)
def damp(scene: Scene, owner: str, standing: float) -> np.ndarray:
    """(R, R, 2) float32 over an owner's unwrap: 1 under standing water, less beside it, 0 away from it; and the mud it leaves.

    Silt comes down with the water and stays at its border, where it dries first, and thinner on its bed.
    """
    columns, table = columns_of(scene, owner), scene.table(owner, _side(scene, owner))
    depth = large(standing_water(scene, owner, standing))
    lies = depth > LEAST
    if not lies.any():
        return np.zeros((table.resolution, table.resolution, 2), np.float32)
    away = distance_transform_edt(~lies) * columns.cell
    inside = distance_transform_edt(lies) * columns.cell
    places = (columns.places() * [1.0, 0.0, 1.0]).reshape(-1, 3).astype(np.float32)
    ragged = 1 + _RAGGED * 2 * (noise(places, 0.25, 3, 71, 0.0).reshape(away.shape) - 0.5)
    shares = np.clip(1 - away / (_HALO * ragged), 0, 1)
    rim = np.clip(1 - away / (_RIM[1] * ragged**2), 0, 1) * np.clip(1.25 - inside / (_RIM[0] * ragged), 0, 1)
    mud = np.maximum(rim, _BED * lies * np.clip(ragged, 0.4, 1))
    both = [_on_texels(columns, values, table) for values in (shares, mud)]
    return np.ascontiguousarray(table.spread(np.stack(both, axis=-1)))


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
    runs: list[object] = []
    if running > 0 and owner != GROUND:
        runs = [
            run.ref(scene, now.wind_from, now.wind, (), (), 0.0),
            heights.ref(scene),
            sky_exposure.ref(scene, owner),
        ]
    shores = [waters.ref(scene), columns_of.ref(scene, GROUND)] if scene.site.ground.waters() else []
    return [*pools, *runs, *shores, running, scene.table.ref(owner, _side(scene, owner))]


@derived(_wet_needs, keep="disk")
def _wet(scene: Scene, owner: str, standing: float, running: float) -> np.ndarray:
    """(R, R, 2) float32 how wet places are besides what falls on them, and how much mud lies there."""
    table = scene.table(owner, _side(scene, owner))
    out = (
        damp(scene, owner, standing) if standing > 0 else np.zeros((table.resolution, table.resolution, 2), np.float32)
    )
    if running > 0 and owner != GROUND:
        # On what is level the rain itself wets all of it.
        steep = np.clip((_STEEP - table.points.normals[:, 1]) / 0.2, 0, 1)
        wet = running * steep * np.maximum(_streaks(scene, owner, table), _foot(scene, owner, table))
        out = out.copy()
        out[..., 0] = np.maximum(out[..., 0], table.spread(wet.astype(np.float32)))
    if scene.site.ground.waters():
        out = out.copy()
        out[..., 0] = np.maximum(out[..., 0], table.spread(_shore(scene, table)))
    return out


def _shore(scene: Scene, table: TexelTable) -> np.ndarray:
    """(N,) float32 how wet an owner's texels are by the ground's water: under it, and a hand above it where waves reach."""
    columns, found = columns_of(scene, GROUND), waters(scene)
    away, (row, column) = distance_transform_edt(found.depth <= 0, return_indices=True)
    level = np.nan_to_num(found.level[row, column], nan=-1e6)
    at = table.points.positions.astype(np.float64)
    where = np.stack(columns.node_of(at[:, [0, 2]]))
    over = at[:, 1] - map_coordinates(level, where, order=0, mode="nearest")
    beside = map_coordinates(away * columns.cell, where, order=1, mode="nearest")
    ragged = 0.6 + 0.8 * noise(at.astype(np.float32), _SHORE_WAVES, 3, 87, 0.0)
    high = np.clip(1 - over / (_SHORE[0] * ragged), 0, 1)
    return np.asarray(np.clip(1.6 * high * np.clip(1 - beside / _SHORE[1], 0, 1), 0, 1), np.float32)


def _streaks(scene: Scene, owner: str, table: TexelTable) -> np.ndarray:
    """(N,) where water runs down an owner's texels."""
    now = scene.site.weather
    water = sample_map(runoff_map(scene, owner, now.wind_from, now.wind, (), (), 0.0), table.points.uv2)
    return np.asarray(np.clip((water - _STREAK[0]) / (_STREAK[1] - _STREAK[0]), 0, 1))


def _foot(scene: Scene, owner: str, table: TexelTable) -> np.ndarray:
    """(N,) how wet an owner's foot is from the ground it stands in, where that gets rain."""
    at = table.points.positions
    ground = height_at(scene.site.ground, heights(scene), at[:, [0, 2]])
    rise, wave, size = _FOOT
    rained = np.clip(sample_map(sky_exposure(scene, owner), table.points.uv2) / _RAINED, 0, 1)
    # The front is sharp: as much dries off at it as rises.
    return np.asarray(np.clip(2.5 * risen(at, ground, rise, wave, size, _FOOT_SEED), 0, 1) * rained)


@DAMP.fills
def damp_ref(scene: Scene, owner: str) -> Ref[np.ndarray] | None:
    """How wet places are in the weather that shows besides what falls on them, without making it; None while all is dry."""
    now = scene.site.weather
    running = max(0.0, now.wetness - now.dried)
    return _wet.ref(scene, owner, now.standing / 1000, running) if wetted(scene) else None


def damp_map(scene: Scene, owner: str) -> np.ndarray | None:
    """(R, R, 2), the same made; None while all is dry."""
    found = damp_ref(scene, owner)
    return found.value() if found else None
