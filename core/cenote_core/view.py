"""All that the plate needs of a site, gone through kind by kind."""

from __future__ import annotations

from typing import Any

from .base.packet import pack
from .drifts.plots import Eye
from .kinds import KINDS
from .kinds.kind import PREVIEW_INSTANCES, Address, Draft
from .scene.scene import Scene


def manifest(scene: Scene, address: Address) -> dict[str, Any]:
    """Addresses of everything drawn; each carries a hash, so that only what changed is fetched."""
    out: dict[str, Any] = {}
    for kind in KINDS.values():
        out |= kind.listed(scene, address)
    return out


def preview(scene: Scene, key: str, plan: Any, eye: Eye = (0.0, 0.0, 0.0), most: int = PREVIEW_INSTANCES) -> bytes:
    """What the plate needs while an item is being changed: coarse where that saves time, and what the eye is near."""
    changed = Scene(scene.site.with_item(key, plan), scene.kit, scene.cache, hasty=True)

    def of(other: str, found: Any) -> bytes:
        make = KINDS[found.kind].preview
        return make(Draft(scene, changed, other, found, eye, most, of)) if make else pack({}, {})

    return of(key, plan)
