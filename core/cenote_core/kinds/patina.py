"""Patinas: drawn as covers of what they lie on (see `owners.py`)."""

from __future__ import annotations

from ..patinas.cover import context_of
from ..plan import PatinaPlan
from ..scene.scene import PREVIEW_LIMIT
from ..snags.effect import patina_effect
from .kind import Draft, Kind
from .owners import covers_packet


def _preview(draft: Draft) -> bytes:
    before = draft.before.site.patinas.get(draft.key)
    uses = [*draft.plan.uses, *(before.uses if before else [])]
    touched = {use.surface.split("/")[0] for use in uses} & set(draft.after.owners())
    return covers_packet(draft.after, sorted(touched), PREVIEW_LIMIT)


KINDS_HERE = (Kind(plan=PatinaPlan, place=40, preview=_preview, effect=patina_effect, context=context_of),)
