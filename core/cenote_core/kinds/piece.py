"""Pieces: listed and fetched with the ground (see `owners.py`); the plate moves them by itself while they are moved."""

from __future__ import annotations

from ..columns.grid import columns_of
from ..delivery.listing import Delivery
from ..delivery.owners import add_owner
from ..plan import PiecePlan
from ..proof_scene.owners import add_owners
from ..scene.scene import Scene
from ..snags.effect import Effect
from .kind import Kind


def _effect(scene: Scene, key: str, plan: PiecePlan) -> Effect:
    """How many triangles stand there, and if none: why."""
    if not plan.visible:
        return Effect(0)
    missing = scene.why_missing(plan.asset)
    if missing:
        return Effect(0, missing)
    return Effect(float(scene.mesh(key).triangle_count))


def _trial(scene: Scene, key: str, plan: PiecePlan) -> None:
    if not scene.stands(key):
        return
    scene.table(key, scene.resolution(key))
    if scene.site.weather.fallen.snow > 0 or scene.site.weather.standing > 0:
        columns_of(scene, key)


def _hand_over(to: Delivery, scene: Scene) -> None:
    for owner in scene.owners()[1:]:
        add_owner(to, scene, owner)


KINDS_HERE = (
    Kind(
        plan=PiecePlan,
        place=10,
        emit=lambda out, shot: add_owners(out, shot, shot.scene.owners()[1:]),
        hand_over=_hand_over,
        effect=_effect,
        trial=_trial,
    ),
)
