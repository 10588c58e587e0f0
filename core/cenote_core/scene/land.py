"""The ground of a scene: heights step by step, what stands on them, its surfaces.

Order: sheet → forms → strokes of the hand → pieces stand on that → pads level it under them.
"""

from __future__ import annotations

from typing import Any, Protocol

import numpy as np

from ..base.fields import PRESENTED
from ..graph.derived import Bound, Ref, by_value, derived
from ..graph.store import Cache
from ..ground.forms import Footprint
from ..ground.sculpt import ACTIONS, sculpt
from ..ground.terrain import axes, formed, height_at, padded, sheet, water_forms
from ..measures.water import shore, wet_area
from ..mesh.mesh import Mesh
from ..plan import GROUND, LIQUID, Cut, Pad, PiecePlan, SitePlan, TouchPlan, Water

_AT_ONCE = 16
"""Strokes are kept in blocks of this many, so that one more stroke does not do all of them again."""


class Site(Protocol):
    """What the ground asks of the scene it is part of; see `Scene`."""

    site: SitePlan

    @property
    def cache(self) -> Cache: ...
    @property
    def memo(self) -> dict[Any, Any]: ...
    @property
    def mesh(self) -> Bound[[str], Mesh]: ...
    def local_mesh(self, owner: str) -> Mesh: ...
    def piece(self, piece_id: str) -> PiecePlan: ...
    def stands(self, piece_id: str) -> bool: ...
    def position(self, owner: str) -> np.ndarray: ...
    def picture(self, picture_id: str | None) -> np.ndarray | None: ...
    def picture_ref(self, picture_id: str | None) -> Ref[np.ndarray] | None: ...


def strokes(scene: Site) -> list[TouchPlan]:
    """The hand's strokes on the ground, in order."""
    return [touch for touch in scene.site.touches_of(GROUND) if touch.action in ACTIONS]


def _blocks(scene: Site) -> list[list[TouchPlan]]:
    done = strokes(scene)
    return [done[start : start + _AT_ONCE] for start in range(0, len(done), _AT_ONCE)]


def _shape(scene: Site) -> list[Any]:
    plan = scene.site.ground
    shaped = [form for form in plan.forms if not isinstance(form, Pad | Water)]
    forms = [(form.model_dump(exclude=LIQUID), isinstance(form, Cut) and form.water > 0) for form in shaped]
    return [plan.model_dump(exclude=PRESENTED | {"material", "layers", "forms"}), forms, scene.picture_ref(plan.image)]


@derived(_shape)
def _formed(scene: Site) -> np.ndarray:
    """(R, C) heights of sheet and forms, before the hand."""
    plan = scene.site.ground
    return formed(plan, sheet(plan, scene.picture(plan.image)))


def _block(scene: Site, number: int) -> list[Any]:
    strokes = [stroke.model_dump(exclude=PRESENTED) for stroke in _blocks(scene)[number]]
    return [_before(scene, number), strokes]


def _before(scene: Site, number: int) -> Ref[np.ndarray]:
    return _sculpted.ref(scene, number - 1) if number else _formed.ref(scene)


@derived(_block)
def _sculpted(scene: Site, number: int) -> np.ndarray:
    """(R, C) heights after a block of strokes."""
    x, z = axes(scene.site.ground)
    heights = _before(scene, number).value()
    for stroke in _blocks(scene)[number]:
        heights = sculpt(heights, x, z, stroke)
    return heights


def bare_ref(scene: Site) -> Ref[np.ndarray]:
    """The ground before pads, without making it."""
    return _before(scene, len(_blocks(scene)))


def bare_heights(scene: Site) -> np.ndarray:
    """(R, C) heights before pads: what pieces stand on; kept, and kept after each block of strokes."""
    return bare_ref(scene).value()


def _levelled(scene: Site) -> list[Any]:
    pads = [form for form in scene.site.ground.forms if isinstance(form, Pad)]
    return [bare_ref(scene), pads, [scene.mesh.ref(form.piece) for form in pads if scene.stands(form.piece)]]


@derived(_levelled)
def heights(scene: Site) -> np.ndarray:
    """(R, C) heights of the ground as it stands, metres."""
    plan = scene.site.ground
    wanted = {form.piece for form in plan.forms if isinstance(form, Pad)}
    under = {key: footprint(scene, key) for key in wanted if scene.stands(key)}
    return padded(plan, bare_heights(scene), under)


def depth_under(scene: Site, points: np.ndarray) -> np.ndarray:
    """(N,) how far points lie below the ground, metres; negative above it, −inf beside the sheet."""
    plan = scene.site.ground
    depth = height_at(plan, heights(scene), points[:, [0, 2]].astype(np.float64)) - points[:, 1]
    beside = (np.abs(points[:, 0]) > plan.width / 2) | (np.abs(points[:, 2]) > plan.depth / 2)
    return np.where(beside, -np.inf, depth)


def footprint(scene: Site, piece_id: str) -> Footprint:
    """A piece as a pad sees it."""
    piece = scene.piece(piece_id)
    low, high = scene.local_mesh(piece_id).bounds()
    size = piece.size
    at = scene.position(piece_id)
    c, s = np.cos(np.radians(piece.turn)), np.sin(np.radians(piece.turn))
    middle = (low + high)[[0, 2]] / 2 * size
    centre = np.array([at[0] + middle[0] * c + middle[1] * s, at[2] - middle[0] * s + middle[1] * c])
    return Footprint(centre, (high - low)[[0, 2]] / 2 * size, piece.turn, float(at[1] + low[1] * size))


def lift(scene: Site, piece_id: str) -> float:
    """How far a piece has risen with the ground since it was set down, metres."""
    piece = scene.piece(piece_id)
    if piece.ground_at is None:
        return 0.0
    place = np.array([[piece.position[0], piece.position[2]]])
    with by_value():
        # Where a piece stands is in the key of its mesh as it is: ground raised elsewhere does not count.
        now = height_at(scene.site.ground, bare_heights(scene), place)[0]
    return float(now) - piece.ground_at


@derived(lambda scene: [heights.ref(scene), [(f.centre, f.level) for f in water_forms(scene.site.ground)]])
def shores(scene: Site) -> tuple[list[np.ndarray], list[tuple[np.ndarray, float]]]:
    """Lines of all water edges, and the wet area and level of each pool."""
    plan = scene.site.ground
    y = heights(scene)
    x, z = axes(plan)
    lines, pools = [], []
    for form in water_forms(plan):
        column = int(np.clip(np.searchsorted(x, form.centre[0]), 0, len(x) - 1))
        row = int(np.clip(np.searchsorted(z, form.centre[1]), 0, len(z) - 1))
        wet = wet_area(y, form.level, row, column)
        pools.append((wet, form.level))
        lines += shore(y, form.level, wet, x, z)
    return lines, pools
