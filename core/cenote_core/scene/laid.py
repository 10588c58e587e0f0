"""Covers of patinas as measures ask for them; `patinas`, above the scene, provides how they are made."""

from __future__ import annotations

from typing import Any

from .provided import PATINA_COVER
from .scene import Scene


def cover_ref(scene: Scene, patina_id: str, owner: str, side: int) -> Any | None:
    """The cover of a patina on the texels of an owner's map of a side; None where it does not lie on the owner."""
    plan = scene.site.patinas.get(patina_id)
    if plan is None or not plan.visible or all(use.surface.split("/")[0] != owner for use in plan.uses):
        return None
    return PATINA_COVER.ref(scene, patina_id, plan, owner, side)
