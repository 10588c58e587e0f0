"""Hand edits: each shows on what it is made on."""

from __future__ import annotations

from ..base.fields import Item
from ..base.packet import pack
from ..patinas.ground_surfaces import PREFIX
from ..plan import GROUND, BeadsPlan, EditPlan, LinePlan, PlacedPlan, TouchPlan
from ..scene.scene import PREVIEW_LIMIT
from .ground import ground_preview
from .kind import Draft, Kind
from .owners import covers_packet


def _preview(draft: Draft) -> bytes:
    target, site = draft.plan.target, draft.after.site
    if target == GROUND:
        return ground_preview(draft.after)
    if target.startswith(PREFIX):
        return covers_packet(draft.after, [GROUND], PREVIEW_LIMIT)
    plan = site.drifts.get(target) or site.patinas.get(target) or site.of(BeadsPlan).get(target)
    return draft.of(target, plan) if plan else pack({}, {})


_PLANS: tuple[type[Item], ...] = (TouchPlan, PlacedPlan, LinePlan, EditPlan)

KINDS_HERE = tuple(Kind(plan=plan, place=90 + k, preview=_preview) for k, plan in enumerate(_PLANS))
