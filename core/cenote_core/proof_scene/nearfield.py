"""Relief as geometry near the eye: what a surface's height channel says becomes its shape.

Within a few metres of a station a flat board with joints drawn on it is seen for what it is. There triangles are cut
until their edges are a few pixels long and moved along their normals by the height of the whole stack, base and
patinas. Shading keeps the normals of the shape and the slopes of the pictures, which are those of the same relief: so
nothing counts twice, and geometry fades into the picture with distance without a seam.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..base.kernels import parallel_kernel, prange
from ..graph.derived import derived
from ..mesh.mesh import Mesh
from ..mesh.refine import Refined, refine
from ..patinas.cover import owner_covers, stack
from ..patinas.pages import Page, page_refs
from ..plan import GROUND, StationPlan
from ..scene.scene import VIEW_LIMIT, Scene
from ..stations.camera import axes, field_of_view
from .detail import Detail
from .edges import chips_of, worn
from .near_stones import bare_heights, bodies_share, ground_materials, loose_bits, loose_of
from .pages import near_page
from .stacked import Spots, covers_there, stack_there

LEAST_RELIEF = 0.002
"""Metres of relief from which it is worth being geometry."""
_FINEST = 0.0012
"""No edge is cut shorter, metres: pictures of surfaces say nothing finer."""
_FADED = 0.6
"""From this share of the reach on relief sinks back into the picture."""
_COARSE = 2.2
"""A triangle whose edges are so many times too long was not looked at: it stays where it is."""
_TRIAL, _FILLED = 4.0, 0.6
"""How much coarser a trial is, and how much of the room that is foreseen from it may be filled."""
_COARSER, _COARSEST = 1.5, 0.1
"""Where that would be too many triangles, edges become longer by steps, up to so many radians."""
_BEYOND = 1.15
"""Relief reaches so many times as far as the frame does."""
_NEAREST = 0.25
"""Metres: what is nearer to the eye is cut no finer."""
_SLANTED = 0.1
"""Cosine from which a slant counts no further."""
_TURNED = -0.1
"""Cosine of how far a triangle may be turned away and still be cut."""


@dataclass(frozen=True)
class Look:
    """What is looked at, and how closely.

    Attributes
    ----------
    station : where the eye is
    aspect : width to height
    edge : radians an edge may be long
    reach : metres from the eye
    most : triangles at most
    page_side : texels along a side of covers that are worked out finer
    """

    station: StationPlan
    aspect: float
    edge: float
    reach: float
    most: int
    page_side: int = 0

    def settings(self) -> list[Any]:
        """What a mesh depends on, of all that."""
        pose = self.station.model_dump(include={"position", "target", "lens"})
        return [pose, self.aspect, self.edge, self.reach, self.most]

    def page(self, scene: Scene, owner: str) -> Page | None:
        """The part of an owner whose covers are worked out finer."""
        return near_page(scene, owner, self.station, self.reach, self.page_side)

    def longest(self, corners: np.ndarray) -> np.ndarray:
        """(F, 3, 3) triangles → (F,) longest edge each may have; without end where it is not looked at."""
        half = float(np.tan(np.radians(field_of_view(self.station.lens)) / 2))
        out = np.empty(len(corners))
        _longest(np.ascontiguousarray(corners), *axes(self.station), half, self.aspect, self.reach, self.edge, out)
        return out


@parallel_kernel
def _longest(
    corners: np.ndarray,
    eye: np.ndarray,
    right: np.ndarray,
    up: np.ndarray,
    forward: np.ndarray,
    half: float,
    aspect: float,
    reach: float,
    edge: float,
    out: np.ndarray,
) -> None:
    for n in prange(len(corners)):
        out[n] = np.inf
        a, b, c = corners[n, 0], corners[n, 1], corners[n, 2]
        centre = (a + b + c) / 3.0
        radius = np.sqrt(max(np.sum((a - centre) ** 2), np.sum((b - centre) ** 2), np.sum((c - centre) ** 2)))
        delta = centre - eye
        away = np.sqrt(np.sum(delta**2))
        if away - radius >= reach:
            continue
        # As `stations.camera.in_view` has it, and a little beyond the frame, where relief sinks back all at once.
        depth, margin = np.sum(delta * forward), radius * np.sqrt(1.0 + half * half)
        wide = max(depth, 0.0) * half * _BEYOND
        seen = depth > -radius and abs(np.sum(delta * right)) <= wide + margin
        if not seen or abs(np.sum(delta * up)) > wide / aspect + margin:
            continue
        across = np.cross(b - a, c - a)
        facing = -np.sum(across * delta) / max(np.sqrt(np.sum(across**2)) * away, 1e-12)
        # What faces away is cut only as far as its relief could still be seen round an edge.
        if facing > _TURNED:
            # As many triangles a pixel where a surface is seen at a slant as where it faces the eye.
            out[n] = max(max(away - radius, _NEAREST) * edge / np.sqrt(max(facing, _SLANTED)), _FINEST)


def look_of(station: StationPlan, size: tuple[int, int], detail: Detail) -> Look:
    """How closely a proof of a size in pixels looks."""
    pixel = 2 * float(np.tan(np.radians(field_of_view(station.lens)) / 2)) / size[0]
    return Look(
        station,
        size[0] / size[1],
        detail.relief_edge * pixel,
        detail.relief_reach,
        detail.relief_most,
        detail.page_side,
    )


def relief_of(scene: Scene, owner: str) -> float:
    """Metres of relief the surfaces of an owner have at most, patinas included."""
    depths = [scene.material(s.material).depth for s in scene.surfaces_of(owner)]
    for _, plan in stack(scene, owner):
        finish = plan.finish
        depths.append(scene.material(finish.material).depth * finish.relief + finish.thickness / 1000)
    return max([*depths, *(chips_of(scene, owner) if owner != GROUND else [])], default=0.0)


def _shaped(scene: Scene, owner: str, look: Look) -> list[Any]:
    finishes = [(plan.finish, scene.material_ref(plan.finish.material)) for _, plan in stack(scene, owner)]
    materials = [(s.slot, scene.material_ref(s.material)) for s in scene.surfaces_of(owner)]
    loose: list[Any] = []
    if owner == GROUND:
        loose = [(m, loose_bits.ref(scene, m)) for m, _ in ground_materials(scene) if loose_of(m)]
    page = look.page(scene, owner)
    fine = page_refs(scene, owner, page) if page else []
    covers = owner_covers.ref(scene, owner, VIEW_LIMIT)
    return [scene.mesh.ref(owner), covers, fine, finishes, materials, loose, look.settings(), page and page.settings()]


@derived(_shaped)
def shaped_mesh(scene: Scene, owner: str, look: Look) -> Mesh:
    """An owner's mesh with its relief as geometry where it is looked at closely; as it is where it is not."""
    mesh = scene.mesh(owner)
    # Leaves are too thin to have a relief that stands out of them.
    leaves = any(scene.is_cut_out(s.material) for s in scene.surfaces_of(owner))
    if leaves or relief_of(scene, owner) < LEAST_RELIEF:
        return mesh
    parts = [mesh.positions, mesh.normals, mesh.uv, mesh.uv2, mesh.uv if mesh.base_uv is None else mesh.base_uv]
    more = [name for name in ("colour", "sway") if getattr(mesh, name) is not None]
    parts += [getattr(mesh, name) for name in more]
    values = np.concatenate([np.asarray(part, np.float64) for part in parts], axis=1)
    look = _affordable(values, mesh.faces, look)
    finer = refine(values, mesh.faces, look.longest, look.most)
    while not finer.whole and look.edge < _COARSEST:
        # Cut evenly coarser rather than finely in some places and not in others, which would look torn.
        look = replace(look, edge=look.edge * _COARSER)
        finer = refine(values, mesh.faces, look.longest, look.most)
    share = _share(finer, look)
    if not share.any():
        return mesh
    slots = mesh.slots[finer.source]
    height = _heights(scene, owner, look, finer, slots) * share
    positions = _moved(finer, height)
    normals = finer.values[:, 3:6]
    normals = normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    single = lambda columns: np.ascontiguousarray(finer.values[:, columns], np.float32)  # noqa: E731
    carried: dict[str, Any] = {name: single(slice(12 + 4 * k, 16 + 4 * k)) for k, name in enumerate(more)}
    return replace(
        mesh,
        positions=positions.astype(np.float32),
        faces=finer.faces.astype(np.int32),
        normals=normals.astype(np.float32),
        uv=single(slice(6, 8)),
        uv2=single(slice(8, 10)),
        base_uv=None if mesh.base_uv is None else single(slice(10, 12)),
        slots=slots,
        **carried,
    )


