"""Decals: a picture projected through a box onto whatever it meets, as a mesh of its own."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..base.fields import PRESENTED
from ..base.kernels import kernel, parallel_kernel, prange
from ..graph.derived import derived
from ..mesh.mesh import Mesh, make_mesh
from ..plan import RESPONSE, DecalPlan
from ..scene.scene import Scene

LIFT = 0.0015
"""Metres a decal lies above its surface for each step of its order, so that depth never fights."""


@dataclass(frozen=True)
class Frame:
    """The projector: `right`, `up` and `out` are unit vectors; the picture looks along −out."""

    origin: np.ndarray
    right: np.ndarray
    up: np.ndarray
    out: np.ndarray


def decal_frame(plan: DecalPlan) -> Frame:
    """The projector's axes: up is as upright as the facing allows, then turned by `turn`."""
    out = np.asarray(plan.facing, float)
    out /= np.linalg.norm(out)
    reference = np.array([0, 1.0, 0]) if abs(out[1]) < 0.95 else np.array([0, 0, -1.0])
    right = np.cross(reference, out)
    right /= np.linalg.norm(right)
    up = np.cross(out, right)
    c, s = np.cos(np.radians(plan.turn)), np.sin(np.radians(plan.turn))
    return Frame(np.asarray(plan.position, float), right * c + up * s, up * c - right * s, out)


@kernel
def _clip(corners: np.ndarray, half: np.ndarray) -> np.ndarray:
    """Sutherland–Hodgman clipping of triangles to a box → triangle soup; (T, 3, K), of which the first three are places in
    the box's frame."""
    width = corners.shape[2]
    out = np.empty((len(corners) * 8 + 8, 3, width), np.float32)
    used = 0
    poly = np.empty((16, width))
    other = np.empty((16, width))
    for t in range(len(corners)):
        count = 3
        for k in range(3):
            poly[k] = corners[t, k]
        for plane in range(6):
            axis, sign = plane // 2, 1.0 if plane % 2 else -1.0
            made = 0
            for k in range(count):
                a, b = poly[k], poly[(k + 1) % count]
                da, db = half[axis] - sign * a[axis], half[axis] - sign * b[axis]
                if da >= 0:
                    other[made] = a
                    made += 1
                if (da >= 0) != (db >= 0):
                    other[made] = a + (b - a) * (da / (da - db))
                    made += 1
            count = made
            poly, other = other, poly
            if count < 3:
                break
        for k in range(1, count - 1):
            if used == len(out):
                break
            for c in range(width):
                out[used, 0, c], out[used, 1, c], out[used, 2, c] = poly[0, c], poly[k, c], poly[k + 1, c]
            used += 1
    return out[:used]


