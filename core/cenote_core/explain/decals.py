"""Why a decal shows at a spot, or why not: its box, its receivers, the angle of the surface, its fading."""

from __future__ import annotations

import numpy as np

from ..decals.project import decal_frame
from ..mesh.mesh import Points
from ..plan import DecalPlan
from ..scene.scene import Scene
from .verdict import Line, Verdict

_AROUND = 1.5
"""A decal is spoken of at spots within so many times its box."""


def decal_verdict(scene: Scene, key: str, plan: DecalPlan, owner: str, points: Points) -> Verdict | None:
    """Does a decal show at a spot, and what stops it; None where it is not near."""
    frame = decal_frame(plan)
    delta = points.positions[0].astype(np.float64) - frame.origin
    half = np.array([plan.width, plan.height, plan.depth]) / 2
    share = np.abs(np.array([delta @ frame.right, delta @ frame.up, delta @ frame.out])) / half
    if share.max() > _AROUND:
        return None
    lines = [
        Line(name, float(s), float(s <= 1), f"{s:.0%} of the way to its border")
        for name, s in zip(("across", "up and down", "depth"), share, strict=True)
    ]
    turned = float(np.degrees(np.arccos(np.clip(points.normals[0] @ frame.out, -1, 1))))
    fades = float(np.clip((plan.angle - turned) / max(plan.soft, 1e-6), 0, 1))
    lines.append(
        Line("angle", turned, fades, f"turned {turned:.0f}° from its projector; it ends at {plan.angle:g}°", "°")
    )
    if not plan.reaches(owner):
        return Verdict(key, "decal", plan.name, False, "This is not among what receives it.", lines)
    stopped = next((line for line in lines if line.allows <= 0.001), None)
    if stopped:
        return Verdict(key, "decal", plan.name, False, f"Stopped by {stopped.what}: {stopped.text}.", lines)
    return Verdict(key, "decal", plan.name, True, f"It falls here, as far as its picture does: {fades:.0%}.", lines)
