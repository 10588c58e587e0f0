"""The ground: a sheet (fractal or from an image), forms laid over it in order, strokes of the hand, pads."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from scipy.ndimage import gaussian_filter, map_coordinates

from ..measures.noise import noise
from ..mesh.mesh import Mesh, grid_normals
from ..plan import Basin, Cut, GroundPlan, Mound, Pad, Terrace, Water
from . import forms
from .forms import Footprint

GROUND_SLOT = "ground"


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
    gx, gz = np.meshgrid(x, z)
    y = np.zeros_like(gx)
    if image is not None:
        y += _from_image(plan, image, gx.shape)
    if plan.amount > 0:
        flat = np.column_stack([gx.ravel(), np.zeros(gx.size), gz.ravel()])
        rough = noise(flat, plan.feature, plan.detail, plan.seed, plan.ridged).reshape(gx.shape)
        y += (rough - 0.5) * plan.amount
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
    grid = tuple(np.meshgrid(*axes(plan)))
    for form in plan.forms:
        if isinstance(form, Pad) and form.piece in under:
            y = forms.pad(y, grid, form, under[form.piece])
    return y


def water_forms(plan: GroundPlan) -> list[Water]:
    """The water lines of the ground."""
    return [form for form in plan.forms if isinstance(form, Water)]


def thinned(plan: GroundPlan, y: np.ndarray, most: int) -> tuple[GroundPlan, np.ndarray]:
    """The ground with at most so many points along a side, for where it is only looked at: plan and heights.

    Heights between points are bilinear, as everywhere; a ground that is small enough stays as it is.
    """
    longest = max(y.shape)
    if longest <= most:
        return plan, y
    coarse = plan.model_copy(update={"cell": max(plan.width, plan.depth) / (most - 1)})
    gx, gz = np.meshgrid(*axes(coarse))
    return coarse, height_at(plan, y, np.column_stack([gx.ravel(), gz.ravel()])).reshape(gx.shape)


def ground_mesh(plan: GroundPlan, y: np.ndarray) -> Mesh:
    """The ground as a mesh with one slot; `uv` in metres from above, `uv2` over the whole sheet."""
    x, z = axes(plan)
    gx, gz = np.meshgrid(x, z)
    positions = np.column_stack([gx.ravel(), y.ravel(), gz.ravel()]).astype(np.float32)
    columns, rows = len(x), len(z)
    corner = (np.arange(rows - 1)[:, None] * columns + np.arange(columns - 1)[None]).ravel()
    a, b, c, d = corner, corner + 1, corner + columns, corner + columns + 1
    # The diagonal alternates like a chessboard, so that slopes have no grain.
    odd = ((corner // columns + corner % columns) % 2 == 1)[:, None]
    first = np.where(odd, np.column_stack([a, c, b]), np.column_stack([a, c, d]))
    second = np.where(odd, np.column_stack([b, c, d]), np.column_stack([a, d, b]))
    faces = np.stack([first, second], axis=1).reshape(-1, 3).astype(np.int32)
    uv2 = np.column_stack([positions[:, 0] / plan.width + 0.5, positions[:, 2] / plan.depth + 0.5])
    return Mesh(
        positions=positions,
        faces=faces,
        normals=grid_normals(y, float(x[1] - x[0]), float(z[1] - z[0])),
        uv=np.column_stack([positions[:, 0], -positions[:, 2]]).astype(np.float32),
        slots=np.zeros(len(faces), np.int32),
        slot_names=(GROUND_SLOT,),
        uv2=uv2.astype(np.float32),
    )


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
