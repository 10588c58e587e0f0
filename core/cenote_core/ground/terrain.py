"""The ground: a sheet (fractal or from an image), forms laid over it in order, strokes of the hand, pads."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from scipy.ndimage import gaussian_filter, map_coordinates

from ..base.kernels import parallel_kernel, prange
from ..base.noise import noise
from ..mesh.mesh import Mesh, grid_normals
from ..plan import Basin, Cut, GroundPlan, Mound, Pad, Terrace, Water
from . import forms
from .forms import Footprint

GROUND_SLOT = "ground"
_ROWS_AT_ONCE = 256


def axes(plan: GroundPlan) -> tuple[np.ndarray, np.ndarray]:
    """x and z coordinates of the ground's points, centred on the origin, metres."""
    columns = max(2, int(round(plan.width / plan.cell)) + 1)
    rows = max(2, int(round(plan.depth / plan.cell)) + 1)
    return np.linspace(-plan.width / 2, plan.width / 2, columns), np.linspace(-plan.depth / 2, plan.depth / 2, rows)


def sheet(plan: GroundPlan, image: np.ndarray | None = None) -> np.ndarray:
    """(rows, columns) float64 heights of the bare sheet, metres, rows along z.

    Parameters
    ----------
    image : (H, W) float, 0..1, or None
        The height image, top row to the north.
    """
    x, z = axes(plan)
    y = np.zeros((len(z), len(x)))
    if image is not None:
        y += _from_image(plan, image, y.shape)
    if plan.amount > 0:
        # A few rows at a time: the places of all points of a large ground would take more room than the ground.
        for rows in range(0, len(z), _ROWS_AT_ONCE):
            part = y[rows : rows + _ROWS_AT_ONCE]
            flat = np.zeros((*part.shape, 3), np.float32)
            flat[..., 0], flat[..., 2] = x, z[rows : rows + _ROWS_AT_ONCE, None]
            rough = noise(flat.reshape(-1, 3), plan.feature, plan.detail, plan.seed, plan.ridged)
            part += (rough.reshape(part.shape) - 0.5) * plan.amount
    return y


def _from_image(plan: GroundPlan, image: np.ndarray, shape: tuple[int, int]) -> np.ndarray:
    """The chosen part of the image stretched over the sheet; its steps smoothed before it is read."""
    left, top, right, bottom = plan.image_crop
    high, wide = image.shape
    part = image[int(top * high) : max(int(np.ceil(bottom * high)), int(top * high) + 2)]
    part = part[:, int(left * wide) : max(int(np.ceil(right * wide)), int(left * wide) + 2)].astype(np.float64)
    if plan.image_smooth > 0:
        texel = (plan.depth / part.shape[0], plan.width / part.shape[1])
        part = gaussian_filter(part, [plan.image_smooth / t for t in texel], mode="nearest")
    rows = np.linspace(0, part.shape[0] - 1, shape[0])
    columns = np.linspace(0, part.shape[1] - 1, shape[1])
    read = map_coordinates(part, np.meshgrid(rows, columns, indexing="ij"), order=1, mode="nearest")
    return np.asarray(read * plan.image_height)


def formed(plan: GroundPlan, y: np.ndarray) -> np.ndarray:
    """Heights after all forms but the pads, in order."""
    if not plan.forms:
        return y
    grid = tuple(np.meshgrid(*axes(plan)))
    for form in plan.forms:
        if isinstance(form, Terrace):
            y = forms.terrace(y, grid, form)
        elif isinstance(form, Cut):
            y = forms.cut(y, grid, form)
        elif isinstance(form, Mound):
            y = forms.mound(y, grid, form)
        elif isinstance(form, Basin):
            y = forms.basin(y, grid, form)
    return y


def padded(plan: GroundPlan, y: np.ndarray, under: Mapping[str, Footprint]) -> np.ndarray:
    """Heights after the pads, for the pieces that stand. Pads come last, since pieces stand on what is before them."""
    if not under:
        return y
    grid = tuple(np.meshgrid(*axes(plan)))
    for form in plan.forms:
        if isinstance(form, Pad) and form.piece in under:
            y = forms.pad(y, grid, form, under[form.piece])
    return y


