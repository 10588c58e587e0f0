"""Covers finer than an owner's own where it is looked at closely: a page is a window of its unwrap.

What is far off makes do with the covers of the whole owner; a page of a few metres before the eye has texels of a
centimetre, so that edges, strips along feet and what lies in joints are as sharp there as they are wide.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..graph.derived import derived
from ..mesh.mesh import Mesh, Points
from ..mesh.texels import TexelTable, texel_table
from ..plan import PatinaPlan
from ..scene.scene import Scene
from .cover import cover_at, cover_needs, stack


@dataclass(frozen=True)
class Page:
    """A window of an unwrap: its corners, 0..1, and how many texels it has along a side."""

    low: tuple[float, float]
    high: tuple[float, float]
    side: int

    @property
    def whole(self) -> bool:
        """Is it all of the unwrap?"""
        return self.low == (0.0, 0.0) and self.high == (1.0, 1.0)

    def settings(self) -> list[Any]:
        """What derived values hang on, of a page."""
        return [list(self.low), list(self.high), self.side]

    def local(self, uv2: np.ndarray) -> np.ndarray:
        """(N, 2) coordinates of the unwrap → of the page."""
        low, high = np.array(self.low), np.array(self.high)
        return np.asarray((uv2 - low) / (high - low), np.float32)

    def holds(self, uv2: np.ndarray) -> np.ndarray:
        """(N,) bool: which coordinates of the unwrap lie in it."""
        return np.asarray(((uv2 >= np.array(self.low)) & (uv2 <= np.array(self.high))).all(axis=1))


def _meets(page: Page, mesh: Mesh) -> np.ndarray:
    """(F,) bool: whose corners' box overlaps the page."""
    assert mesh.uv2 is not None
    corners = mesh.uv2[mesh.faces]
    return np.asarray(
        ((corners.max(axis=1) >= np.array(page.low)) & (corners.min(axis=1) <= np.array(page.high))).all(axis=1)
    )


@derived(lambda scene, owner, page: [scene.mesh.ref(owner), page.settings()])
def page_table(scene: Scene, owner: str, page: Page) -> TexelTable:
    """The texels of a page; its points know where they lie in the whole unwrap."""
    mesh = scene.mesh(owner)
    assert mesh.uv2 is not None
    if page.whole:
        return texel_table(mesh, page.side)
    on = _meets(page, mesh)
    table = texel_table(replace(mesh, faces=mesh.faces[on], slots=mesh.slots[on], uv2=page.local(mesh.uv2)), page.side)
    low, high = np.array(page.low, np.float32), np.array(page.high, np.float32)
    at = table.points
    points = Points(at.positions, at.normals, low + at.uv2 * (high - low), at.slots, at.areas)
    return replace(table, points=points)


def _needs(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, page: Page) -> list[Any]:
    return [page_table.ref(scene, owner, page), *cover_needs(scene, owner, patina_id, plan)]


@derived(_needs, keep="disk")
def page_cover(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, page: Page) -> np.ndarray:
    """(R, R) float32 cover of one patina on a page, row 0 at its lowest v, gaps filled."""
    table = page_table(scene, owner, page)
    return table.spread(cover_at(scene, patina_id, plan, owner, table.points))


def page_refs(scene: Scene, owner: str, page: Page) -> list[Any]:
    """What a page's covers hang on."""
    return [page_cover.ref(scene, key, plan, owner, page) for key, plan in stack(scene, owner)]


def page_covers(scene: Scene, owner: str, page: Page) -> np.ndarray:
    """(P, R, R) float32 covers of all patinas on a page, lowest first."""
    maps = [page_cover(scene, key, plan, owner, page) for key, plan in stack(scene, owner)]
    return np.stack(maps) if maps else np.zeros((0, page.side, page.side), np.float32)
