"""Lamps: a row of the light sources in the plate, in proofs and in files."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..delivery.listing import Delivery, Light
from ..explain.each import of_each
from ..explain.verdict import Line, Verdict
from ..light.photometry import LUX, glow
from ..mesh.mesh import Points
from ..plan.kinds.lamp import LampPlan
from ..proof_scene.tables import Shot, Tables
from ..scene.scene import Scene
from ..snags.effect import Effect
from ..tracer.lights import Lamp
from .kind import Address, Draft, Kind

_FELT = 0.05
"""Lux below which nobody sees a lamp's light: a full moon gives five times as much."""
_OFF = 0.02
"""Metres off its surface a line of sight starts, so that the surface itself does not stop it."""


class LampOut(BaseModel):
    """A lamp as the plate draws it: `intensity` in the sky's own scale, on what faces it at one metre."""

    key: str
    position: tuple[float, float, float]
    intensity: tuple[float, float, float]
    radius: float


def candela(plan: LampPlan) -> float:
    """Its light in any one direction."""
    return plan.lumens / (4 * math.pi)


def _out(key: str, plan: LampPlan) -> LampOut:
    red, green, blue = (candela(plan) / LUX * glow(plan.temperature)).tolist()
    return LampOut(key=key, position=plan.position, intensity=(red, green, blue), radius=plan.radius)


def _lit(scene: Scene) -> dict[str, LampPlan]:
    lamps = sorted(scene.site.of(LampPlan).items())
    return {key: plan for key, plan in lamps if plan.visible and plan.lumens > 0}


def _listed(scene: Scene, address: Address) -> dict[str, Any]:
    return {"lamps": [_out(key, plan) for key, plan in _lit(scene).items()]}


def _preview(draft: Draft) -> bytes:
    return pack({}, _out(draft.key, draft.plan).model_dump())


def _emit(tables: Tables, shot: Shot) -> None:
    for key, plan in _lit(shot.scene).items():
        out = _out(key, plan)
        tables.lamps.append(Lamp(out.position, out.intensity, out.radius))


def _hand_over(to: Delivery, scene: Scene) -> None:
    for plan in _lit(scene).values():
        colour = glow(plan.temperature)
        strength = candela(plan) * float(colour.max())
        to.lights.append(Light(plan.name, tuple((colour / colour.max()).tolist()), strength, at=plan.position))


def _verdict(scene: Scene, key: str, plan: LampPlan, owner: str, points: Points) -> Verdict | None:
    """How much of its light comes to a spot, by distance and angle, and what stands between."""
    normal = points.normals[0].astype(np.float64)
    start = points.positions[0].astype(np.float64) + _OFF * normal
    toward = np.array(plan.position) - start
    away = max(float(np.linalg.norm(toward)), plan.radius, 1e-3)
    cosine = float(np.clip(normal @ toward / away, -1, 1))
    lux = candela(plan) * max(cosine, 0.0) / away**2
    if candela(plan) / away**2 < _FELT:
        return None
    lines = [
        Line(
            "distance", away, 1.0, f"{away:.2f} m off, where what faces it gets {candela(plan) / away**2:.3g} lux", "m"
        ),
        Line("facing", cosine, max(cosine, 0.0), f"turned {math.degrees(math.acos(cosine)):.0f}° from it"),
    ]
    if cosine <= 0:
        return Verdict(key, "lamp", plan.name, False, "This is turned away from it.", lines)
    met = scene.standing().meet(start[None], toward[None] / away, away)
    if met.hit[0] and float(np.linalg.norm(met.positions[0] - start)) < away - plan.radius - _OFF:
        return Verdict(key, "lamp", plan.name, False, "Something stands between.", lines)
    return Verdict(key, "lamp", plan.name, True, f"It gives {lux:.3g} lux here.", lines)


def _effect(scene: Scene, key: str, plan: LampPlan) -> Effect:
    if plan.lumens > 0:
        return Effect(plan.lumens if plan.visible else 0)
    cured = plan.model_copy(update={"lumens": LampPlan.model_fields["lumens"].default})
    return Effect(0, "It gives no light.", "give it the light of a bulb", cured.model_dump())


KINDS_HERE = (
    Kind(
        plan=LampPlan,
        place=65,
        sections={"lamps": list[LampOut]},
        listed=_listed,
        preview=_preview,
        emit=_emit,
        hand_over=_hand_over,
        effect=_effect,
        why=of_each(_lit, _verdict),
    ),
)
