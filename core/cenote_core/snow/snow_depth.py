"""How deep snow lies on each column of an owner, what it lies on, and where its cover ends."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.ndimage import grey_closing, maximum_filter
from scipy.spatial import cKDTree

from ..base.noise import noise
from ..columns.grid import STEPS, Columns, columns_of, joints, neighbours, plan_of
from ..columns.sheet import CONTACT, DROP, RISE, THIN, Ends
from ..graph.derived import by_value, derived
from ..measures.lee import lee
from ..measures.painted import apply_touches
from ..plan import GROUND, TouchPlan, WeatherPlan
from ..scene.scene import Scene
from ..waters.bodies import in_water, waters
from .fall import Wind, reach
from .landing import landed, run_off
from .melting import heat, left
from .shift import REPOSE, settle

LEAST = 0.001
"""Metres of snow that make a cover; less is a dusting that the surface itself shows."""
_SUNK, _SUNK_UNDER = 0.005, 0.014
"""Thin snow sinks by so many metres into the relief of what it lies on, where it is thinner than so many."""
_EXTENDED = 2
"""Cells a cover goes on into what rises out of it, so that no gap shows at its foot."""
_ROUND, _ROUNDEST = 0.75, 0.12
"""The rim of a cover is round within so many depths, and so many metres at most."""
_NARROW, _LEAST_NARROW = 2.2, 0.006
"""On what is narrow no more lies than so many times the way from its edge, and so many metres."""
_ABOUT = 0.15
"""Metres about a place within which it is looked how wide what carries the snow is."""
_WIDENS = 0.08
"""Metres by which the width counts as less for every metre from where it is found."""
_BRIDGE = 0.25
"""A gap is bridged where it is narrower than twice this many depths, one cell at least."""
_GROOVE = 0.004
"""Metres of depth from which something is a groove that snow lies over."""
_LEAST_BRIDGED = 0.015
"""Metres of snow that bridge anything at all."""
_WAVES = ((0.7, 0.10, 31), (0.16, 0.045, 57))
"""Unevenness of a cover: metres across, share of the depth, seed."""
_CALM, _STRONG, _DRIFTED = 3.0, 11.0, 1.4
"""Snow drifts from so many metres a second on, fully at so many; and how much more lies in the lee then."""
_SCOURED = 0.3
"""Share that the wind leaves at least."""
_FAR = 9.0

WALKED = "more"
"""What a stroke does that leaves footprints."""


@dataclass(frozen=True)
class Lying:
    """Snow on an owner's columns.

    Attributes
    ----------
    base : (R, C) float64 height of what it lies on, bridged gaps included, metres; nan where nothing carries it
    depth : (R, C) float64 metres by mass, before its rim is rounded
    top : (R, C) float64 metres as it is drawn
    lies : (R, C) bool, is there a cover?
    ends : where it ends
    """

    base: np.ndarray
    depth: np.ndarray
    top: np.ndarray
    lies: np.ndarray
    ends: Ends


def _needs(scene: Scene, owner: str, fallen: float, wind: Wind, melted: float) -> list[Any]:
    warmth = heat.ref(scene, owner) if melted > 0 else None
    return [
        melted,
        warmth,
        strokes(scene, owner),
        mass.ref(scene, owner, fallen, wind),
        columns_of.ref(scene, owner),
        reach.ref(scene, owner, wind),
        waters.ref(scene) if in_water(scene, owner) else None,
    ]


def _mass_needs(scene: Scene, owner: str, fallen: float, wind: Wind) -> list[Any]:
    near = [scene.mesh.ref(other) for other in scene.near(owner, 40.0)] if _drifting(wind) > 0 else []
    return [run_off.ref(scene, owner, fallen, wind), landed.ref(scene, owner, fallen, wind), near]


@derived(_mass_needs)
def mass(scene: Scene, owner: str, fallen: float, wind: Wind) -> np.ndarray:
    """(R, C) float64 metres of snow on each column: what fell, drifted, stayed and slid here, come to rest."""
    columns = columns_of(scene, owner)
    depth = run_off(scene, owner, fallen, wind).stays + landed(scene, owner, fallen, wind)
    if _drifting(wind) > 0:
        depth = _drift(scene, columns, depth, wind)
    base = np.where(columns.there, columns.height, np.nan)
    outside = columns.joined & (reach(scene, owner, wind) >= 0)[..., None]
    return settle(base, depth, _both(outside), columns.cell, REPOSE)


def _both(open_: np.ndarray) -> np.ndarray:
    """(R, C, 4) bool: open from both sides."""
    out = open_.copy()
    out[:, :-1, 0] &= open_[:, 1:, 2]
    out[:, 1:, 2] &= open_[:, :-1, 0]
    out[:-1, :, 1] &= open_[1:, :, 3]
    out[1:, :, 3] &= open_[:-1, :, 1]
    return out


def _drifting(wind: Wind) -> float:
    return float(np.clip((wind[1] - _CALM) / (_STRONG - _CALM), 0, 1))


def _drift(scene: Scene, columns: Columns, depth: np.ndarray, wind: Wind) -> np.ndarray:
    """Snow carried from the open into the lee of what stands; as much as before."""
    on = depth > 0
    total = depth.sum()
    if not on.any():
        return depth
    at = columns.places()[on].astype(np.float32)
    with by_value():
        rays = scene.standing()
    sheltered = lee(rays, at, np.tile(np.array([0, 1, 0], np.float32), (len(at), 1)), wind[0]).astype(np.float64)
    weight = np.maximum(1 + _drifting(wind) * _DRIFTED * (2 * sheltered - 1), _SCOURED)
    out = depth.copy()
    out[on] *= weight
    return np.asarray(out * (total / out.sum()))


@derived(_needs)
def lying(scene: Scene, owner: str, fallen: float, wind: Wind, melted: float) -> Lying:
    """The cover of snow on an owner when `fallen` metres lay on open level ground and `melted` have gone."""
    columns = columns_of(scene, owner)
    depth = mass(scene, owner, fallen, wind)
    if melted > 0:
        depth = left(depth, melted, heat(scene, owner).astype(np.float64))
    depth = _trodden(scene, owner, columns, depth)
    inside = reach(scene, owner, wind) < 0
    places = columns.places()
    waves = np.ones(depth.shape)
    for size, share, seed in _WAVES:
        flat = (places * [1.0, 0.0, 1.0]).reshape(-1, 3).astype(np.float32)
        waves += share * 2 * (noise(flat, size, 2, seed, 0.0).reshape(depth.shape) - 0.5)
    depth = depth * waves
    base, joined = columns.height, columns.joined
    if owner != GROUND:
        base, depth, joined = _bridged(columns, depth, fallen)
    depth = _extended(depth, inside & columns.there, joined)
    edge = _from_edge(columns, base, joined)
    depth_here = np.minimum(
        depth, np.maximum(_NARROW * _width(edge, ~np.isnan(base), joined, columns.cell), _LEAST_NARROW)
    )
    within = np.clip(edge / np.maximum(np.minimum(_ROUND * depth_here, _ROUNDEST), 1e-6), 0, 1)
    top = depth_here * (RISE + (1 - RISE) * np.sqrt(1 - (1 - within) ** 2))
    top = top - _SUNK * np.clip(1 - depth_here / _SUNK_UNDER, 0, 1)
    lies = (depth_here > LEAST) & ~np.isnan(base)
    if in_water(scene, owner):
        # What falls into water is gone.
        lies &= waters(scene).depth <= 0
    return Lying(base, depth, top, lies, _ends(columns, base, depth_here, top, lies, joined))


def strokes(scene: Scene, owner: str, walked: bool = False) -> list[TouchPlan]:
    """The hand's strokes on the snow of an owner: where it was trodden or swept, or where somebody walked."""
    found = (touch for touch in scene.site.touches_of(WeatherPlan.single) if touch.owner == owner)
    return [touch for touch in found if (touch.action == WALKED) == walked]


