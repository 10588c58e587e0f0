"""Which part of an owner a station looks at so closely that its covers are worked out finer."""

from __future__ import annotations

import numpy as np

from ..patinas.pages import Page
from ..plan import GROUND, StationPlan
from ..scene.scene import Scene
from ..stations.camera import axes

_STEP = 1.0
"""Metres: pages of the ground lie on steps of this, so that an eye that moves a little finds the same."""
_BEFORE = 0.6
"""A page of the ground has its middle so many times the reach before the eye."""
_FINER = 4
"""A page of a piece is so many times finer than its covers are in the plate."""
_WORTH = 1.5
"""A page has to be so many times finer than the covers there are anyway."""


def near_page(scene: Scene, owner: str, station: StationPlan, reach: float, side: int) -> Page | None:
    """The page of an owner for a station that looks closely within `reach` metres; None where there is no need."""
    if side <= 0:
        return None
    eye, _, _, forward = axes(station)
    low, high = scene.mesh(owner).bounds()
    if np.linalg.norm(np.maximum(np.maximum(low - eye, eye - high), 0)) >= reach:
        return None
    if owner != GROUND:
        return piece_page(scene, owner, side)
    middle = np.round((eye + forward * reach * _BEFORE)[[0, 2]] / _STEP) * _STEP
    return ground_page(scene, middle, reach, side)


def piece_page(scene: Scene, owner: str, side: int) -> Page | None:
    """All of a piece: what lies side by side in its unwrap need not lie side by side on it."""
    own = scene.resolution(owner)
    wanted = min(side, own * _FINER)
    return Page((0.0, 0.0), (1.0, 1.0), wanted) if wanted >= _WORTH * own else None


def ground_page(scene: Scene, middle: np.ndarray, reach: float, side: int) -> Page | None:
    """The page of the ground that goes `reach` metres from a place x, z to all sides."""
    plan = scene.site.ground
    size = np.array([plan.width, plan.depth])
    low = np.clip((middle - reach) / size + 0.5, 0, 1)
    high = np.clip((middle + reach) / size + 0.5, 0, 1)
    if (high - low).min() <= 0 or (high - low).max() * _WORTH * scene.resolution(GROUND) > side:
        return None
    return Page((float(low[0]), float(low[1])), (float(high[0]), float(high[1])), side)
