"""Indexed triangle meshes, and the few operations everything else is made from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from ..base.kernels import parallel_kernel, prange

PER_VERTEX = ("positions", "normals", "uv", "colour", "uv2", "base_uv", "sway")
"""What a mesh may carry at its vertices: all of them are as long as there are vertices."""


@dataclass(frozen=True)
class Mesh:
    """Triangles with what is needed to measure, unwrap and draw them.

    Attributes
    ----------
    positions : (V, 3) float32, metres
    faces : (F, 3) int32
    normals : (V, 3) float32, unit length
    uv : (V, 2) float32
        Coordinates materials and patinas are laid in. In metres where `own_uv` is False (box mapping), else 0..1.
    base_uv : (V, 2) float32 or None
        Coordinates of the base material's own pictures, where they differ from `uv` (imported models).
    slots : (F,) int32
        Material slot of each face, an index into `slot_names`.
    colour : (V, 4) float32 or None
        Vertex colour, linear; the fourth value carries the alpha of a decal.
    uv2 : (V, 2) float32 or None
        Unwrapped coordinates, 0..1, no overlaps.
    sway : (V, 4) float32 or None
        How far stem, branch and leaf move there in the wind, each 0..1, and the phase of the branch, 0..1.
    """

    positions: np.ndarray
    faces: np.ndarray
    normals: np.ndarray
    uv: np.ndarray
    slots: np.ndarray
    slot_names: tuple[str, ...] = ("body",)
    own_uv: bool = False
    colour: np.ndarray | None = None
    uv2: np.ndarray | None = None
    base_uv: np.ndarray | None = None
    sway: np.ndarray | None = None

    def __post_init__(self) -> None:
        for name in PER_VERTEX:
            values = getattr(self, name)
            if values is not None and len(values) != len(self.positions):
                raise ValueError(f"mesh: {len(values)} {name} for {len(self.positions)} vertices")
        if len(self.slots) != len(self.faces):
            raise ValueError(f"mesh: {len(self.slots)} slots for {len(self.faces)} faces")

    @property
    def triangle_count(self) -> int:
        return len(self.faces)

    def with_vertices(
        self, source: np.ndarray, faces: np.ndarray, slots: np.ndarray | None = None, **instead: Any
    ) -> Mesh:
        """The mesh over other vertices: each is the one of number `source`, (W,), with all it carries.

        `faces` (G, 3) count the new ones, `slots` (G,) belong to them; none: as they were. `instead`: arrays in place of
        those that are carried along.
        """
        carried = {name: None if (values := getattr(self, name)) is None else values[source] for name in PER_VERTEX}
        faces = np.ascontiguousarray(faces, self.faces.dtype).reshape(-1, 3)
        return replace(self, **{**carried, **instead}, faces=faces, slots=self.slots if slots is None else slots)

    def bounds(self) -> tuple[np.ndarray, np.ndarray]:
        """Least and greatest corner, metres."""
        return self._bounds

    @cached_property
    def _bounds(self) -> tuple[np.ndarray, np.ndarray]:
        if len(self.positions) == 0:
            return np.zeros(3, np.float32), np.zeros(3, np.float32)
        return self.positions.min(axis=0), self.positions.max(axis=0)

    def area(self) -> float:
        """Of all faces, square metres."""
        return self._area

    @cached_property
    def _area(self) -> float:
        return float(self.face_areas().sum())

    def face_areas(self) -> np.ndarray:
        """(F,) float64, square metres."""
        return face_areas(self.positions, self.faces)

    def face_normals(self) -> np.ndarray:
        """(F, 3) float32, unit length, zero for faces without area."""
        return face_normals(self.positions, self.faces)

    def mirrored(self) -> Mesh:
        """As in a mirror: x becomes −x, and faces still look outward."""
        over = np.array([-1, 1, 1], np.float32)
        positions, normals = self.positions * over, self.normals * over
        return replace(self, positions=positions, normals=normals, faces=np.ascontiguousarray(self.faces[:, ::-1]))

    def darkened(self, shade: np.ndarray) -> Mesh:
        """With the colours of its vertices times (V,) shares; white where it had none."""
        colour = np.ones((len(self.positions), 4), np.float32) if self.colour is None else self.colour.copy()
        colour[:, :3] *= shade[:, None]
        return replace(self, colour=colour)


def _edges(positions: np.ndarray, faces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    corner = positions[faces].astype(np.float64)
    return corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]


def face_areas(positions: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """(F,) float64 areas of triangles, square metres."""
    return _areas(positions, faces)


@parallel_kernel
def _areas(positions: np.ndarray, faces: np.ndarray) -> np.ndarray:
    out = np.empty(len(faces), np.float64)
    for f in prange(len(faces)):
        a, b, c = positions[faces[f, 0]], positions[faces[f, 1]], positions[faces[f, 2]]
        ux, uy, uz = np.float64(b[0]) - a[0], np.float64(b[1]) - a[1], np.float64(b[2]) - a[2]
        vx, vy, vz = np.float64(c[0]) - a[0], np.float64(c[1]) - a[1], np.float64(c[2]) - a[2]
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        out[f] = 0.5 * np.sqrt(x * x + y * y + z * z)
    return out


def face_normals(positions: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """(F, 3) float32 unit normals; zero for faces without area."""
    cross = np.cross(*_edges(positions, faces))
    length = np.linalg.norm(cross, axis=1, keepdims=True)
    return np.divide(cross, length, out=np.zeros_like(cross), where=length > 1e-20).astype(np.float32)


def vertex_normals(positions: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """(V, 3) float32 normals, area-weighted mean of the faces around each vertex."""
    cross = np.cross(*_edges(positions, faces))
    total = np.zeros((len(positions), 3))
    for axis in range(3):
        weights = np.repeat(cross[:, axis], 3)
        total[:, axis] = np.bincount(faces.ravel(), weights=weights, minlength=len(positions))
    length = np.linalg.norm(total, axis=1, keepdims=True)
    total = np.where(length > 1e-20, total / np.maximum(length, 1e-20), [0.0, 1.0, 0.0])
    return total.astype(np.float32)


def grid_normals(y: np.ndarray, dx: float, dz: float) -> np.ndarray:
    """(R · C, 3) float32 normals of heights on a grid by central differences; rows along z, columns along x."""
    out = np.empty((y.size, 3), np.float32)
    _grid_normals(np.asarray(y, np.float64), dx, dz, out)
    return out


@parallel_kernel
def _grid_normals(y: np.ndarray, dx: float, dz: float, out: np.ndarray) -> None:
    rows, columns = y.shape
    for row in prange(rows):
        # At the border the difference is that to the only neighbour.
        up, down = max(row - 1, 0), min(row + 1, rows - 1)
        for column in range(columns):
            left, right = max(column - 1, 0), min(column + 1, columns - 1)
            slope_x = (y[row, right] - y[row, left]) / ((right - left) * dx)
            slope_z = (y[down, column] - y[up, column]) / ((down - up) * dz)
            length = np.sqrt(slope_x * slope_x + 1.0 + slope_z * slope_z)
            n = row * columns + column
            out[n, 0], out[n, 1], out[n, 2] = -slope_x / length, 1.0 / length, -slope_z / length


def make_mesh(
    positions: np.ndarray,
    faces: np.ndarray,
    slots: np.ndarray | None = None,
    slot_names: Sequence[str] = ("body",),
    uv: np.ndarray | None = None,
    normals: np.ndarray | None = None,
    colour: np.ndarray | None = None,
    uv2: np.ndarray | None = None,
) -> Mesh:
    """A mesh from whatever is known; what is not given is computed."""
    positions = np.ascontiguousarray(positions, np.float32)
    faces = np.ascontiguousarray(faces, np.int32).reshape(-1, 3)
    return Mesh(
        positions=positions,
        faces=faces,
        normals=vertex_normals(positions, faces) if normals is None else np.ascontiguousarray(normals, np.float32),
        uv=np.zeros((len(positions), 2), np.float32) if uv is None else np.ascontiguousarray(uv, np.float32),
        slots=np.zeros(len(faces), np.int32) if slots is None else np.ascontiguousarray(slots, np.int32),
        slot_names=tuple(slot_names),
        own_uv=uv is not None,
        colour=None if colour is None else np.ascontiguousarray(colour, np.float32),
        uv2=None if uv2 is None else np.ascontiguousarray(uv2, np.float32),
    )


def merge(meshes: Sequence[Mesh]) -> Mesh:
    """One mesh out of several; slots of the same name become one."""
    names: list[str] = []
    slots = []
    offset = 0
    faces = []
    for mesh in meshes:
        lookup = []
        for name in mesh.slot_names:
            if name not in names:
                names.append(name)
            lookup.append(names.index(name))
        slots.append(np.asarray(lookup, np.int32)[mesh.slots])
        faces.append(mesh.faces + offset)
        offset += len(mesh.positions)

    def joined(name: str, width: int, fill: float) -> np.ndarray | None:
        parts = [getattr(m, name) for m in meshes]
        if all(part is None for part in parts):
            return None
        blank = [np.full((len(m.positions), width), fill, np.float32) for m in meshes]
        return np.concatenate([b if p is None else p for p, b in zip(parts, blank, strict=True)])

    return Mesh(
        positions=np.concatenate([m.positions for m in meshes]),
        faces=np.concatenate(faces).astype(np.int32),
        normals=np.concatenate([m.normals for m in meshes]),
        uv=np.concatenate([m.uv for m in meshes]),
        slots=np.concatenate(slots),
        slot_names=tuple(names),
        own_uv=any(m.own_uv for m in meshes),
        colour=joined("colour", 4, 1.0),
        base_uv=joined("base_uv", 2, 0.0),
        sway=joined("sway", 4, 0.0),
    )


def transformed(mesh: Mesh, matrix: np.ndarray) -> Mesh:
    """The mesh under a 4 × 4 matrix (column vectors). Normals go by the inverse transpose."""
    linear = matrix[:3, :3].astype(np.float64)
    positions = mesh.positions @ linear.T + matrix[:3, 3]
    normals = mesh.normals @ np.linalg.inv(linear)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    faces = mesh.faces[:, ::-1] if np.linalg.det(linear) < 0 else mesh.faces
    return replace(
        mesh,
        positions=positions.astype(np.float32),
        normals=normals.astype(np.float32),
        faces=np.ascontiguousarray(faces),
    )


def euler_matrix(turn: float, tilt: float = 0.0, roll: float = 0.0) -> np.ndarray:
    """(3, 3) rotation: roll about z, then tilt about x, then turn about y. Degrees."""
    y, x, z = np.radians([turn, tilt, roll])
    ry = np.array([[np.cos(y), 0, np.sin(y)], [0, 1, 0], [-np.sin(y), 0, np.cos(y)]])
    rx = np.array([[1, 0, 0], [0, np.cos(x), -np.sin(x)], [0, np.sin(x), np.cos(x)]])
    rz = np.array([[np.cos(z), -np.sin(z), 0], [np.sin(z), np.cos(z), 0], [0, 0, 1]])
    return np.asarray(ry @ rx @ rz)


def with_box_uv(mesh: Mesh, crease_degrees: float = 40.0) -> Mesh:
    """The mesh with box-mapped `uv` in metres: each face is projected along its dominant axis.

    Vertices on the border between two directions are split, and creases sharper than `crease_degrees` get
    separate normals, so structures keep hard edges.
    """
    face_normal = mesh.face_normals()
    axis = np.abs(face_normal).argmax(axis=1)
    sign = (np.take_along_axis(face_normal, axis[:, None], 1)[:, 0] < 0).astype(np.int64)
    corners = mesh.faces.ravel()
    corner_axis = np.repeat(axis, 3)
    corner_sign = np.repeat(sign, 3)
    smooth = mesh.normals[corners]
    flat = np.repeat(face_normal, 3, axis=0)
    hard = np.einsum("ij,ij->i", smooth, flat) < np.cos(np.radians(crease_degrees))
    normal = np.where(hard[:, None], flat, smooth)
    key = np.column_stack([corners, corner_axis * 2 + corner_sign, np.round(normal * 512).astype(np.int64)])
    _, first, inverse = np.unique(key, axis=0, return_index=True, return_inverse=True)
    where = corners[first]
    p = mesh.positions[where]
    a, s = corner_axis[first], corner_sign[first]
    flip = np.where(s == 1, -1.0, 1.0)
    u = np.select([a == 0, a == 1, a == 2], [-p[:, 2] * flip, p[:, 0], p[:, 0] * flip])
    v = np.select([a == 0, a == 1, a == 2], [p[:, 1], -p[:, 2] * flip, p[:, 1]])
    return mesh.with_vertices(
        where,
        inverse.reshape(-1, 3),
        normals=normal[first].astype(np.float32),
        uv=np.column_stack([u, v]).astype(np.float32),
        own_uv=False,
    )


def cleaned(mesh: Mesh) -> Mesh:
    """Without faces that cannot be used: bad indices, repeated corners, no area, not-a-number corners, twins."""
    faces = mesh.faces
    keep = np.all((faces >= 0) & (faces < len(mesh.positions)), axis=1)
    finite = np.isfinite(mesh.positions).all(axis=1)
    safe = np.where(keep[:, None], faces, 0)
    keep &= finite[safe].all(axis=1)
    index = np.flatnonzero(keep)
    area = face_areas(np.where(finite[:, None], mesh.positions, 0), faces[index])
    index = index[area > 1e-14]
    _, first = np.unique(np.sort(faces[index], axis=1), axis=0, return_index=True)
    index = index[np.sort(first)]
    used, inverse = np.unique(faces[index].ravel(), return_inverse=True)
    return mesh.with_vertices(used, inverse, mesh.slots[index])


@dataclass(frozen=True)
class Points:
    """Points on the surfaces of one owner, with what measures need to know about them.

    Attributes
    ----------
    positions, normals : (N, 3) float32
    uv2 : (N, 2) float32
    slots : (N,) int32
    areas : (N,) float32, the share of surface each point stands for, square metres
    """

    positions: np.ndarray
    normals: np.ndarray
    uv2: np.ndarray
    slots: np.ndarray
    areas: np.ndarray = field(default_factory=lambda: np.zeros(0, np.float32))

    def __len__(self) -> int:
        return len(self.positions)


def part(mesh: Mesh, on: np.ndarray) -> Mesh:
    """The faces of a mesh that are `on`, (F,) bool, with the vertices they need."""
    used, faces = np.unique(mesh.faces[on], return_inverse=True)
    return mesh.with_vertices(used, faces, mesh.slots[on])


def points_on(mesh: Mesh, face: np.ndarray, bary: np.ndarray) -> Points:
    """Points of a mesh by face and barycentric weights of its second and third corner, (N, 2)."""
    bary = np.ascontiguousarray(bary, np.float32)
    normal = _blended(mesh.normals, mesh.faces, face, bary)
    _to_unit_length(normal)
    uv2 = _blended(mesh.uv2, mesh.faces, face, bary) if mesh.uv2 is not None else np.zeros((len(face), 2), np.float32)
    positions = _blended(mesh.positions, mesh.faces, face, bary)
    return Points(positions, normal, uv2, mesh.slots[face], np.ones(len(face), np.float32))


@parallel_kernel
def _blended(values: np.ndarray, faces: np.ndarray, face: np.ndarray, bary: np.ndarray) -> np.ndarray:
    """(N, C) float32 values of corners, weighted by where on its face each point lies."""
    out = np.empty((len(face), values.shape[1]), np.float32)
    for n in prange(len(face)):
        a, b, c = faces[face[n], 0], faces[face[n], 1], faces[face[n], 2]
        v, w = bary[n, 0], bary[n, 1]
        for k in range(values.shape[1]):
            out[n, k] = (np.float32(1.0) - v - w) * values[a, k] + v * values[b, k] + w * values[c, k]
    return out


@parallel_kernel
def _to_unit_length(vectors: np.ndarray) -> None:
    for n in prange(len(vectors)):
        x, y, z = vectors[n, 0], vectors[n, 1], vectors[n, 2]
        length = max(np.sqrt(x * x + y * y + z * z), 1e-12)
        vectors[n, 0], vectors[n, 1], vectors[n, 2] = x / length, y / length, z / length
