"""Water on a site: the texels of everything that stands as one field that water runs over."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..graph.derived import derived
from ..measures.flow import Flow, Nodes, line_load, passed, route
from ..measures.rain import rain
from ..mesh.rays import Met
from ..mesh.texels import TexelTable
from ..plan import GROUND
from .laid import cover_ref
from .scene import Scene

_TEXEL = 0.02
"""Metres a texel of what water runs over."""
_LIMIT, _GROUND_LIMIT = 512, 256
"""Texels along a side at most; water is only caught by the ground, whose own rills are not followed."""


def _side(scene: Scene, owner: str) -> int:
    return scene.resolution(owner, _GROUND_LIMIT if owner == GROUND else _LIMIT, _TEXEL)


def _all_tables(scene: Scene) -> list[Any]:
    return [(owner, scene.mesh.ref(owner), scene.table.ref(owner, _side(scene, owner))) for owner in scene.owners()]


@derived(_all_tables)
def nodes(scene: Scene) -> Nodes:
    """The texels of all owners, one after the other in their order."""
    owners = scene.owners()
    points = [scene.table(owner, _side(scene, owner)).points for owner in owners]
    outward, out = zip(*(_draining(scene, o, p.positions) for o, p in zip(owners, points, strict=True)), strict=True)
    joined = lambda name: np.concatenate([getattr(p, name) for p in points])  # noqa: E731
    return Nodes(joined("positions"), joined("normals"), joined("areas"), np.concatenate(outward), np.concatenate(out))


def _draining(scene: Scene, owner: str, positions: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Which way level tops drain, (N, 3), and how far from the middle: across the shorter side of the owner's box."""
    low, high = scene.mesh(owner).bounds()
    axis = 0 if high[0] - low[0] < high[2] - low[2] else 2
    off = positions[:, axis] - (low + high)[axis] / 2
    outward = np.zeros((len(positions), 3), np.float32)
    outward[:, axis] = np.where(off < 0, -1, 1)
    return outward, np.abs(off).astype(np.float32)


@derived(lambda scene: [nodes.ref(scene), _all_tables(scene)])
def flow(scene: Scene) -> Flow:
    """Where water runs on the site."""
    owners = scene.owners()
    tables = [scene.table(owner, _side(scene, owner)) for owner in owners]
    first_node = np.cumsum([0, *(len(t.index) for t in tables)])
    meshes = [scene.mesh(owner) for owner in owners]
    first_face = np.cumsum([0, *(len(m.faces) for m in meshes)])

    def targets(met: Met) -> tuple[np.ndarray, np.ndarray]:
        target, share = np.full((len(met.hit), 4), -1, np.int64), np.zeros((len(met.hit), 4))
        of = np.searchsorted(first_face, met.face, side="right") - 1
        for k, (table, mesh) in enumerate(zip(tables, meshes, strict=True)):
            on = np.flatnonzero(met.hit & (of == k))
            if len(on):
                corners = mesh.faces[met.face[on] - first_face[k]]
                w = np.column_stack([1 - met.bary[on].sum(axis=1), met.bary[on]])
                assert mesh.uv2 is not None
                at = np.einsum("nk,nkc->nc", w, mesh.uv2[corners]) * table.resolution - 0.5
                texels, share[on] = _beside(at, table.resolution)
                target[on] = first_node[k] + table.nearest[texels]
        return target, share

    return route(scene.standing(), nodes(scene), targets)


def _beside(at: np.ndarray, side: int) -> tuple[np.ndarray, np.ndarray]:
    """(N, 4) flat numbers of the texels round places in texels, and their bilinear shares."""
    at = np.clip(at, 0, side - 1.001)
    corner, f = np.floor(at).astype(np.int64), at - np.floor(at)
    steps = ((0, 0), (1, 0), (0, 1), (1, 1))
    flat = np.stack([(corner[:, 1] + j) * side + corner[:, 0] + i for i, j in steps], axis=1)
    share = np.stack([np.abs(1 - i - f[:, 0]) * np.abs(1 - j - f[:, 1]) for i, j in steps], axis=1)
    return flat, share


@derived(lambda scene, wind_from, wind: [nodes.ref(scene), _all_tables(scene), wind_from, wind])
def caught(scene: Scene, wind_from: float, wind: float) -> np.ndarray:
    """(N,) m² of open level ground whose rain lands on each texel; the ground's own is left out."""
    at = nodes(scene)
    out = np.zeros(len(at.areas))
    ground = len(scene.table(GROUND, _side(scene, GROUND)).index)
    found = rain(scene.standing(), at.positions[ground:], at.normals[ground:], wind_from, wind, 0.0)
    out[ground:] = at.areas[ground:] * found
    return out


Names = tuple[str, ...]


def _needs(scene: Scene, wind_from: float, wind: float, pieces: Names, patinas: Names, dry: float) -> list[Any]:
    laid = [cover for key in patinas for cover in _covers(scene, key)]
    return [flow.ref(scene), caught.ref(scene, wind_from, wind), pieces, laid, dry]


def _covers(scene: Scene, patina_id: str) -> list[tuple[str, Any]]:
    """Owners that carry a patina, each with its cover on the texels water runs over."""
    found = ((owner, cover_ref(scene, patina_id, owner, _side(scene, owner))) for owner in scene.owners())
    return [(owner, cover) for owner, cover in found if cover]


@derived(_needs, keep="disk")
def run(scene: Scene, wind_from: float, wind: float, pieces: Names, patinas: Names, dry: float) -> np.ndarray:
    """(N,) float32 metres of rained-on surface that drain over each texel, by its width.

    Of water that has landed on some pieces, or washed some patinas, as far as they cover where it landed; none: of all.
    """
    sources = np.array(caught(scene, wind_from, wind))
    if pieces:
        sources[~_of_owners(scene, pieces)] = 0.0
    if patinas:
        sources *= _washed(scene, patinas)
    return line_load(flow(scene), nodes(scene), passed(flow(scene), sources, dry))


def _washed(scene: Scene, patinas: Names) -> np.ndarray:
    """(N,) 0..1 how far any of some patinas lies on each texel."""
    bare = {o: np.ones(len(scene.table(o, _side(scene, o)).index)) for o in scene.owners()}
    for key in patinas:
        for owner, cover in _covers(scene, key):
            bare[owner] = bare[owner] * (1 - np.clip(cover.value(), 0, 1))
    return np.asarray(1 - np.concatenate([bare[owner] for owner in scene.owners()]))


def _of_owners(scene: Scene, named: Names) -> np.ndarray:
    """(N,) bool: is the texel one of these owners'?"""
    return np.concatenate([np.full(len(scene.table(o, _side(scene, o)).index), o in named) for o in scene.owners()])


def texels_of(scene: Scene, owner: str) -> tuple[TexelTable, slice]:
    """An owner's texels that water runs over, and where they stand among those of all."""
    start = 0
    for other in scene.owners():
        table = scene.table(other, _side(scene, other))
        if other == owner:
            return table, slice(start, start + len(table.index))
        start += len(table.index)
    raise KeyError(owner)


def runoff_map(
    scene: Scene, owner: str, wind_from: float, wind: float, pieces: Names, patinas: Names, dry: float
) -> np.ndarray:
    """(R, R) float32 metres of rained-on surface that drain over a metre's width, on an owner's unwrap."""
    table, own = texels_of(scene, owner)
    return table.spread(run(scene, wind_from, wind, pieces, patinas, dry)[own])
