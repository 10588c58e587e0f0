"""Why droplets lie at a spot, or what keeps them away there: rule by rule, with the numbers."""

from __future__ import annotations

import numpy as np

from ..beads.profile import foot_of, profiles
from ..beads.site_droplets import as_patina, droplets
from ..materials.catalogue import contact_of
from ..mesh.mesh import Points
from ..patinas.cover import context_of, cover_at
from ..patinas.drawn import as_film, inside
from ..plan import BeadsPlan
from ..scene.scene import Scene
from .patinas import SEEN
from .verdict import Line, Verdict, by_hand, rule_lines

_ABOUT = 2.0
"""Droplets within so many times the radius of the larger ones count as lying here."""


def beads_verdict(scene: Scene, key: str, plan: BeadsPlan, owner: str, points: Points) -> Verdict | None:
    """Do droplets lie about a spot, and why, or why not; None where they do not form on the owner at all."""
    if all(use.surface.split("/")[0] != owner for use in plan.uses):
        return None
    here = {s.ref: s for s in scene.surfaces_of(owner) if s.index == int(points.slots[0])}
    on = next((here[use.surface] for use in plan.uses if use.surface in here), None)
    if on is None:
        return Verdict(key, "beads", plan.name, False, "They do not form on this surface.", [])
    context = context_of(scene, key, as_patina(plan))
    lines, amount = rule_lines(scene, plan.rules, context, owner, points)
    if plan.regions:
        share = float(inside(plan.regions, points.positions.astype(np.float64))[0])
        lines.append(Line("region", share, share, f"its regions leave {share:.0%} here"))
        amount *= share
    if plan.amount < 1:
        lines.append(Line("amount", plan.amount, plan.amount, f"turned down to {plan.amount:.0%} everywhere"))
    by_hand(scene, plan.rules, context, owner, points, amount * plan.amount, lines)
    angle = plan.angle or contact_of(on.material)
    lines.append(Line("contact angle", angle, 1.0, "as said" if plan.angle else f"as {on.material} has it", "°"))
    if plan.drawn:
        lies = float(cover_at(scene, key, as_film(plan), owner, points)[0])
        return Verdict(key, "beads", plan.name, lies >= SEEN, f"Drawn ones cover {lies:.0%} here.", lines)
    return _about(scene, key, plan, owner, points, lines)


def _about(scene: Scene, key: str, plan: BeadsPlan, owner: str, points: Points, lines: list[Line]) -> Verdict:
    """What the droplets that lie about a spot are like."""
    reach, nearest = _ABOUT * plan.size / 1000, np.inf
    sizes: list[np.ndarray] = []
    for angle, drops in droplets(scene, key, plan, owner).items():
        if not len(drops):
            continue
        foot = foot_of(profiles(angle), drops.volume)
        away = np.linalg.norm(drops.at - points.positions[0], axis=1)
        nearest = min(nearest, float(away.min()))
        sizes.append(foot[away < np.maximum(reach, foot)])
    found = np.concatenate(sizes) if sizes else np.zeros(0)
    if len(found):
        text = f"{len(found)} lie here, the largest {found.max() * 1000:.1f} mm in radius."
        return Verdict(key, "beads", plan.name, True, text, lines)
    stopped = next((line for line in lines if line.allows <= 0.001), None)
    if stopped:
        return Verdict(key, "beads", plan.name, False, f"Stopped by {stopped.what}: {stopped.text}.", lines)
    far = f"; the nearest lies {nearest * 1000:.0f} mm away" if np.isfinite(nearest) else ""
    return Verdict(key, "beads", plan.name, False, f"None happens to lie here{far}.", lines)