def _affordable(values: np.ndarray, faces: np.ndarray, look: Look) -> Look:
    """The look with edges as long as the triangles there may be ask for, told from a coarse trial."""
    trial = refine(values, faces, replace(look, edge=look.edge * _TRIAL).longest, look.most)
    expected = (len(trial.faces) - len(faces)) * _TRIAL**2 / (_FILLED * max(look.most - len(faces), 1))
    return replace(look, edge=look.edge * float(np.sqrt(max(expected, 1.0))))


def shaped_meshes(scene: Scene, look: Look) -> dict[str, Mesh]:
    """Every owner's mesh as a proof draws it; those nearest the eye come first to the triangles there may be."""
    eye = axes(look.station)[0]
    bounds = {owner: scene.mesh(owner).bounds() for owner in scene.owners()}
    away = {
        o: float(np.linalg.norm(np.maximum(np.maximum(low - eye, eye - high), 0))) for o, (low, high) in bounds.items()
    }
    out, left = {}, look.most
    for owner in sorted(away, key=lambda o: (away[o], o)):
        mesh = scene.mesh(owner)
        if away[owner] < look.reach and left > 0:
            # Ground lies everywhere, and most of it under what grows on it.
            room = min(left, look.most // 3) if owner == GROUND else left
            mesh = shaped_mesh(scene, owner, replace(look, most=len(mesh.faces) + room))
            left -= len(mesh.faces) - len(scene.mesh(owner).faces)
        out[owner] = mesh
    return {owner: out[owner] for owner in scene.owners()}


def _heights(scene: Scene, owner: str, look: Look, finer: Refined, slots: np.ndarray) -> np.ndarray:
    """(V,) metres the whole stack stands above the shape."""
    slot_of = np.zeros(len(finer.values), np.int32)
    slot_of[finer.faces] = slots[:, None]
    uv, uv2, base_uv = (np.ascontiguousarray(finer.values[:, k : k + 2], np.float32) for k in (6, 8, 10))
    spots = Spots(finer.values[:, :3], uv, uv2, base_uv, slot_of)
    covers = covers_there(scene, owner, look.page(scene, owner), uv2)
    stacked = lambda *bare: stack_there(scene, owner, spots, covers, *bare)[0].astype(float)  # noqa: E731
    height = stacked()
    bare = bare_heights(scene) if owner == GROUND else {}
    share = bodies_share(np.linalg.norm(finer.values[:, :3] - axes(look.station)[0], axis=1), look.reach)
    if bare and share.any():
        # Where loose stones are bodies, the relief is that of what they lie on.
        height += (stacked(bare) - height) * share
    return height - worn(scene, owner, finer.values[:, :3], slot_of)


def _share(finer: Refined, look: Look) -> np.ndarray:
    """(V,) how far relief is geometry: none where triangles stayed coarse, and less with distance."""
    corners = finer.values[finer.faces, :3]
    longest = np.linalg.norm(corners - corners[:, [1, 2, 0]], axis=2).max(axis=1)
    wanted = look.longest(corners)
    coarse = (longest > _COARSE * wanted) | np.isinf(wanted)
    loose = np.zeros(int(finer.welded.max()) + 1, bool)
    loose[finer.welded[finer.faces[coarse]]] = True
    distance = np.linalg.norm(finer.values[:, :3] - axes(look.station)[0], axis=1)
    t = np.clip((look.reach - distance) / (look.reach * (1 - _FADED)), 0, 1)
    return np.where(loose[finer.welded], 0.0, t * t * (3 - 2 * t))


def _moved(finer: Refined, height: np.ndarray) -> np.ndarray:
    """(V, 3) places after every one has moved along its normal; vertices at one place stay together."""
    count = np.bincount(finer.welded)
    mean = lambda column: (np.bincount(finer.welded, column) / np.maximum(count, 1))[finer.welded]  # noqa: E731
    along = np.stack([mean(finer.values[:, 3 + k]) for k in range(3)], axis=1)
    length = np.linalg.norm(along, axis=1, keepdims=True)
    # Where several sides meet the common direction is shorter: the sides keep their height each.
    along = along / np.maximum(length, 0.6) / np.maximum(length, 1e-9) * np.minimum(length / 1e-6, 1.0)
    return np.asarray(finer.values[:, :3] + along * mean(height)[:, None])
