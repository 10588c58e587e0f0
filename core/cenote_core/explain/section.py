"""The section: a true cut through the site along a line, with what stands near the cut."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..drifts.instancing import build_instances
from ..ground.terrain import height_at
from ..plan import GROUND
from ..scene import land
from ..scene.scene import Scene

MOST = 600
"""Silhouettes of one drift at the most; beginnings of drifts are evenly spread, so fewer still show where it stands."""
GROUND_POINTS = 400


@dataclass(frozen=True)
class Silhouettes:
    """One drift near the cut: distance along it, foot height, size factor and asset of each."""

    drift: str
    along: np.ndarray
    foot: np.ndarray
    scale: np.ndarray
    asset: np.ndarray


@dataclass(frozen=True)
class Section:
    """A cut.

    Attributes
    ----------
    length : float, metres
    ground : (P, 2) distance along the cut and height
    pieces : piece id → (S, 4) cut segments: along, height, along, height
    drifts : what stands near the cut
    """

    length: float
    ground: np.ndarray
    pieces: dict[str, np.ndarray]
    drifts: list[Silhouettes]


def section(scene: Scene, start: np.ndarray, end: np.ndarray, width: float) -> Section:
    """Cut the site from `start` to `end` (2,) x, z; what stands within half of `width` metres is shown."""
    delta = end - start
    length = max(float(np.linalg.norm(delta)), 1e-6)
    direction = delta / length
    s = np.linspace(0, length, GROUND_POINTS)
    y = height_at(scene.site.ground, land.heights(scene), start + s[:, None] * direction)
    pieces = {}
    for owner in scene.owners():
        if owner != GROUND:
            mesh = scene.mesh(owner)
            cut = cut_mesh(mesh.positions, mesh.faces, start, direction, length)
            if len(cut):
                pieces[owner] = cut
    drifts = [_near(scene, key, start, direction, length, width) for key in sorted(scene.site.drifts)]
    return Section(length, np.column_stack([s, y]), pieces, [d for d in drifts if len(d.along)])


def cut_mesh(
    positions: np.ndarray, faces: np.ndarray, start: np.ndarray, direction: np.ndarray, length: float
) -> np.ndarray:
    """(S, 4) segments in which an upright plane through a line meets triangles: along, height, along, height."""
    flat = positions[:, [0, 2]].astype(np.float64) - start
    along = flat @ direction
    away = flat @ np.array([-direction[1], direction[0]])
    away = np.where(np.abs(away) < 1e-9, 1e-9, away)
    side = away[faces] > 0
    crossed = faces[(side.sum(axis=1) % 3) != 0]
    if len(crossed) == 0:
        return np.zeros((0, 4))
    ends = []
    for a, b in ((0, 1), (1, 2), (2, 0)):
        i, j = crossed[:, a], crossed[:, b]
        cuts = (away[i] > 0) != (away[j] > 0)
        gap = away[i] - away[j]
        t = np.where(cuts, away[i] / np.where(np.abs(gap) < 1e-12, 1.0, gap), np.nan)
        x = along[i] + (along[j] - along[i]) * t
        y = positions[i, 1] + (positions[j, 1] - positions[i, 1]) * t
        ends.append(np.column_stack([x, y]))
    both = np.stack(ends, axis=1)
    order = np.argsort(np.isnan(both[..., 0]), axis=1, kind="stable")[:, :2]
    two = np.take_along_axis(both, order[..., None], axis=1)
    out = two.reshape(-1, 4)
    inside = (np.nanmax(out[:, [0, 2]], axis=1) >= 0) & (np.nanmin(out[:, [0, 2]], axis=1) <= length)
    return np.asarray(out[inside & ~np.isnan(out).any(axis=1)])


def _near(scene: Scene, key: str, start: np.ndarray, direction: np.ndarray, length: float, width: float) -> Silhouettes:
    plan = scene.site.drifts[key]
    found = build_instances(scene, key, plan)
    flat = found.position[:, [0, 2]].astype(np.float64) - start
    along, away = flat @ direction, np.abs(flat @ np.array([-direction[1], direction[0]]))
    # Trees are shown from farther off than grass, or a thin strip would miss them all.
    reach = width / 2 * {"canopy": 3.0, "shrub": 1.5}.get(plan.tier, 1.0)
    near = np.flatnonzero((away <= reach) & (along >= 0) & (along <= length))[:MOST]
    if not plan.visible:
        near = near[:0]
    return Silhouettes(key, along[near], found.position[near, 1], found.scale[near], found.asset[near])
