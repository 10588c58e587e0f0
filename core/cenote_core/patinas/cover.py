"""Cover: the 0..1 result of a patina's rules on the texels of a surface's owner."""

from __future__ import annotations

import numpy as np

from ..hashing import content_hash
from ..measures.painted import apply_touches
from ..mesh.texels import TexelTable
from ..plan import PaintedRule, PatinaPlan
from ..rules import apply_rule
from ..scene.scene import Scene, Surface


def stack(scene: Scene, owner: str) -> list[tuple[str, PatinaPlan]]:
    """The visible patinas on any surface of an owner, lowest first."""
    found = [
        (plan.order, key, plan)
        for key, plan in scene.site.patinas.items()
        if plan.visible and any(use.surface.split("/")[0] == owner for use in plan.uses)
    ]
    return [(key, plan) for _, key, plan in sorted(found, key=lambda f: f[:2])]


def cover(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, table: TexelTable) -> np.ndarray:
    """(N,) float32 cover of one patina at the owner's texels; 0 on slots that do not carry it."""
    by_slot = {use.surface.split("/", 1)[1]: use.amount for use in plan.uses if use.surface.split("/")[0] == owner}
    names = scene.local_mesh(owner).slot_names
    share = np.array([by_slot.get(name, 0.0) for name in names], np.float32)
    amount = np.full(len(table.points), np.float32(plan.amount))
    touches = scene.site.touches_of(patina_id)
    key = content_hash("texel points", scene.owner_key(owner), table.resolution)
    for rule in plan.rules:
        if rule.active and rule.strength > 0:
            apply_rule(amount, rule.gate, rule.strength, scene.measure(owner, table.points, rule, touches, key))
    by_paint = any(isinstance(rule, PaintedRule) and rule.active for rule in plan.rules)
    if touches and not by_paint:
        apply_touches(amount, scene.to_local(owner, table.points.positions), owner, touches, scene.size(owner))
    return amount * share[table.points.slots]


def owner_cover_key(scene: Scene, owner: str, limit: int) -> str:
    """Hash of everything the covers of an owner depend on."""
    parts = []
    for key, plan in stack(scene, owner):
        settings = plan.model_dump(include={"amount", "rules", "uses"})
        touches = [t.model_dump() for t in scene.site.touches_of(key)]
        near = [scene._near_key(owner, r.reach) for r in plan.rules if r.measure == "shelter"]
        parts.append((key, settings, touches, near))
    return content_hash("covers", scene.owner_key(owner), limit, parts)


def owner_covers(scene: Scene, owner: str, limit: int) -> np.ndarray:
    """(P, R, R) float32: the covers of all patinas on an owner, lowest first, gaps filled."""
    patinas = stack(scene, owner)
    table = scene.table(owner, scene.resolution(owner, limit))

    def make() -> np.ndarray:
        maps = [table.spread(cover(scene, key, plan, owner, table)) for key, plan in patinas]
        return np.stack(maps) if maps else np.zeros((0, table.resolution, table.resolution), np.float32)

    return scene.cache.get(owner_cover_key(scene, owner, limit), make)


def share_covered(scene: Scene, patina_id: str, plan: PatinaPlan, surface: Surface) -> float:
    """Mean cover of one surface, 0..1, by area."""
    table = scene.table(surface.owner, scene.resolution(surface.owner, 256))
    on_slot = table.points.slots == surface.index
    areas = table.points.areas[on_slot]
    if areas.sum() <= 0:
        return 0.0
    return float((cover(scene, patina_id, plan, surface.owner, table)[on_slot] * areas).sum() / areas.sum())
