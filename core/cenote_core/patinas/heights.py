"""The height of a surface's whole stack alone, for where it becomes geometry: nothing else is read."""

from __future__ import annotations

import numpy as np
from numba import njit, prange

from ..plan import PatinaPlan
from ..scene.scene import Scene
from ..surfaces import formulas
from .flatten import read_sides

_layer_amount = njit(formulas.layer_amount, inline="always")
_metres = njit(formulas.metres, inline="always")
_under_relief = njit(formulas.under_relief, inline="always")
_laid_height = njit(formulas.laid_height, inline="always")
_mix = njit(formulas.mix, inline="always")


@njit(cache=True, parallel=True, nogil=True)
def _base(
    on: np.ndarray,
    places: np.ndarray,
    shares: np.ndarray,
    tile: float,
    image: np.ndarray,
    depth: float,
    out: np.ndarray,
) -> None:
    for k in prange(len(on)):
        n = on[k]
        out[n] = _metres(read_sides(image, 0, places, shares, n, tile) / 255.0, depth)


@njit(cache=True, parallel=True, nogil=True)
def _lay(
    places: np.ndarray,
    shares: np.ndarray,
    cover: np.ndarray,
    tile: float,
    image: np.ndarray,
    break_up: float,
    fill: float,
    thickness: float,
    depth: float,
    base_depth: np.ndarray,
    out: np.ndarray,
) -> None:
    for n in prange(len(places)):
        if cover[n] > 0.0:
            own = read_sides(image, 0, places, shares, n, tile) / 255.0
            amount = _layer_amount(cover[n], own, break_up, _under_relief(out[n], base_depth[n]), fill)
            out[n] = _mix(out[n], _laid_height(out[n], _metres(own, depth), thickness, fill), amount)


def stack_heights(
    scene: Scene,
    owner: str,
    uv: np.ndarray,
    base_uv: np.ndarray,
    slots: np.ndarray,
    covers: list[tuple[PatinaPlan, np.ndarray]],
    sides: tuple[np.ndarray, np.ndarray] | None = None,
) -> np.ndarray:
    """(N,) float32 metres above the surface's own shape: the last column of `flatten_values`, and its parameters."""
    places, shares = sides or (uv[:, None], np.ones((len(uv), 1), np.float32))
    single = np.ones((len(uv), 1), np.float32)
    out, depth = np.zeros(len(uv), np.float32), np.zeros(len(uv), np.float32)
    for surface in scene.surfaces():
        on = np.flatnonzero((slots == surface.index) & (surface.owner == owner) & (surface.layer == ""))
        if len(on):
            m = scene.material(surface.material)
            depth[on] = m.depth
            where, weights, tile = (places, shares, m.tile) if m.tile > 0 else (base_uv[:, None], single, 1.0)
            _base(on, where, weights, tile, m.height[..., None], m.depth, out)
    for plan, amount in covers:
        finish, m = plan.finish, scene.material(plan.finish.material)
        tile, own = max(m.tile, 0.05) * finish.scale, m.depth * finish.relief
        thick = finish.thickness / 1000
        _lay(places, shares, amount, tile, m.height[..., None], finish.break_up, finish.fill, thick, own, depth, out)
    return out
