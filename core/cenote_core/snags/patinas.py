"""Checks of patinas and of surfaces without any: what a viewer would notice, and the one step that cures it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from ..drifts.instance_patinas import MOST, left_out
from ..measures.noise import NoiseRule
from ..mesh.mesh import Points
from ..patinas.cover import cover, share_covered, stack
from ..plan import GROUND, PatinaPlan, PatinaUse
from ..scene.scene import Scene
from ..scene.sight import faces_into_view
from ..stations.camera import ASPECT
from .snag import MOST_PLACES, Snag

_SIDE = 128
"""Texels along a side that these checks look at."""
_TOO_MUCH, _ENOUGH = 0.65, 0.4
"""Share of its surfaces from which what hides them is far too much, and what is left after the cure."""
_HIDES = 0.5
"""Below this share of stain a patina hides what it lies on."""
_HARD, _RAGGED = 0.06, 0.15
"""A gate over a smaller share of its span ends hard, unless an edge is broken up by more than this."""
_LIES = 0.05
"""A cover that counts as lying there."""
_SPOTLESS = 0.25
"""m² of a surface in view from which it is missed that nothing lies on it."""


def patina_snags(scene: Scene) -> list[Snag]:
    """All snags of visible patinas, then surfaces that nothing lies on."""
    out = []
    for key, plan in sorted(scene.site.patinas.items()):
        if plan.visible and plan.uses:
            for check in CHECKS:
                out += check(scene, key, plan)
    return out + _spotless(scene)


def _carriers(scene: Scene, plan: PatinaPlan) -> Iterator[str]:
    on = {use.surface.split("/")[0] for use in plan.uses}
    return (owner for owner in scene.owners() if owner in on)


def _covers(scene: Scene, key: str, plan: PatinaPlan) -> Iterator[tuple[str, Points, np.ndarray]]:
    for owner in _carriers(scene, plan):
        side = scene.resolution(owner, _SIDE)
        yield owner, scene.table(owner, side).points, cover(scene, key, plan, owner, side)


def _far_too_much(scene: Scene, key: str, plan: PatinaPlan) -> list[Snag]:
    """What hides most of all it lies on."""
    used = {use.surface for use in plan.uses}
    shares = [share_covered(scene, key, plan, s) for s in scene.surfaces() if s.ref in used and s.owner != GROUND]
    if plan.finish.stain >= _HIDES or not shares or np.mean(shares) < _TOO_MUCH:
        return []
    cured = plan.model_copy(update={"amount": round(plan.amount * _ENOUGH / float(np.mean(shares)), 3)})
    text = f"{plan.name} hides {np.mean(shares):.0%} of all it lies on. Weathering is believed where it is sparing."
    return [Snag("far too much", key, text, len(shares), cure="turn it down", plan=cured.model_dump())]


def _hard_edge(scene: Scene, key: str, plan: PatinaPlan) -> list[Snag]:
    """A gate that ends at once, with no relief and no noise to break its line."""
    broken = plan.finish.break_up > _RAGGED or any(isinstance(r, NoiseRule) and r.active for r in plan.rules)
    for rule in plan.rules:
        ends = (rule.gate.rise_end - rule.gate.rise_start, rule.gate.fall_end - rule.gate.fall_start)
        width = rule.about.soft * _HARD / 0.15
        if rule.active and rule.about.cuts and not broken and min(ends) < width and _passes_between(scene, key, plan):
            finish = plan.finish.model_copy(update={"break_up": 0.5})
            text = f"{plan.name} ends on a hard line: {rule.about.title} lets it through or not at all."
            cured = plan.model_copy(update={"finish": finish}).model_dump()
            return [Snag("hard edge", key, text, 1, cure="let its relief break the edge", plan=cured)]
    return []


def _passes_between(scene: Scene, key: str, plan: PatinaPlan) -> bool:
    """Is it there in some places and not in others?"""
    values = np.concatenate([covered for _, _, covered in _covers(scene, key, plan)] or [np.zeros(1)])
    return bool((values > 0.5).any() and (values < _LIES).any())


def _twice_the_relief(scene: Scene, key: str, plan: PatinaPlan) -> list[Snag]:
    """The same material laid on itself, both with their relief: bumps count twice."""
    for other, below in scene.site.patinas.items():
        shared = {u.surface for u in plan.uses} & {u.surface for u in below.uses}
        same = (
            below.finish.material == plan.finish.material and below.visible and (below.order, other) < (plan.order, key)
        )
        if shared and same and min(plan.finish.relief, below.finish.relief) > 0 and plan.finish.stain < _HIDES:
            finish = plan.finish.model_copy(update={"relief": 0.0})
            text = f"{plan.name} and {below.name} lay the relief of one material twice on {len(shared)} surfaces."
            cured = plan.model_copy(update={"finish": finish}).model_dump()
            return [Snag("the same relief twice", key, text, len(shared), cure="lay it without relief", plan=cured)]
    return []


def _cancelled(scene: Scene, key: str, plan: PatinaPlan) -> list[Snag]:
    """What lies only where something that hides it lies over it."""
    lies = hidden = 0.0
    over = ""
    for owner, points, covered in _covers(scene, key, plan):
        there = covered > _LIES
        lies += float(points.areas[there].sum())
        order = [k for k, _ in stack(scene, owner)]
        for k, above in stack(scene, owner)[order.index(key) + 1 :]:
            if above.finish.stain < _HIDES:
                side = scene.resolution(owner, _SIDE)
                gone = there & (cover(scene, k, above, owner, side) > 0.95)
                hidden += float(points.areas[gone].sum())
                over = above.name if gone.any() else over
    if lies == 0 or hidden < 0.97 * lies:
        return []
    text = f"{plan.name} lies only where {over} hides it."
    cured = plan.model_copy(update={"visible": False}).model_dump()
    return [Snag("cancelled", key, text, 1, cure="hide it", plan=cured)]


def _seen(scene: Scene, owner: str, points: Points) -> np.ndarray:
    """(N,) bool: do any stations see these places, as far as their frames and the places' own side tell?"""
    out = np.zeros(len(points), bool)
    for station in scene.site.stations.values():
        out |= faces_into_view(points, station, ASPECT)
    return out


