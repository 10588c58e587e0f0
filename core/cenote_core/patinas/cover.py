"""Cover: the 0..1 result of a patina's rules on the texels of a surface's owner."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ground.terrain import GROUND_SLOT
from ..hashing import content_hash
from ..measures.painted import PaintedRule, apply_touches
from ..mesh.mesh import Points
from ..mesh.texels import TexelTable, sample_map
from ..plan import GROUND, PatinaPlan
from ..rules import apply_rule
from ..scene.measuring import Asker, measure, rule_key
from ..scene.scene import VIEW_LIMIT, Scene, Surface
from .layers import PREFIX, all_chosen, chosen_slots, layer_plans


def stack(scene: Scene, owner: str) -> list[tuple[str, PatinaPlan]]:
    """The visible patinas on any surface of an owner, lowest first; below them the surfaces of the ground."""
    found = [
        (plan.order, key, plan)
        for key, plan in scene.site.patinas.items()
        if plan.visible and any(use.surface.split("/")[0] == owner for use in plan.uses)
    ]
    below = layer_plans(scene) if owner == GROUND else []
    return [*below, *((key, plan) for _, key, plan in sorted(found, key=lambda f: f[:2]))]


def asker_of(scene: Scene, patina_id: str, plan: PatinaPlan) -> Asker:
    """The patina as its rules' measures see it."""
    return Asker(patina_id, scene.site.touches_of(patina_id), tuple(sorted(use.surface for use in plan.uses)))


def _shares(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, table: TexelTable) -> np.ndarray:
    """(N,) how far each texel's surface carries the patina."""
    by_slot = {use.surface.split("/", 1)[1]: use.amount for use in plan.uses if use.surface.split("/")[0] == owner}
    if owner == GROUND and not patina_id.startswith(PREFIX) and scene.site.ground.layers:
        total = np.zeros(len(table.points), np.float32)
        for slot, amount in sorted(by_slot.items()):
            total += np.float32(amount) * surface_share(scene, owner, table.points, [f"{owner}/{slot}"])
        return total
    names = scene.local_mesh(owner).slot_names
    return np.array([by_slot.get(name, 0.0) for name in names], np.float32)[table.points.slots]


def cover(scene: Scene, patina_id: str, plan: PatinaPlan, owner: str, table: TexelTable) -> np.ndarray:
    """(N,) float32 cover of one patina at the owner's texels; 0 on slots that do not carry it."""
    amount = np.full(len(table.points), np.float32(plan.amount))
    asker = asker_of(scene, patina_id, plan)
    key = content_hash("texel points", scene.owner_key(owner), table.resolution)
    for rule in plan.rules:
        if rule.active and rule.strength > 0:
            apply_rule(amount, rule.gate, rule.strength, measure(scene, owner, table.points, rule, asker, key))
    by_paint = any(isinstance(rule, PaintedRule) and rule.active for rule in plan.rules)
    if asker.touches and not by_paint:
        apply_touches(amount, scene.to_local(owner, table.points.positions), owner, asker.touches, scene.size(owner))
    return amount * _shares(scene, patina_id, plan, owner, table)


def cover_parts_key(scene: Scene, owner: str, key: str, plan: PatinaPlan) -> str:
    """Hash of what one patina's cover on an owner depends on beside the owner."""
    settings = plan.model_dump(include={"amount", "rules", "uses"})
    asker = asker_of(scene, key, plan)
    with scene.asking(key, plan.name):
        rules = [rule_key(scene, owner, rule, asker) for rule in plan.rules]
    return content_hash(settings, [t.model_dump() for t in asker.touches], rules)


def layers_key(scene: Scene) -> str:
    """Hash of everything the surfaces of the ground depend on."""

    def make() -> str:
        return content_hash("ground surfaces", [cover_parts_key(scene, GROUND, k, p) for k, p in layer_plans(scene)])

    return scene.kept_key("ground surfaces", make) if scene.site.ground.layers else ""


def owner_cover_key(scene: Scene, owner: str, limit: int) -> str:
    """Hash of everything the covers of an owner depend on."""
    parts = [(key, cover_parts_key(scene, owner, key, plan)) for key, plan in stack(scene, owner)]
    below = layers_key(scene) if owner == GROUND else ""
    return content_hash("covers", scene.owner_key(owner), limit, parts, below)


def owner_covers(scene: Scene, owner: str, limit: int) -> np.ndarray:
    """(P, R, R) float32: the covers of all patinas on an owner, lowest first, gaps filled."""
    patinas = stack(scene, owner)
    table = scene.table(owner, scene.resolution(owner, limit))

    def make() -> np.ndarray:
        maps = [table.spread(cover(scene, key, plan, owner, table)) for key, plan in patinas]
        return np.stack(maps) if maps else np.zeros((0, table.resolution, table.resolution), np.float32)

    return scene.cache.get(owner_cover_key(scene, owner, limit), make)


def share_covered(scene: Scene, patina_id: str, plan: PatinaPlan, surface: Surface) -> float:
    """Mean cover of one surface, 0..1, by area; kept for all surfaces of its owner at once."""
    owner, limit = surface.owner, 256
    parts = cover_parts_key(scene, owner, patina_id, plan), layers_key(scene) if owner == GROUND else ""
    key = content_hash("shares covered", scene.owner_key(owner), parts, limit)

    def make() -> np.ndarray:
        table = scene.table(owner, scene.resolution(owner, limit))
        slots, areas = table.points.slots, table.points.areas.astype(np.float64)
        covered = cover(scene, patina_id, plan, owner, table) * areas
        count = int(slots.max()) + 1 if len(slots) else 0
        whole = np.bincount(slots, areas, count)
        return np.bincount(slots, covered, count) / np.maximum(whole, 1e-12)

    found = scene.cache.get(key, make)
    return float(found[surface.index]) if surface.index < len(found) else 0.0


def shares(scene: Scene) -> dict[str, np.ndarray]:
    """(R, R) float32 visible share of every surface of the ground by its slot name; they sum to 1."""

    def make() -> dict[str, np.ndarray]:
        table = scene.table(GROUND, scene.resolution(GROUND, VIEW_LIMIT))
        left = np.ones((table.resolution, table.resolution), np.float32)
        out: dict[str, np.ndarray] = {}
        for key, plan in reversed(layer_plans(scene)):
            amount = np.clip(table.spread(cover(scene, key, plan, GROUND, table)), 0, 1)
            out[key.removeprefix(PREFIX)] = left * amount
            left = left * (1 - amount)
        out[GROUND_SLOT] = left
        return out

    return scene.cache.get(content_hash("shares", scene.ground_key(), layers_key(scene)), make)


def surface_share(scene: Scene, owner: str, points: Points, refs: Sequence[str]) -> np.ndarray | float:
    """(N,) how much of the chosen surfaces lies at points of the ground; 1 where all or none are told apart."""
    chosen = chosen_slots(refs)
    if owner != GROUND or all_chosen(scene, chosen):
        return 1.0
    maps = shares(scene)
    total = sum(sample_map(maps[slot], points.uv2) for slot in sorted(chosen & set(maps)))
    return np.asarray(total, np.float32) if np.ndim(total) else np.zeros(len(points), np.float32)