def _trodden(scene: Scene, owner: str, columns: Columns, depth: np.ndarray) -> np.ndarray:
    """(R, C) metres that are left where it was trodden or swept."""
    made = strokes(scene, owner)
    if not made:
        return depth
    kept = np.ones(depth.size, np.float32)
    places = columns.places().reshape(-1, 3).astype(np.float32)
    apply_touches(kept, scene.to_local(owner, places), owner, made, scene.size(owner))
    return depth * kept.reshape(depth.shape)


def _bridged(columns: Columns, depth: np.ndarray, fallen: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Base, depth and joints where narrow gaps between what is equally high are bridged."""
    cells = int(np.ceil(_BRIDGE * fallen / columns.cell))
    if fallen < _LEAST_BRIDGED:
        return columns.height, depth, columns.joined
    span = 2 * cells + 1
    low = float(np.nanmin(columns.height)) - 2 * _FAR if columns.there.any() else 0.0
    height = np.where(columns.there, columns.height, low)
    closed = grey_closing(height, size=(span, span), mode="constant", cval=low)
    bridge = (closed - height > _GROOVE) & (closed > low + _FAR)
    base = np.where(bridge, closed, columns.height)
    over = np.where(bridge, maximum_filter(np.where(bridge, 0.0, depth), size=span), depth)
    return base, over, joints(base, columns.cell)


def _extended(depth: np.ndarray, inside: np.ndarray, joined: np.ndarray) -> np.ndarray:
    """Depth carried on a little into what stands in the snow."""
    out = depth.copy()
    known = ~inside
    for _ in range(_EXTENDED):
        best = np.full(out.shape, -1.0)
        for k, (dr, dc) in enumerate(STEPS):
            there = np.roll(known, (-dr, -dc), (0, 1)) & joined[..., k]
            best = np.maximum(best, np.where(there, np.roll(out, (-dr, -dc), (0, 1)), -1.0))
        fresh = ~known & (best >= 0)
        out[fresh] = best[fresh]
        known |= fresh
    return out


def _drops(columns: Columns, base: np.ndarray, joined: np.ndarray) -> np.ndarray:
    """(R, C, 4) bool: does what carries the snow drop away there?"""
    other = neighbours(base)
    return np.asarray(~joined & ~np.isnan(base)[..., None] & ~(other > base[..., None]))


def _from_edge(columns: Columns, base: np.ndarray, joined: np.ndarray) -> np.ndarray:
    """(R, C) metres from where what carries the snow drops away."""
    row, column, way = np.nonzero(_drops(columns, base, joined))
    out = np.full(base.shape, _FAR)
    # The sheet of the ground ends nowhere.
    if not len(row) or columns.joined[:-1, :-1, 0].all():
        return out
    step = np.array(STEPS, float)[way] * columns.ends[row, column, way][:, None]
    edge = plan_of(columns, column + step[:, 1], row + step[:, 0])
    on = ~np.isnan(base)
    at = columns.places()[on][:, [0, 2]]
    out[on] = np.minimum(cKDTree(edge).query(at, distance_upper_bound=_FAR, workers=-1)[0], _FAR)
    return out


def _width(edge: np.ndarray, on: np.ndarray, joined: np.ndarray, cell: float) -> np.ndarray:
    """(R, C) the farthest from an edge that one comes close by: half the width of what carries the snow.

    One comes there over the surface itself: neither the air beside it nor what lies below it is a width of its own. Where it
    grows wider the snow gets higher little by little.
    """
    out = np.where(on, edge, 0.0)
    for _ in range(max(1, int(_ABOUT / cell))):
        near = np.where(joined, neighbours(out, 0.0), 0.0).max(axis=-1) - _WIDENS * cell
        wider = np.maximum(out, np.where(on, near, 0.0))
        if np.array_equal(wider, out):
            break
        out = wider
    return out


def _ends(
    columns: Columns, base: np.ndarray, depth: np.ndarray, top: np.ndarray, lies: np.ndarray, joined: np.ndarray
) -> Ends:
    """Where a cover ends: by what carries it, or where it thins out on the way to a neighbour."""
    other_lies = neighbours(lies, False)
    other_base, other_depth = neighbours(base), np.nan_to_num(neighbours(depth))
    open_ = lies[..., None] & ~(joined & other_lies)
    drop = _drops(columns, base, joined)
    thins = np.clip((depth[..., None] - LEAST) / np.maximum(depth[..., None] - other_depth, 1e-9), 0, 1)
    share = np.where(joined, thins, columns.ends)
    on_the_way = base[..., None] + (other_base - base[..., None]) * share
    kind = np.where(drop, DROP, np.where(joined, THIN, CONTACT)).astype(np.int8)
    # The outermost nodes of a sheet end where they stand.
    outside = np.isnan(other_base) & (columns.ends == 0) & ~drop
    at = np.where(joined & ~np.isnan(on_the_way), on_the_way, columns.end_height)
    at = np.where(np.isnan(columns.end_height) | outside, base[..., None], at)
    return Ends(open_, np.where(outside, 0.0, share), at, np.where(joined, 0.0, depth[..., None]), kind)