@parallel_kernel
def _met(
    positions: np.ndarray, faces: np.ndarray, origin: np.ndarray, axes: np.ndarray, half: np.ndarray, limit: float
) -> np.ndarray:
    """(F,) bool: faces whose bounds reach into the box and that are not turned away from the projector."""
    out = np.zeros(len(faces), np.bool_)
    for f in prange(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        inside = True
        for axis in range(3):
            low, high = 1e30, -1e30
            for v in (a, b, c):
                d = 0.0
                for k in range(3):
                    d += (positions[v, k] - origin[k]) * axes[axis, k]
                low, high = min(low, d), max(high, d)
            if low > half[axis] or high < -half[axis]:
                inside = False
                break
        if not inside:
            continue
        e1x, e1y, e1z = (
            positions[b, 0] - positions[a, 0],
            positions[b, 1] - positions[a, 1],
            positions[b, 2] - positions[a, 2],
        )
        e2x, e2y, e2z = (
            positions[c, 0] - positions[a, 0],
            positions[c, 1] - positions[a, 1],
            positions[c, 2] - positions[a, 2],
        )
        nx, ny, nz = e1y * e2z - e1z * e2y, e1z * e2x - e1x * e2z, e1x * e2y - e1y * e2x
        facing = nx * axes[2, 0] + ny * axes[2, 1] + nz * axes[2, 2]
        out[f] = facing > limit * np.sqrt(nx * nx + ny * ny + nz * nz)
    return out


def project(mesh: Mesh, plan: DecalPlan, owner: str = "decal") -> Mesh | None:
    """The part of an owner's `mesh` a decal falls on, with the picture's `uv` 0..1, its fading in `colour[:, 3]` and the
    owner's unwrap in `uv2`; its one slot is named after the owner.

    Faces turned away from the projector by more than `angle` receive nothing; over the last `soft` degrees the
    picture fades. Back faces never receive it. None if nothing is met.
    """
    frame = decal_frame(plan)
    axes = np.stack([frame.right, frame.up, frame.out])
    half = np.array([plan.width, plan.height, plan.depth]) / 2
    limit = float(np.cos(np.radians(min(plan.angle + 8.0, 89.9))))
    chosen = np.flatnonzero(_met(mesh.positions, mesh.faces, frame.origin, axes, half, limit))
    if len(chosen) == 0:
        return None
    corner = mesh.faces[chosen]
    corners = (mesh.positions[corner].astype(np.float64) - frame.origin) @ axes.T
    normals = mesh.normals[corner].astype(np.float64) @ axes.T
    unwrap = np.zeros((*corner.shape, 2)) if mesh.uv2 is None else mesh.uv2[corner]
    soup = _clip(np.concatenate([corners, normals, unwrap], axis=2), half)
    if len(soup) == 0:
        return None
    points, normal, at = (part.astype(np.float64) for part in np.split(soup.reshape(-1, 8), [3, 6], axis=1))
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
    away = np.degrees(np.arccos(np.clip(normal[:, 2], -1, 1)))
    t = np.clip((plan.angle - away) / max(plan.soft, 1e-3), 0, 1)
    # The picture also fades over the last tenth of its depth, so that it never ends in a knife edge.
    ends = np.clip((1 - np.abs(points[:, 2]) / half[2]) * 10, 0, 1)
    fade = (t * t * (3 - 2 * t)) * ends * plan.opacity
    uv = points[:, :2] / (2 * half[:2]) + 0.5
    # Lifted across the whole soup by a constant, not by order: stacking is kept by the drawing order.
    world = (points + normal * LIFT) @ axes + frame.origin
    colour = np.column_stack([np.ones((len(points), 3)), fade])
    faces = np.arange(len(points), dtype=np.int32).reshape(-1, 3)
    return make_mesh(world, faces, slot_names=(owner,), uv=uv, normals=normal @ axes, colour=colour, uv2=at)


def receivers(scene: Scene, plan: DecalPlan) -> list[str]:
    """The owners a decal may lie on."""
    return [owner for owner in scene.owners() if plan.reaches(owner)]


def _projected(scene: Scene, plan: DecalPlan) -> list[Any]:
    settings = plan.model_dump(exclude=PRESENTED | RESPONSE | {"picture", "tint", "order"})
    return [settings, [scene.mesh.ref(owner) for owner in receivers(scene, plan)]]


@derived(_projected, keep="not")
def decal_mesh(scene: Scene, plan: DecalPlan) -> Mesh | None:
    """The decal on everything that receives it."""
    return projected({owner: scene.mesh(owner) for owner in receivers(scene, plan)}, plan)


def projected(meshes: dict[str, Mesh], plan: DecalPlan) -> Mesh | None:
    """The decal on those of some meshes, by owner, that receive it."""
    parts = []
    for owner, mesh in meshes.items():
        part = project(mesh, plan, owner) if plan.reaches(owner) else None
        if part is not None:
            parts.append(part)
    if not parts:
        return None
    offsets = np.cumsum([0, *(len(p.positions) for p in parts[:-1])])
    return make_mesh(
        np.concatenate([p.positions for p in parts]),
        np.concatenate([p.faces + o for p, o in zip(parts, offsets, strict=True)]),
        slot_names=tuple(p.slot_names[0] for p in parts),
        slots=np.repeat(np.arange(len(parts)), [len(p.faces) for p in parts]),
        uv=np.concatenate([p.uv for p in parts]),
        normals=np.concatenate([p.normals for p in parts]),
        colour=np.concatenate([p.colour for p in parts if p.colour is not None]),
        uv2=np.concatenate([p.uv2 for p in parts if p.uv2 is not None]),
    )


STACK_LIFT = 0.0008
"""Metres by which each decal of a pile lies over the one beneath it, where no order of drawing keeps them apart."""


def lifted(mesh: Mesh, order: int) -> Mesh:
    """A decal's mesh as the one of number `order` in a pile."""
    return replace(mesh, positions=mesh.positions + mesh.normals * np.float32(STACK_LIFT * order))


def stacked(scene: Scene) -> list[tuple[str, DecalPlan]]:
    """The visible decals, lowest first."""
    items = [(plan.order, key, plan) for key, plan in scene.site.decals.items() if plan.visible]
    return [(key, plan) for _, key, plan in sorted(items, key=lambda f: f[:2])]
