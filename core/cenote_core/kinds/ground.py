"""The ground: its shape, and the surfaces laid over it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..delivery.listing import Delivery
from ..delivery.owners import add_owner
from ..delivery.waters import add_waters as delivered_waters
from ..ground.terrain import coarser
from ..patinas.cover import cover, unlisted
from ..plan import GROUND, GroundPlan, PatinaPlan
from ..proof_scene.near_stones import add_loose
from ..proof_scene.owners import add_owners
from ..proof_scene.tables import Shot, Tables
from ..proof_scene.waters import add_waters
from ..scene import land
from ..scene.scene import PREVIEW_LIMIT, Scene
from ..waters.sheet import sheet
from . import waters
from .kind import Draft, Kind
from .owners import OWNER_PARTS, OwnerOut, covers_packet, ground_packet, owners_listed

PREVIEW_SIDE = 513
"""Points of the ground along a side, at most, while it is being changed."""


def ground_preview(scene: Scene) -> bytes:
    """The ground while it is being shaped: reckoned on no more points than are drawn, however fine it is."""
    looked = Scene(scene.site.with_item(GROUND, coarser(scene.site.ground, PREVIEW_SIDE)), scene.kit, scene.cache)
    # How far each piece has risen with the ground.
    lifts = {owner: float(land.lift(looked, owner)) for owner in looked.owners()[1:]}
    return ground_packet(looked, PREVIEW_SIDE, {"lifts": lifts})


def _preview(draft: Draft) -> bytes:
    if draft.before.mesh.ref(GROUND).key != draft.after.mesh.ref(GROUND).key:
        return ground_preview(draft.after)
    # Only its surfaces have changed, not its shape.
    return covers_packet(draft.after, [GROUND], PREVIEW_LIMIT, {"layers": _dumped(unlisted(draft.after))})


def _dumped(plans: dict[str, PatinaPlan]) -> dict[str, Any]:
    return {key: plan.model_dump(mode="json") for key, plan in plans.items()}


def _emit(out: Tables, shot: Shot) -> None:
    add_owners(out, shot, [GROUND])
    add_loose(out, shot)
    add_waters(out, shot)


def _trial(scene: Scene, key: str, plan: GroundPlan) -> None:
    scene.table(GROUND, scene.resolution(GROUND))
    for number in range(len(plan.waters())):
        sheet(scene, number)
    for layer, laid in unlisted(scene).items():
        cover(scene, layer, laid, GROUND, scene.resolution(GROUND))


def _plainer(plan: GroundPlan) -> Iterator[GroundPlan]:
    """Without one of its forms or surfaces, then without any."""
    for name in ("forms", "layers"):
        all_of_them = getattr(plan, name)
        for number in range(len(all_of_them)):
            yield plan.model_copy(update={name: [*all_of_them[:number], *all_of_them[number + 1 :]]})
    yield plan.model_copy(update={"layers": []})
    yield plan.model_copy(update={"forms": [], "layers": []})
    yield GroundPlan(width=plan.width, depth=plan.depth, cell=plan.cell)


def _hand_over(to: Delivery, scene: Scene) -> None:
    add_owner(to, scene, GROUND)
    delivered_waters(to, scene)


KINDS_HERE = (
    Kind(
        plan=GroundPlan,
        place=0,
        sections={"owners": list[OwnerOut], "layers": dict[str, PatinaPlan], **waters.SECTIONS},
        listed=lambda scene, address: {
            "owners": owners_listed(scene, address),
            "layers": unlisted(scene),
            **waters.listed(scene, address),
        },
        parts={**OWNER_PARTS, **waters.PARTS},
        preview=_preview,
        emit=_emit,
        hand_over=_hand_over,
        trial=_trial,
        plainer=_plainer,
    ),
)
