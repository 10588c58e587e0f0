"""Patinas: drawn as covers of what they lie on (see `owners.py`)."""

from __future__ import annotations

from ..explain.each import of_each
from ..explain.patinas import patina_verdict
from ..patinas.cover import context_of, cover
from ..plan import PatinaPlan
from ..scene.scene import PREVIEW_LIMIT, Scene
from ..snags.effect import patina_effect
from ..snags.patinas import patina_snags
from .kind import Draft, Kind
from .owners import covers_packet


def _preview(draft: Draft) -> bytes:
    before = draft.before.site.patinas.get(draft.key)
    uses = [*draft.plan.uses, *(before.uses if before else [])]
    touched = {use.surface.split("/")[0] for use in uses} & set(draft.after.owners())
    return covers_packet(draft.after, sorted(touched), PREVIEW_LIMIT)


def _trial(scene: Scene, key: str, plan: PatinaPlan) -> None:
    for owner in sorted({use.surface.split("/")[0] for use in plan.uses} & set(scene.owners())):
        cover(scene, key, plan, owner, scene.resolution(owner))


KINDS_HERE = (
    Kind(
        plan=PatinaPlan,
        place=40,
        preview=_preview,
        effect=patina_effect,
        why=of_each(lambda scene: scene.site.patinas, patina_verdict),
        snags=patina_snags,
        context=context_of,
        trial=_trial,
    ),
)
