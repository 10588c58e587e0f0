"""What gathers where pieces stand: a strip of soil, grit or leaves along the foot of each, on it and on the ground.

Nothing stands on a clean line out of doors. The strip is a patina like any other, made from two settings of the
piece and laid below all that the artist lays.
"""

from __future__ import annotations

from typing import Any

from ..ground.terrain import GROUND_SLOT
from ..measures.contact import ContactRule
from ..measures.noise import NoiseRule
from ..plan import GROUND, Finish, Gate, PatinaPlan, PatinaUse
from ..scene.scene import Scene

PREFIX = "contact."
_LEAST_REACH = 0.3
"""Metres about a piece in which is looked for what it stands on or against, at least."""
_GROUND_WIDER = 2.5
"""The strip on the ground is so many times as wide as that on the piece."""
_THICKNESS, _GROUND_THICKNESS = 5.0, 22.0
"""Millimetres; on the ground enough for a small bank against the piece."""


def contact_plans(scene: Scene, owner: str) -> list[tuple[str, PatinaPlan]]:
    """The strip on an owner, if there is one."""
    if owner != GROUND:
        piece = scene.piece(owner)
        slots = [s.ref for s in scene.surfaces_of(owner)]
        return _strip(owner, piece.foot, piece.foot_width, slots, _THICKNESS)
    feet = [scene.site.pieces[key] for key in scene.owners()[1:] if scene.site.pieces[key].foot_width > 0]
    if not feet:
        return []
    refs = [f"{GROUND}/{GROUND_SLOT}", *(f"{GROUND}/{layer.key}" for layer in scene.site.ground.layers)]
    widest = max(feet, key=lambda piece: piece.foot_width)
    return _strip(GROUND, widest.foot, widest.foot_width * _GROUND_WIDER, refs, _GROUND_THICKNESS)


def _strip(owner: str, material: str, width: float, refs: list[str], thickness: float) -> list[tuple[str, PatinaPlan]]:
    if width <= 0 or not refs:
        return []
    near = {"rise_start": 0, "rise_end": 0, "fall_start": 0.15 * width, "fall_end": width}
    ragged = {"rise_start": 0.25, "rise_end": 0.6, "fall_start": 1, "fall_end": 1}
    rules: list[Any] = [
        ContactRule(gate=Gate(**near), reach=max(2 * width, _LEAST_REACH)),
        NoiseRule(gate=Gate(**ragged), size=max(3 * width, 0.1), detail=4, strength=0.6),
    ]
    finish = Finish(material=material, variation=0.2, variation_size=0.4, break_up=0.9, fill=0.6, thickness=thickness)
    uses = [PatinaUse(surface=ref) for ref in refs]
    return [(f"{PREFIX}{owner}", PatinaPlan(name="contact", finish=finish, rules=rules, uses=uses))]
