"""The surfaces of the ground: gravel, path, rock laid over its base where their rules and strokes say.

A surface is drawn and flattened as the patinas are, below all of them, so that its edge follows its relief.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..ground.terrain import GROUND_SLOT
from ..hashing import content_hash
from ..mesh.mesh import Points
from ..mesh.texels import sample_map
from ..plan import GROUND, Finish, GroundLayer, PatinaPlan, PatinaUse
from ..scene.scene import VIEW_LIMIT, Scene

PREFIX = f"{GROUND}."


def layer_plans(scene: Scene) -> list[tuple[str, PatinaPlan]]:
    """The ground's surfaces as patinas on its base, lowest first."""
    return [(f"{PREFIX}{layer.key}", _as_patina(layer)) for layer in scene.site.ground.layers]


def _as_patina(layer: GroundLayer) -> PatinaPlan:
    finish = Finish(
        material=layer.material, scale=layer.scale, variation=0.12, variation_size=2.0, break_up=layer.blend
    )
    use = PatinaUse(surface=f"{GROUND}/{GROUND_SLOT}")
    return PatinaPlan(name=layer.key, finish=finish, amount=layer.amount, rules=layer.rules, uses=[use])


def layers_key(scene: Scene) -> str:
    """Hash of everything the surfaces of the ground depend on."""
    from .cover import cover_parts_key

    def make() -> str:
        return content_hash("ground surfaces", [cover_parts_key(scene, GROUND, k, p) for k, p in layer_plans(scene)])

    return scene.kept_key("ground surfaces", make) if scene.site.ground.layers else ""


def tells_surfaces_apart(scene: Scene, refs: Sequence[str]) -> bool:
    """Does it matter to what lies on these surfaces which of the ground's surfaces shows where?"""
    return bool(chosen_slots(refs)) and not _all_chosen(scene, chosen_slots(refs))


def chosen_slots(refs: Sequence[str]) -> set[str]:
    """The slots of the ground among surfaces."""
    return {ref.split("/", 1)[1] for ref in refs if ref.startswith(f"{GROUND}/")}


def _all_chosen(scene: Scene, chosen: set[str]) -> bool:
    layers = scene.site.ground.layers
    return not layers or chosen >= {GROUND_SLOT, *(layer.key for layer in layers)}


def shares(scene: Scene) -> dict[str, np.ndarray]:
    """(R, R) float32 visible share of every surface of the ground by its slot name; they sum to 1."""
    from .cover import cover

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
    if owner != GROUND or _all_chosen(scene, chosen):
        return 1.0
    maps = shares(scene)
    total = sum(sample_map(maps[slot], points.uv2) for slot in sorted(chosen & set(maps)))
    return np.asarray(total, np.float32) if np.ndim(total) else np.zeros(len(points), np.float32)
