"""Why an item shows nothing, in a sentence, with the one step that cures it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..drifts.instancing import amounts, build_instances, context_of, open_above
from ..drifts.places import Candidates, by_owner, places_of
from ..errors import CenoteError
from ..measures.distance import ABSENT, absent
from ..measures.rule import HOURS, METRES
from ..patinas.cover import share_covered
from ..patinas.growth import age
from ..plan import DriftPlan, PatinaPlan, Rule
from ..rules import gate_response
from ..scene.measuring import measure
from ..scene.scene import Scene


@dataclass(frozen=True)
class Effect:
    """What an item brings about.

    Attributes
    ----------
    amount : float
        Instances of a drift, or the covered share (0..1) of all surfaces of a patina.
    reason : str, empty when there is an effect
    cure : str, what the one step is called; empty if there is none to offer
    plan : the item's plan after the cure, or None
    """

    amount: float
    reason: str = ""
    cure: str = ""
    plan: dict[str, Any] | None = None


def drift_effect(scene: Scene, drift_id: str, plan: DriftPlan) -> Effect:
    """How many stand, and if none: what stopped them all."""
    if not plan.assets:
        return Effect(0, "No asset is chosen, so there is nothing to set out.")
    for share in plan.assets:
        try:
            scene.kit.asset_ref(share.asset)
        except CenoteError:
            left = [s for s in plan.assets if s.asset != share.asset]
            cured = plan.model_copy(update={"assets": left})
            return Effect(
                0, f"The asset '{share.asset}' is no longer in the kit.", "take it out of the mix", cured.model_dump()
            )
    if not plan.surfaces:
        cured = plan.model_copy(update={"surfaces": ["ground/ground"]})
        return Effect(0, "No surface is chosen to stand on.", "stand on the ground", cured.model_dump())
    if plan.density <= 0:
        cured = plan.model_copy(update={"density": 1.0})
        return Effect(0, "The density is 0 per m².", "set 1 per m²", cured.model_dump())
    try:
        base = places_of(scene, plan)
    except CenoteError as error:
        return Effect(
            0, str(error), "double the spacing", plan.model_copy(update={"spacing": plan.spacing * 2}).model_dump()
        )
    if len(base) == 0:
        return Effect(0, "The chosen surfaces are no longer on the site, or smaller than the spacing.")
    try:
        count = len(build_instances(scene, drift_id, plan))
    except CenoteError as error:
        return Effect(0, str(error))
    if count:
        return Effect(count)
    blocked = _blocking_rule(scene, drift_id, plan, base)
    if blocked is not None:
        return blocked
    if not open_above(scene, plan).any():
        return Effect(
            0,
            f"Nowhere is {plan.headroom:g} m of headroom free.",
            "ask for none",
            plan.model_copy(update={"headroom": 0.0}).model_dump(),
        )
    if amounts(scene, drift_id, plan, base).max() * min(plan.density, base.full) < base.points.rank.min():
        return Effect(
            0,
            "The density is too low for surfaces of this size.",
            "double the density",
            plan.model_copy(update={"density": plan.density * 2}).model_dump(),
        )
    return Effect(0, "The rules and strokes together leave nothing; no single one of them does.")


def _without(plan: Any, number: int) -> dict[str, Any]:
    rules = [rule.model_copy(update={"active": False}) if k == number else rule for k, rule in enumerate(plan.rules)]
    out: dict[str, Any] = plan.model_copy(update={"rules": rules}).model_dump()
    return out


def _blocking_rule(scene: Scene, drift_id: str, plan: DriftPlan, base: Candidates) -> Effect | None:
    context = context_of(scene, drift_id, plan)
    for number, rule in enumerate(plan.rules):
        if not rule.active or rule.strength < 1:
            continue
        values = [
            measure(scene, name, points, rule, context, known) for name, points, _, known in by_owner(scene, plan, base)
        ]
        every = np.concatenate(values)
        if len(every) and not (gate_response(rule.gate, every) > 0).any():
            return Effect(
                0,
                f"The {rule.measure} rule lets nothing through: {_span(rule, every)}.",
                f"switch the {rule.measure} rule off",
                _without(plan, number),
            )
    return None


def _span(rule: Rule, values: np.ndarray) -> str:
    if absent(rule, float(values.min())):
        return ABSENT
    unit = {METRES: " m", HOURS: " h"}.get(rule.about.unit, rule.about.unit)
    return f"here it is {values.min():.2f}{unit} to {values.max():.2f}{unit}"


def patina_effect(scene: Scene, patina_id: str, plan: PatinaPlan) -> Effect:
    """Which share of its surfaces a patina covers, and if none: why."""
    if not plan.uses:
        return Effect(0, "It lies on no surface yet. Choose one below, or click one in the plate.")
    surfaces = {s.ref: s for s in scene.surfaces()}
    found = [surfaces[use.surface] for use in plan.uses if use.surface in surfaces]
    scattered = [use for use in plan.uses if use.surface.split("/")[0] in scene.site.drifts]
    if not found and not scattered:
        return Effect(0, "The surfaces it lay on are no longer on the site.")
    if plan.amount <= 0:
        return Effect(
            0, "Its amount is 0.", "set the amount to 1", plan.model_copy(update={"amount": 1.0}).model_dump()
        )
    if all(use.amount <= 0 for use in plan.uses):
        uses = [use.model_copy(update={"amount": 1.0}) for use in plan.uses]
        return Effect(
            0,
            "It is turned down to 0 on every surface.",
            "turn all up again",
            plan.model_copy(update={"uses": uses}).model_dump(),
        )
    years = age(scene, plan)
    if years is not None and years <= 0:
        return Effect(
            0,
            f"It grows with the years and has had none: the place has stood {scene.site.weather.years:g} years.",
            "let it be whole at once",
            plan.model_copy(update={"pace": 0.0}).model_dump(),
        )
    if not found:
        # What is scattered is dressed in proofs alone, thing by thing: there is no share of it to tell.
        return Effect(0)
    shares = [share_covered(scene, patina_id, plan, surface) for surface in found]
    mean = float(np.mean(shares))
    if mean > 0.0005:
        return Effect(mean)
    for number, rule in enumerate(plan.rules):
        if rule.active and rule.strength >= 1:
            alone = plan.model_copy(update={"rules": [rule], "amount": 1.0})
            if max(share_covered(scene, patina_id, alone, surface) for surface in found) <= 0.0005:
                return Effect(
                    mean,
                    f"The {rule.measure} rule lets nothing through on these surfaces.",
                    f"switch the {rule.measure} rule off",
                    _without(plan, number),
                )
    return Effect(mean, "The rules and strokes together leave nothing; no single one of them does.")
