"""Where the water of the ground's forms is: still water level, running water as high as its bed asks for."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import distance_transform_edt, gaussian_filter1d, label, map_coordinates
from scipy.spatial import cKDTree
from skimage.measure import find_contours

from ..columns.grid import Columns, columns_of, plan_of
from ..graph.derived import derived
from ..ground.forms import along_line
from ..ground.terrain import axes, height_at
from ..plan import GROUND, Cut, Water
from ..scene import land
from ..scene.provided import RUNNING_SHORES
from ..scene.scene import Scene

_STEP = 0.25
"""Metres between the sections of running water."""
_EVEN = 1.5
"""Sections over which the level of running water is evened out."""
_ACROSS = 7
"""Places of a section at which its bed is looked for."""
_FASTEST = 3.0
"""Metres a second; what would be faster is a fall."""
_LOOKS = {"murk", "patterns", "foam"}
"""What a form says of how its water looks, not where it is."""
_LEAST = 0.004
"""Metres of water that are drawn."""


@dataclass(frozen=True)
class Waters:
    """The water of the ground's forms on its columns.

    Attributes
    ----------
    level : (R, C) float64 height of its surface, metres; nan where there is none
    depth : (R, C) float64 metres of water; 0 where there is none
    speed : (R, C, 2) float32 metres a second along x and z
    which : (R, C) int16, number of the form among the ground's waters; −1 where there is none
    """

    level: np.ndarray
    depth: np.ndarray
    speed: np.ndarray
    which: np.ndarray


@dataclass(frozen=True)
class Sections:
    """Running water, section by section from its first point to its last.

    Attributes
    ----------
    at : (K, 2) x and z of their middles, metres
    along : (K, 2) unit directions downstream
    level : (K,) height of the water, metres
    """

    at: np.ndarray
    along: np.ndarray
    level: np.ndarray


def in_water(scene: Scene, owner: str) -> bool:
    """May some of an owner lie under the ground's water? Only the ground itself does."""
    return owner == GROUND and bool(scene.site.ground.waters())


def sections(scene: Scene, form: Cut) -> Sections:
    """The water level along a bed: its depth over the floor, and never lower than what lies farther down.

    Water cannot run uphill: behind a sill it stands until it runs over it.
    """
    at, along = _resampled(np.asarray(form.line, np.float64))
    plan, y = scene.site.ground, land.heights(scene)
    side = np.column_stack([-along[:, 1], along[:, 0]])
    reach = np.linspace(-0.5, 0.5, _ACROSS) * form.width
    beds = np.stack([height_at(plan, y, at + side * r) for r in reach])
    wanted = gaussian_filter1d(beds.min(axis=0) + form.water, _EVEN, mode="nearest")
    return Sections(at, along, np.maximum.accumulate(wanted[::-1])[::-1])


