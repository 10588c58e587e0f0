"""The bodies of what stands: how thick an asset is at each height, its stem and its crown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..graph.derived import Ref, derived
from ..kit.catalogue import Asset
from ..kit.kit import Kit
from ..plan import DriftPlan
from ..scene.provided import INSTANCES, STANDING_BODIES
from ..scene.scene import Scene
from .instances import Instances

BANDS = 5
_SOLID = 0.6
"""A band is as thick as this share of its vertices: the odd long blade does not count as body."""


@dataclass(frozen=True)
class Body:
    """An asset as keep-outs see it, at its own size.

    Attributes
    ----------
    heights : (BANDS,) middle of each band above the foot, metres
    radii : (BANDS,) thickness of the body there, metres
    stem : radius of the stem, metres
    crown : radius of the crown, metres
    tall : height of the top, metres
    """

    heights: np.ndarray
    radii: np.ndarray
    stem: float
    crown: float
    tall: float


def body_of(asset: Asset) -> Body:
    """Measure an asset's finest level."""
    p = asset.lods[0].positions
    out = np.hypot(p[:, 0], p[:, 2])
    tall = max(float(p[:, 1].max(initial=0.0)), 1e-3)
    heights = (np.arange(BANDS) + 0.5) / BANDS * tall
    band = np.clip((p[:, 1] / tall * BANDS).astype(int), 0, BANDS - 1)
    radii = np.array([float(np.quantile(out[band == k], _SOLID)) if (band == k).any() else 0.0 for k in range(BANDS)])
    crown = float(np.quantile(out, 0.95)) if len(out) else 0.0
    return Body(heights, radii, min(asset.stem, crown), crown, tall)


def bodies_of(scene: Scene, assets: list[str]) -> list[Body]:
    """Bodies of a mix, kept."""
    return [_body(scene.kit, asset) for asset in assets]


@derived(lambda kit, asset: kit.asset_ref(asset))
def _body(kit: Kit, asset: str) -> Body:
    return body_of(kit.asset(asset))


@dataclass(frozen=True)
class Placement:
    """Stems and crowns of drifts that stand.

    Attributes
    ----------
    feet : (S, 3), stems, crowns : (S,) radii in metres, tops : (S,) height above the site's zero
    """

    feet: np.ndarray
    stems: np.ndarray
    crowns: np.ndarray
    tops: np.ndarray


def bodies_refs(scene: Scene, plan: DriftPlan) -> list[Ref[Any]]:
    """What the bodies of a mix hang on, of those assets that are in the kit."""
    return [scene.kit.asset_ref(share.asset) for share in plan.assets if scene.in_kit(share.asset)]


def instances_of(scene: Scene, drift: str) -> Ref[Instances]:
    """What stands of a drift of the site, without making it."""
    return INSTANCES.ref(scene, drift, scene.site.drifts[drift])


def instances_and_bodies(scene: Scene, drifts: Sequence[str]) -> list[Any]:
    """What stands of some drifts, and what its bodies hang on, without making it."""
    return [(instances_of(scene, drift), bodies_refs(scene, scene.site.drifts[drift])) for drift in drifts]


@STANDING_BODIES.fills
@derived(instances_and_bodies)
def standing_bodies(scene: Scene, drifts: Sequence[str]) -> Placement:
    """Stems and crowns of everything that stands of some drifts."""
    feet, stems, crowns, tops = [np.zeros((0, 3))], [np.zeros(0)], [np.zeros(0)], [np.zeros(0)]
    for key in drifts:
        found = instances_of(scene, key).value()
        if len(found) == 0:
            continue
        bodies = bodies_of(scene, [share.asset for share in scene.site.drifts[key].assets])
        sizes = np.array([(b.stem, b.crown, b.tall) for b in bodies])[found.asset] * found.scale[:, None]
        feet.append(found.position.astype(np.float64))
        stems.append(sizes[:, 0])
        crowns.append(sizes[:, 1])
        tops.append(found.position[:, 1] + sizes[:, 2])
    return Placement(*(np.concatenate(part) for part in (feet, stems, crowns, tops)))
