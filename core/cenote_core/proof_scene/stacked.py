"""The stack of patinas at vertices and other points of an owner: their covers there, and what they come to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..mesh.texels import sample_map
from ..patinas.cover import saved_covers, stack
from ..patinas.heights import stack_heights
from ..patinas.pages import Page, page_covers
from ..patinas.triplanar import ground_triplanar
from ..plan import GROUND, PatinaPlan
from ..scene.scene import Scene


@dataclass(frozen=True)
class Spots:
    """Points of an owner, with their coordinates in its pictures.

    Attributes
    ----------
    positions : (N, 3) metres
    uv, uv2, base_uv : (N, 2) float32: metres along the surface, in the unwrap, and of the base's own picture
    slots : (N,) int32
    """

    positions: np.ndarray
    uv: np.ndarray
    uv2: np.ndarray
    base_uv: np.ndarray
    slots: np.ndarray


def covers_there(scene: Scene, owner: str, page: Page | None, uv2: np.ndarray) -> list[tuple[PatinaPlan, np.ndarray]]:
    """Patinas of an owner, lowest first, and the cover of each at points of the unwrap; finer ones where a page has them."""
    found = [np.ascontiguousarray(sample_map(one, uv2), np.float32) for one in saved_covers(scene, owner)]
    if page:
        on = page.holds(uv2)
        for values, fine in zip(found, page_covers(scene, owner, page), strict=True):
            values[on] = sample_map(fine, page.local(uv2[on]))
    return [(plan, values) for (_, plan), values in zip(stack(scene, owner), found, strict=True)]


def stack_there(
    scene: Scene,
    owner: str,
    spots: Spots,
    covers: list[tuple[PatinaPlan, np.ndarray]],
    bare: dict[str, np.ndarray] | None = None,
) -> tuple[np.ndarray, list[np.ndarray]]:
    """(N,) metres the stack stands above the shape, and how far each patina shows there; see `stack_heights`."""
    sides = ground_triplanar(scene, spots.positions[:, [0, 2]]) if owner == GROUND else None
    return stack_heights(scene, owner, spots.uv, spots.base_uv, spots.slots, covers, sides, bare)
