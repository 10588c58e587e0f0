"""Why a patina lies at a spot, or what keeps it away there: rule by rule, with the numbers."""

from __future__ import annotations

import numpy as np

from ..mesh.mesh import Points
from ..patinas.cover import context_of, cover_at
from ..patinas.growth import age, grown
from ..plan import GROUND, PatinaPlan
from ..scene.scene import Scene
from .verdict import Line, Verdict, by_hand, rule_lines

SEEN = 0.02
"""A cover from which a patina counts as lying there."""


def patina_verdict(scene: Scene, key: str, plan: PatinaPlan, owner: str, points: Points) -> Verdict | None:
    """Does a patina lie at a spot, and how much of it, and why; None where it does not lie on the owner at all."""
    if all(use.surface.split("/")[0] != owner for use in plan.uses):
        return None
    context = context_of(scene, key, plan)
    lines, amount = rule_lines(scene, plan.rules, context, owner, points)
    years = age(scene, plan)
    if years is not None:
        spread = float(grown(np.array([amount], np.float32), years, plan.pace)[0])
        text = f"{years:g} years bring it to {spread:.0%} of {amount:.0%}, at a pace of {plan.pace:g} years"
        lines.append(Line("years", years, spread / max(amount, 1e-9), text, "years"))
        amount = spread
    if plan.amount < 1:
        lines.append(Line("amount", plan.amount, plan.amount, f"turned down to {plan.amount:.0%} everywhere"))
    by_hand(scene, plan.rules, context, owner, points, amount * plan.amount, lines)
    lies = float(cover_at(scene, key, plan, owner, points)[0])
    here = next((use for use in plan.uses if use.surface in _refs(scene, owner, points)), None)
    if here is not None and here.amount < 1:
        lines.append(Line("surface", here.amount, here.amount, f"turned down to {here.amount:.0%} on this surface"))
    if here is None and lies < SEEN:
        return Verdict(key, "patina", plan.name, False, "It does not lie on this surface.", [])
    if here is not None:
        lines += rule_lines(scene, here.rules, context, owner, points)[0]
    return Verdict(key, "patina", plan.name, lies >= SEEN, _summary(lines, lies), lines)


def _refs(scene: Scene, owner: str, points: Points) -> set[str]:
    slot = int(points.slots[0])
    return {s.ref for s in scene.surfaces_of(owner) if (owner == GROUND or s.index == slot)}


def _summary(lines: list[Line], lies: float) -> str:
    if lies >= SEEN:
        return f"It covers {lies:.0%} here."
    stopped = next((line for line in lines if line.allows <= 0.001), None)
    if stopped:
        return f"Stopped by {stopped.what}: {stopped.text}."
    return f"Only {lies:.1%} is left of it here."
