"""The surfaces of the ground: gravel, path, rock laid over its base where their rules and strokes say.

A surface is drawn and baked as the patinas are, below all of them, so that its edge follows its relief.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..ground.terrain import GROUND_SLOT
from ..plan import GROUND, Finish, GroundLayer, PatinaPlan, PatinaUse
from ..scene.scene import Scene

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


def tells_surfaces_apart(scene: Scene, refs: Sequence[str]) -> bool:
    """Does it matter to what lies on these surfaces which of the ground's surfaces shows where?"""
    return bool(chosen_slots(refs)) and not all_chosen(scene, chosen_slots(refs))


def chosen_slots(refs: Sequence[str]) -> set[str]:
    """The slots of the ground among surfaces."""
    return {ref.split("/", 1)[1] for ref in refs if ref.startswith(f"{GROUND}/")}


def all_chosen(scene: Scene, chosen: set[str]) -> bool:
    """Are all slots of the ground among these, so that they need not be told apart?"""
    layers = scene.site.ground.layers
    return not layers or chosen >= {GROUND_SLOT, *(layer.key for layer in layers)}
