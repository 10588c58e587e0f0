"""Snow that the sun takes: where it shines on it, on what is dark and on what leans toward it, first."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..base.compass import sun_direction
from ..base.noise import noise
from ..columns.grid import Columns, columns_of
from ..graph.derived import by_value, derived
from ..materials.material import LUMINANCE, srgb_to_linear
from ..scene.scene import Scene

_SUNS = ((140.0, 22.0), (180.0, 30.0), (220.0, 22.0))
"""Where the sun stands through a day of late winter: bearing and height, degrees."""
_SHADE = 0.4
"""Share of the melting that warm air does, in the shade too; the rest is the sun's."""
_DARK, _MIDDLE = 0.7, 0.25
"""How much more melts on what is black than on what throws back so much light."""
_PATCHES, _PATCHY, _SEED = 1.3, 0.45, 83
"""Metres between patches, how uneven they make it, and their seed."""
_REACH = 30.0
_LIFT = 0.02


def _lit(scene: Scene, owner: str) -> list[Any]:
    near = [scene.mesh.ref(other) for other in scene.near(owner, _REACH)]
    return [columns_of.ref(scene, owner), near, _tones(scene, owner)]


def _tones(scene: Scene, owner: str) -> list[float]:
    """Mean reflectance of an owner's materials, by slot."""
    found = {s.index: s.material for s in scene.surfaces_of(owner) if not s.layer}
    with by_value():
        return [round(_tone(scene, found[index]), 3) for index in sorted(found)]


def _tone(scene: Scene, name: str) -> float:
    colour = scene.material(name).colour.reshape(-1, 3)[::97].astype(np.float32) / 255
    return float((srgb_to_linear(colour) @ LUMINANCE).mean())


@derived(_lit, keep="disk")
def heat(scene: Scene, owner: str) -> np.ndarray:
    """(R, C) float32 how much melts on each column, against 1 on open level ground of a middle tone."""
    columns = columns_of(scene, owner)
    out = np.ones(columns.height.shape, np.float32)
    on = columns.there
    at = columns.places()[on].astype(np.float32)
    if not len(at):
        return out
    at[:, 1] += _LIFT
    normal = _normals(columns)[on]
    with by_value():
        rays = scene.standing()
    sun = np.zeros(len(at))
    for bearing, height in _SUNS:
        toward = sun_direction(bearing, height)
        sun += np.maximum(normal @ toward, 0) / toward[1] * rays.open_toward(at, toward, _REACH) / len(_SUNS)
    tones = np.array(_tones(scene, owner))
    dark = 1 + _DARK * (_MIDDLE - tones[np.maximum(columns.slot[on], 0)])
    patches = noise((at * [1.0, 0.0, 1.0]).astype(np.float32), _PATCHES, 3, _SEED, 0.0)
    out[on] = (_SHADE + (1 - _SHADE) * sun) * dark * (1 + _PATCHY * 2 * (patches - 0.5))
    return out


def _normals(columns: Columns) -> np.ndarray:
    """(R, C, 3) of what the snow lies on; upward part as it was met, the rest by how heights fall."""
    height = np.where(columns.there, columns.height, np.nanmean(columns.height))
    down, across = np.gradient(height, columns.cell)
    level = -(across[..., None] * columns.along[0] + down[..., None] * columns.along[1])
    length = np.maximum(np.linalg.norm(level, axis=-1), 1e-9)
    up = np.clip(columns.up.astype(np.float64), 0, 1)
    side = np.sqrt(1 - up**2) / length
    return np.stack([level[..., 0] * side, up, level[..., 1] * side], axis=-1)


def left(depth: np.ndarray, melted: float, warmth: np.ndarray) -> np.ndarray:
    """(R, C) metres that are left when `melted` metres have gone on open level ground."""
    return np.maximum(depth - melted * warmth, 0.0)