def _never_seen(scene: Scene, key: str, plan: PatinaPlan) -> list[Snag]:
    """What lies, but on no side that any station sees."""
    if not scene.site.stations:
        return []
    lies = False
    for owner, points, covered in _covers(scene, key, plan):
        there = covered > _LIES
        lies |= bool(there.any())
        if (there & _seen(scene, owner, points)).any():
            return []
    if not lies:
        return []
    text = f"No station sees any of {plan.name}."
    cured = plan.model_copy(update={"visible": False}).model_dump()
    return [Snag("never seen", key, text, 1, cure="hide it", plan=cured)]


def _spotless(scene: Scene) -> list[Snag]:
    """Surfaces in view that nothing lies on: everything that has stood out of doors carries something."""
    carried = {use.surface for plan in scene.site.patinas.values() if plan.visible for use in plan.uses}
    shared = [(len(plan.uses), key) for key, plan in scene.site.patinas.items() if plan.visible]
    out = []
    for surface in scene.surfaces():
        if surface.ref in carried or surface.owner == GROUND or not shared:
            continue
        points = scene.table(surface.owner, scene.resolution(surface.owner, _SIDE)).points
        on = (points.slots == surface.index) & _seen(scene, surface.owner, points)
        area = float(points.areas[on].sum())
        if area < _SPOTLESS:
            continue
        key = max(shared)[1]
        plan = scene.site.patinas[key]
        cured = plan.model_copy(update={"uses": [*plan.uses, PatinaUse(surface=surface.ref)]}).model_dump()
        places = points.positions[np.flatnonzero(on)[:: max(1, int(on.sum()) // MOST_PLACES)]][:MOST_PLACES]
        text = f"{surface.label} is spotless: {area:.1f} m² of it can be seen, and nothing lies on it."
        out.append(Snag("spotless", key, text, 1, places, f"lay {plan.name} on it", cured))
    return out


def _under_others(scene: Scene, key: str, plan: PatinaPlan) -> list[Snag]:
    """What lies on scattered things under more others than are drawn there."""
    hidden = [use.surface for use in plan.uses if key in left_out(scene, use.surface)]
    if not hidden:
        return []
    where = ", ".join(f"{scene.site.drifts[ref.split('/')[0]].name}, {ref.split('/')[1]}" for ref in hidden[:3])
    text = f"{plan.name} is not drawn on {where}: scattered things carry the {MOST} uppermost patinas. Put it higher in the stack."
    uses = [use for use in plan.uses if use.surface not in hidden]
    cured = plan.model_copy(update={"uses": uses}).model_dump(mode="json")
    return [Snag("not drawn", key, text, len(hidden), np.zeros((0, 3)), "take it off there", cured)]


CHECKS: tuple[Callable[[Scene, str, PatinaPlan], list[Snag]], ...] = (
    _far_too_much,
    _hard_edge,
    _twice_the_relief,
    _cancelled,
    _never_seen,
    _under_others,
)