def water_forms(plan: GroundPlan) -> list[Water]:
    """The water lines of the ground."""
    return [form for form in plan.forms if isinstance(form, Water)]


def coarser(plan: GroundPlan, most: int) -> GroundPlan:
    """The same ground with at most so many points along a side; one that is small enough stays as it is."""
    longest = max(plan.width, plan.depth)
    return plan if round(longest / plan.cell) + 1 <= most else plan.model_copy(update={"cell": longest / (most - 1)})


def thinned(plan: GroundPlan, y: np.ndarray, most: int) -> tuple[GroundPlan, np.ndarray]:
    """Plan and heights with at most so many points along a side, for where the ground is only looked at.

    Heights between points are bilinear, as everywhere.
    """
    coarse = coarser(plan, most)
    if coarse is plan:
        return plan, y
    gx, gz = np.meshgrid(*axes(coarse))
    return coarse, height_at(plan, y, np.column_stack([gx.ravel(), gz.ravel()])).reshape(gx.shape)


def ground_mesh(plan: GroundPlan, y: np.ndarray) -> Mesh:
    """The ground as a mesh with one slot; `uv` in metres from above, `uv2` over the whole sheet."""
    x, z = axes(plan)
    positions, uv, uv2 = _laid_out(x, z, y, plan.width, plan.depth)
    faces = _cells(len(z), len(x))
    return Mesh(
        positions=positions,
        faces=faces,
        normals=grid_normals(y, float(x[1] - x[0]), float(z[1] - z[0])),
        uv=uv,
        slots=np.zeros(len(faces), np.int32),
        slot_names=(GROUND_SLOT,),
        uv2=uv2,
    )


@parallel_kernel
def _laid_out(
    x: np.ndarray, z: np.ndarray, y: np.ndarray, width: float, depth: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points of the grid, and their places in metres from above and in parts of the sheet; one array after the other."""
    positions = np.empty((y.size, 3), np.float32)
    uv, uv2 = np.empty((y.size, 2), np.float32), np.empty((y.size, 2), np.float32)
    for row in prange(len(z)):
        for column in range(len(x)):
            n = row * len(x) + column
            across, along = np.float32(x[column]), np.float32(z[row])
            positions[n, 0], positions[n, 1], positions[n, 2] = across, y[row, column], along
            uv[n, 0], uv[n, 1] = across, -along
            uv2[n, 0], uv2[n, 1] = across / width + 0.5, along / depth + 0.5
    return positions, uv, uv2


@parallel_kernel
def _cells(rows: int, columns: int) -> np.ndarray:
    """Two triangles for each cell. The diagonal alternates like a chessboard, so that slopes have no grain."""
    faces = np.empty((2 * (rows - 1) * (columns - 1), 3), np.int32)
    for row in prange(rows - 1):
        for column in range(columns - 1):
            a = row * columns + column
            b, c, d = a + 1, a + columns, a + columns + 1
            n = 2 * (row * (columns - 1) + column)
            odd = (row + column) % 2 == 1
            faces[n, 0], faces[n, 1], faces[n, 2] = a, c, b if odd else d
            faces[n + 1, 0], faces[n + 1, 1], faces[n + 1, 2] = b if odd else a, c if odd else d, d if odd else b
    return faces


def height_at(plan: GroundPlan, y: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Bilinear ground height under (N, 2) points x, z; outside the sheet its border counts."""
    x, z = axes(plan)
    u = np.clip((points[:, 0] - x[0]) / (x[1] - x[0]), 0, len(x) - 1.000001)
    v = np.clip((points[:, 1] - z[0]) / (z[1] - z[0]), 0, len(z) - 1.000001)
    i, j = u.astype(int), v.astype(int)
    fu, fv = u - i, v - j
    top = y[j, i] * (1 - fu) + y[j, i + 1] * fu
    low = y[j + 1, i] * (1 - fu) + y[j + 1, i + 1] * fu
    return np.asarray(top * (1 - fv) + low * fv)
