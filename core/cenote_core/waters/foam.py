"""Foam on the ground's water: where it breaks, along its banks, at the lee shore, and where drips strike it."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import distance_transform_edt, gaussian_filter
from scipy.spatial import cKDTree

from ..base.compass import compass
from ..base.noise import noise
from ..columns.grid import Columns
from ..eaves.drips import Drips, drips_ref
from ..graph.derived import Ref
from ..plan import Cut, Water
from ..scene.scene import Scene
from .bodies import Waters

_BREAKS, _WHITE = 0.45, 1.1
"""Metres a second from which running water breaks, and at which it is white."""
_CALM, _STORM = 5.0, 14.0
"""Wind (m/s) from which foam gathers at the lee shore, and with which it is thick."""
_LINE = 0.22
"""Metres from the shore within which foam lines lie."""
_STRUCK, _OFTEN = 0.16, 1.2
"""Metres about the place a drip strikes that it beats white; with a drop in so many seconds or sooner, in full."""
_AWASH = 0.05
"""Metres over water from which what a drop falls on is no longer the water."""


def dripped_refs(scene: Scene) -> list[Ref[Drips]]:
    """Every place that drips in the weather that shows, without making it."""
    return [ref for ref in (drips_ref(scene, owner) for owner in scene.owners()) if ref is not None]


def foam(scene: Scene, columns: Columns, found: Waters, form: Water | Cut, lies: np.ndarray) -> np.ndarray:
    """(R, C) float64 share of one form's water that is white, 0 outside of `lies`.

    With its `foam` at 1 it is what speed, wind and drips beat up; above that it also gathers along all edges, as on
    water from peat; at 0 there is none.
    """
    now = scene.site.weather
    speed = np.linalg.norm(found.speed, axis=-1)
    breaks = np.clip((speed - _BREAKS) / (_WHITE - _BREAKS), 0, 1)
    # What was beaten white is carried on a way.
    breaks = np.maximum(breaks, 0.8 * gaussian_filter(breaks, 4.0))
    shore = distance_transform_edt(lies) * columns.cell
    moving = np.clip((speed.max() - _BREAKS / 2) / _BREAKS, 0, 1) * np.clip(8 * speed, 0, 1)
    lines = np.exp(-shore / _LINE) * np.maximum(moving, np.clip(form.foam - 1, 0, 1))
    toward = -compass(now.wind_from)
    slope = np.stack(np.gradient(gaussian_filter(lies.astype(float), 2.0))[::-1], axis=-1) @ columns.along
    lee = np.clip(-(slope @ toward) * 6, 0, 1) * np.clip((now.wind - _CALM) / (_STORM - _CALM), 0, 1)
    struck = _struck(scene, columns, found)
    places = columns.places().reshape(-1, 3).astype(np.float32)
    torn = noise(places * np.array([1, 0, 1], np.float32), 0.35, 4, 91, 0.5).reshape(lies.shape)
    white = form.foam * (breaks + 0.7 * lines + lee + struck) * (0.3 + 1.6 * torn) - 0.12
    return np.asarray(np.clip(white, 0, 1) * lies)


def _struck(scene: Scene, columns: Columns, found: Waters) -> np.ndarray:
    """(R, C) how white drips beat the water they strike; the more the more often."""
    out = np.zeros(columns.height.shape)
    parts = [ref.value() for ref in dripped_refs(scene)]
    if not parts:
        return out
    at = np.concatenate([one.at for one in parts])
    lands = at[:, 1] - np.concatenate([one.air for one in parts])
    often = np.clip(_OFTEN / np.concatenate([one.period for one in parts]), 0, 1)
    nodes = np.rint(np.stack(columns.node_of(at[:, [0, 2]]))).astype(int)
    row, column = np.clip(nodes, 0, np.array(out.shape)[:, None] - 1)
    # What a drop falls on is the bed under the water, or something that stands out of it.
    level = found.level[row, column]
    strikes = np.flatnonzero(~np.isnan(level) & (lands < np.nan_to_num(level) + _AWASH))
    if not len(strikes):
        return out
    wet = np.flatnonzero(~np.isnan(found.level))
    places = columns.places().reshape(-1, 3)[wet][:, [0, 2]]
    away, which = cKDTree(at[strikes][:, [0, 2]]).query(places)
    out.reshape(-1)[wet] = often[strikes][which] * np.exp(-((away / _STRUCK) ** 2))
    return out
