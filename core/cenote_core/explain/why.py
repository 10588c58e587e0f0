"""Why here: at one spot, what lets each drift, patina, decal and droplet be there or stops it, rule by rule, with the numbers."""

from __future__ import annotations

import numpy as np

from ..errors import CenoteError
from ..plan import BeadsPlan
from ..scene.scene import Scene
from .beads import beads_verdict
from .decals import decal_verdict
from .drifts import drift_verdict
from .patinas import patina_verdict
from .verdict import Verdict, points_at
from .weather import weather_verdicts


def why_here(scene: Scene, owner: str, point: np.ndarray) -> list[Verdict]:
    """The verdicts of all that is visible and could be at a spot, what is there first."""
    if owner not in scene.owners():
        raise CenoteError("That surface is no longer on the site.")
    points = points_at(scene, owner, point.astype(np.float64))
    site = scene.site
    found: list[Verdict | None] = [
        drift_verdict(scene, key, plan, owner, points)
        for key, plan in sorted(site.drifts.items())
        if plan.visible and plan.assets
    ]
    found += [patina_verdict(scene, k, p, owner, points) for k, p in sorted(site.patinas.items()) if p.visible]
    found += [decal_verdict(scene, k, p, owner, points) for k, p in sorted(site.decals.items()) if p.visible]
    found += [beads_verdict(scene, k, p, owner, points) for k, p in sorted(site.of(BeadsPlan).items()) if p.visible]
    found += weather_verdicts(scene, owner, points)
    return sorted((verdict for verdict in found if verdict), key=lambda v: not v.stands)
