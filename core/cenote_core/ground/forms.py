"""Parametric forms of the ground, each a function from heights to heights. Grids are (rows along z, columns along x)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d, map_coordinates
from scipy.spatial import cKDTree

from ..base.kernels import parallel_kernel, prange
from ..plan import Basin, Cut, Mound, Pad, Terrace

_SECTION, _EVENED = 0.25, 3.0
"""Metres between the sections of a bed that water has cut, and over how many of them its floor is evened out."""

Grid = tuple[np.ndarray, np.ndarray]
"""x and z of every point, each (R, C)."""


@dataclass(frozen=True)
class Footprint:
    """A piece as a pad sees it: an upright box.

    Attributes
    ----------
    centre : (2,) x and z of the middle, metres
    half : (2,) half extents along its own axes, metres
    turn : float, degrees about the upright axis
    foot : float, height of its lowest point, metres
    """

    centre: np.ndarray
    half: np.ndarray
    turn: float
    foot: float


def smooth(t: np.ndarray) -> np.ndarray:
    """Smoothstep, 0 below 0 and 1 above 1."""
    t = np.clip(t, 0.0, 1.0)
    return np.asarray(t * t * (3.0 - 2.0 * t))


def terrace(y: np.ndarray, grid: Grid, form: Terrace) -> np.ndarray:
    """Raise what lies beyond a line."""
    gx, gz = grid
    dx, dz = form.end[0] - form.start[0], form.end[1] - form.start[1]
    length = np.hypot(dx, dz)
    if length < 1e-9:
        return y
    # Seen from above with z to the south, the left of the line from start to end is (dz, −dx).
    beyond = ((gx - form.start[0]) * dz - (gz - form.start[1]) * dx) / length
    return np.asarray(y + form.height * smooth(beyond / form.run))


def cut(y: np.ndarray, grid: Grid, form: Cut) -> np.ndarray:
    """Press a bed into the ground along a line; its floor falls to the sides by the camber.

    Water that runs in it has cut through what rises in its way: its floor never rises from the first point to the last.
    """
    gx, gz = grid
    distance = line_distance(gx, gz, np.asarray(form.line, np.float64))
    amount = 1.0 - smooth((distance - form.width / 2) / form.bank)
    floor = y - form.depth if form.level is None else np.full_like(y, form.level)
    if form.water > 0 and form.level is None:
        floor = _cut_through(y, grid, form)
    if form.camber:
        floor = floor + form.camber * (1.0 - np.minimum(distance / (form.width / 2), 1.0) ** 2)
    return np.asarray(y + (floor - y) * amount)


def along_line(line: np.ndarray, step: float) -> np.ndarray:
    """(K, 2) places at even distances of about `step` metres along a line (P, 2)."""
    lengths = np.append(0, np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1)))
    s = np.linspace(0, lengths[-1], max(2, int(lengths[-1] / step) + 1))
    return np.column_stack([np.interp(s, lengths, line[:, k]) for k in range(2)])


def _cut_through(y: np.ndarray, grid: Grid, form: Cut) -> np.ndarray:
    """(R, C) height of the floor of a bed that falls all along, at each place that of the nearest part of its line."""
    gx, gz = grid
    at = along_line(np.asarray(form.line, np.float64), _SECTION)
    x, z = gx[0], gz[:, 0]
    where = [(at[:, 1] - z[0]) / (z[1] - z[0]), (at[:, 0] - x[0]) / (x[1] - x[0])]
    floor = np.minimum.accumulate(map_coordinates(y, where, order=1, mode="nearest") - form.depth)
    floor = gaussian_filter1d(floor, _EVENED, mode="nearest")
    near = line_distance(gx, gz, np.asarray(form.line, np.float64)) < form.width / 2 + form.bank + _SECTION
    out = y - form.depth
    out[near] = floor[cKDTree(at).query(np.column_stack([gx[near], gz[near]]))[1]]
    return np.asarray(out)


def mound(y: np.ndarray, grid: Grid, form: Mound) -> np.ndarray:
    """A rounded rise."""
    distance = np.hypot(grid[0] - form.centre[0], grid[1] - form.centre[1]) / form.radius
    return np.asarray(y + form.height * smooth(1.0 - distance))


def basin(y: np.ndarray, grid: Grid, form: Basin) -> np.ndarray:
    """A level floor in a raised rim. The floor lies `floor` against the ground's mean height along the rim."""
    distance = np.hypot(grid[0] - form.centre[0], grid[1] - form.centre[1])
    near = np.abs(distance - form.radius) <= max(form.rim_width, form.radius * 0.15, 0.5)
    around = float(y[near].mean()) if near.any() else float(y.mean())
    half = form.rim_width / 2
    within = smooth((form.radius - half - distance) / form.inside)
    beyond = smooth((distance - form.radius - half) / form.outside)
    raised = y + form.rim * (1.0 - beyond)
    return np.asarray(raised + (around + form.floor - raised) * within)


def pad(y: np.ndarray, grid: Grid, form: Pad, under: Footprint) -> np.ndarray:
    """Level the ground under a piece at its foot and blend it into what is around."""
    c, s = np.cos(np.radians(under.turn)), np.sin(np.radians(under.turn))
    dx, dz = grid[0] - under.centre[0], grid[1] - under.centre[1]
    # Own axes of a piece turned about y by `turn`: x' = (cos, −sin), z' = (sin, cos) in x and z.
    along, across = np.abs(dx * c - dz * s), np.abs(dx * s + dz * c)
    out = np.hypot(
        np.maximum(along - under.half[0] - form.margin, 0), np.maximum(across - under.half[1] - form.margin, 0)
    )
    amount = 1.0 - smooth(out / form.blend)
    return np.asarray(y + (under.foot - form.drop - y) * amount)


def line_distance(gx: np.ndarray, gz: np.ndarray, line: np.ndarray) -> np.ndarray:
    """Distance of every place from a line (P, 2) as seen from above, metres."""
    out = np.empty(gx.size)
    _line_distance(np.ascontiguousarray(gx, float).ravel(), np.ascontiguousarray(gz, float).ravel(), line, out)
    return out.reshape(gx.shape)


@parallel_kernel
def _line_distance(gx: np.ndarray, gz: np.ndarray, line: np.ndarray, out: np.ndarray) -> None:
    for n in prange(len(gx)):
        best = 1e30
        for k in range(len(line) - 1):
            dx, dz = line[k + 1, 0] - line[k, 0], line[k + 1, 1] - line[k, 1]
            length = dx * dx + dz * dz
            t = 0.0
            if length > 0:
                t = min(1.0, max(0.0, ((gx[n] - line[k, 0]) * dx + (gz[n] - line[k, 1]) * dz) / length))
            ex, ez = gx[n] - line[k, 0] - t * dx, gz[n] - line[k, 1] - t * dz
            best = min(best, ex * ex + ez * ez)
        out[n] = np.sqrt(best)
