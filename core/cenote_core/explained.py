"""What the kinds say of a site: why something is at a spot or is not, and what a viewer would notice."""

from __future__ import annotations

import numpy as np

from .errors import CenoteError
from .explain.verdict import Verdict, points_at
from .kinds import KINDS
from .scene.scene import Scene
from .snags.snag import Snag


def why_here(scene: Scene, owner: str, point: np.ndarray) -> list[Verdict]:
    """The verdicts of all that is visible and could be at a spot, rule by rule with the numbers; what is there first.

    Parameters
    ----------
    owner : the surface's, by key
    point : (3,) in its own coordinates, metres

    Raises CenoteError where the owner is gone.
    """
    if owner not in scene.owners():
        raise CenoteError("That surface is no longer on the site.")
    points = points_at(scene, owner, point.astype(np.float64))
    found = [verdict for kind in KINDS.values() if kind.why for verdict in kind.why(scene, owner, points)]
    return sorted(found, key=lambda verdict: not verdict.stands)


def all_snags(scene: Scene) -> list[Snag]:
    """What a viewer would notice, each with the one step that cures it where there is one."""
    return [snag for kind in KINDS.values() if kind.snags for snag in kind.snags(scene)]
