"""The ground: a fractal sheet with forms laid over it in order."""

from __future__ import annotations

import numpy as np
from numba import njit, prange

from ..measures.noise import noise
from ..mesh.mesh import Mesh, vertex_normals
from ..plan import Cut, GroundPlan, Mound, Terrace

GROUND_SLOT = "ground"


def _smooth(t: np.ndarray) -> np.ndarray:
    t = np.clip(t, 0.0, 1.0)
    return np.asarray(t * t * (3.0 - 2.0 * t))


def axes(plan: GroundPlan) -> tuple[np.ndarray, np.ndarray]:
    """x and z coordinates of the ground's points, centred on the origin, metres."""
    columns = max(2, int(round(plan.width / plan.cell)) + 1)
    rows = max(2, int(round(plan.depth / plan.cell)) + 1)
    return np.linspace(-plan.width / 2, plan.width / 2, columns), np.linspace(-plan.depth / 2, plan.depth / 2, rows)


def heights(plan: GroundPlan) -> np.ndarray:
    """(rows, columns) float64 heights in metres, rows along z."""
    x, z = axes(plan)
    gx, gz = np.meshgrid(x, z)
    y = np.zeros_like(gx)
    if plan.amount > 0:
        flat = np.column_stack([gx.ravel(), np.zeros(gx.size), gz.ravel()])
        y += (noise(flat, plan.feature, plan.detail, plan.seed).reshape(gx.shape) - 0.5) * plan.amount
    for form in plan.forms:
        if isinstance(form, Terrace):
            y = _terrace(y, gx, gz, form)
        elif isinstance(form, Cut):
            y = _cut(y, gx, gz, form)
        elif isinstance(form, Mound):
            distance = np.hypot(gx - form.centre[0], gz - form.centre[1]) / form.radius
            y = y + form.height * _smooth(1.0 - distance)
    return y


def _terrace(y: np.ndarray, gx: np.ndarray, gz: np.ndarray, form: Terrace) -> np.ndarray:
    dx, dz = form.end[0] - form.start[0], form.end[1] - form.start[1]
    length = np.hypot(dx, dz)
    if length < 1e-9:
        return y
    # Seen from above with z to the south, the left of the line from start to end is (dz, −dx).
    beyond = ((gx - form.start[0]) * dz - (gz - form.start[1]) * dx) / length
    return np.asarray(y + form.height * _smooth(beyond / form.run))


@njit(cache=True, parallel=True, nogil=True)
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


def _cut(y: np.ndarray, gx: np.ndarray, gz: np.ndarray, form: Cut) -> np.ndarray:
    distance = np.empty(gx.size)
    _line_distance(gx.ravel(), gz.ravel(), np.asarray(form.line, np.float64), distance)
    amount = 1.0 - _smooth((distance.reshape(gx.shape) - form.width / 2) / form.bank)
    floor = y - form.depth if form.level is None else np.full_like(y, form.level)
    return np.asarray(y + (floor - y) * amount)


def ground_mesh(plan: GroundPlan) -> Mesh:
    """The ground as a mesh with one surface; `uv` in metres from above, `uv2` over the whole sheet."""
    x, z = axes(plan)
    y = heights(plan)
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
        normals=vertex_normals(positions, faces),
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