def _resampled(line: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(K, 2) places at even distances along a line, and (K, 2) unit directions there."""
    at = gaussian_filter1d(along_line(line, _STEP), 1.0, axis=0, mode="nearest")
    along = np.gradient(at, axis=0)
    return at, along / np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)


@derived(
    lambda scene: [
        columns_of.ref(scene, GROUND),
        land.heights.ref(scene),
        [f.model_dump(exclude=_LOOKS) for f in scene.site.ground.waters()],
    ],
    keep="disk",
)
def waters(scene: Scene) -> Waters:
    """All of it, where two meet as high as the higher."""
    columns = columns_of(scene, GROUND)
    bed = np.where(columns.there, columns.height, np.inf)
    level = np.full(bed.shape, np.nan)
    speed, which = np.zeros((*bed.shape, 2), np.float32), np.full(bed.shape, -1, np.int16)
    for number, form in enumerate(scene.site.ground.waters()):
        found, flows = _still(columns, bed, form) if isinstance(form, Water) else _running(scene, columns, bed, form)
        higher = ~np.isnan(found) & ~(level >= found)
        level, which = np.where(higher, found, level), np.where(higher, np.int16(number), which)
        speed = np.where(higher[..., None], flows, speed)
    return Waters(level, np.where(np.isnan(level), 0.0, level - np.where(columns.there, bed, 0.0)), speed, which)


def _still(columns: Columns, bed: np.ndarray, form: Water) -> tuple[np.ndarray, np.ndarray]:
    """(R, C) level and (R, C, 2) speed of still water: what is connected to its place below its level."""
    row, column = (int(round(float(v[0]))) for v in columns.node_of(np.array([form.centre])))
    flows = np.zeros((*bed.shape, 2), np.float32)
    if not (0 <= row < bed.shape[0] and 0 <= column < bed.shape[1]) or bed[row, column] >= form.level:
        return np.full(bed.shape, np.nan), flows
    parts, _ = label(bed < form.level - _LEAST)
    wet = parts == parts[row, column] if parts[row, column] else np.zeros(bed.shape, bool)
    return np.where(wet, form.level, np.nan), flows


def _running(scene: Scene, columns: Columns, bed: np.ndarray, form: Cut) -> tuple[np.ndarray, np.ndarray]:
    """The same of running water. Across a section it is fastest where it is deepest (Manning: depth to the power ⅔)."""
    found = sections(scene, form)
    at = columns.places().reshape(-1, 3)[:, [0, 2]]
    reach = form.width / 2 + form.bank
    away, nearest = cKDTree(found.at).query(at, distance_upper_bound=reach + _STEP)
    near = np.isfinite(away)
    section = np.where(near, nearest, 0)
    level = found.level[section].reshape(bed.shape)
    depth = np.where(near.reshape(bed.shape), level - bed, 0.0)
    parts, _ = label(depth > _LEAST)
    # Of hollows beside it only those count that its bed runs through.
    middle = parts.reshape(-1)[near & (away < form.width / 2)]
    wet = np.isin(parts, np.unique(middle[middle > 0]))
    depth = np.where(wet, depth, 0.0)
    area = np.bincount(section, (depth.reshape(-1) * columns.cell**2), len(found.at)) / _STEP
    area = np.maximum(gaussian_filter1d(area, 1.0, mode="nearest"), 1e-4)
    mean = form.flow / 1000 / area
    deep = np.bincount(section, depth.reshape(-1) ** 2, len(found.at)) / np.maximum(
        np.bincount(section, depth.reshape(-1), len(found.at)), 1e-9
    )
    share = (depth.reshape(-1) / np.maximum(deep[section], 1e-6)) ** (2 / 3)
    fast = np.minimum(mean[section] * share, _FASTEST)
    flows = (found.along[section] * fast[:, None]).reshape(*bed.shape, 2).astype(np.float32)
    return np.where(wet, level, np.nan), flows


@RUNNING_SHORES.fills
@derived(lambda scene: [waters.ref(scene), land.heights.ref(scene)])
def running_shores(scene: Scene) -> tuple[list[np.ndarray], list[tuple[np.ndarray, np.ndarray]]]:
    """Edges of running water, as `land.shores` has those of still water: lines, and where it is wet at which level.

    Lines (P, 3) lie at y = 0; wet area and level are on the ground's own points, (R, C) each.
    """
    columns, found = columns_of(scene, GROUND), waters(scene)
    runs = [number for number, form in enumerate(scene.site.ground.waters()) if isinstance(form, Cut)]
    wet = np.isin(found.which, runs)
    if not wet.any():
        return [], []
    # Beside the water its level goes on as it is nearest by, so that the edge is where the bed rises through it.
    row, column = distance_transform_edt(~wet, return_distances=False, return_indices=True)
    level = found.level[row, column]
    over = np.where(_beside(wet), columns.height - level, np.maximum(columns.height - level, _LEAST))
    lines = []
    for line in find_contours(np.pad(over, 1, constant_values=1.0), 0.0):
        flat = plan_of(columns, line[:, 1] - 1, line[:, 0] - 1)
        lines.append(np.column_stack([flat[:, 0], np.zeros(len(flat)), flat[:, 1]]))
    x, z = axes(scene.site.ground)
    gx, gz = np.meshgrid(x, z)
    nodes = np.stack(columns.node_of(np.column_stack([gx.ravel(), gz.ravel()])))
    on_grid = [map_coordinates(v, nodes, order=1, mode="nearest").reshape(gx.shape) for v in (wet.astype(float), level)]
    return lines, [(on_grid[0] > 0, on_grid[1])]


def _beside(wet: np.ndarray) -> np.ndarray:
    """(R, C) bool: wet, or next to what is."""
    padded = np.pad(wet, 1)
    return np.asarray(wet | padded[:-2, 1:-1] | padded[2:, 1:-1] | padded[1:-1, :-2] | padded[1:-1, 2:])
