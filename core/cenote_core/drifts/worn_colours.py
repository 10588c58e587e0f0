"""Patinas on what is scattered, as colours of vertices: for the plate and for hand-overs, which know no masks there.

What proofs show texel by texel (see `carried.py`) is here the mean over things of a kind, in their own upright frame.
"""

from __future__ import annotations

from typing import Any, cast

import numpy as np

from ..graph.derived import derived
from ..materials.material import Material, srgb_to_linear
from ..materials.tile import linear_colour
from ..patinas.cover import context_of
from ..patinas.growth import age
from ..plan import GROUND, DriftPlan
from ..scene.measuring import rule_needs
from ..scene.scene import Scene
from ..surfaces import formulas
from .instance_patinas import carried, covers_on
from .instancing import build_instances, saved

_OF_ALL = 96
"""So many things of a kind are looked at, evenly picked."""
_DARKEST = 0.01
"""No base counts as darker: what lies on it would be a factor without end."""


def carries_any(scene: Scene, drift_id: str, asset_id: str) -> bool:
    """Does a patina lie on any material of an asset in a drift?"""
    return any(carried(scene, drift_id, slot) for slot in scene.kit.asset(asset_id).lods[0].slot_names)


def _needs(scene: Scene, drift_id: str, plan: DriftPlan, asset_id: str, lod: int) -> list[Any]:
    asset, found = scene.kit.asset(asset_id), []
    for slot in asset.lods[lod].slot_names:
        for key, patina, use in carried(scene, drift_id, slot):
            context = context_of(scene, key, patina)
            rules = [rule_needs(scene, GROUND, rule, context) for rule in [*patina.rules, *use.rules]]
            settings = patina.model_dump(include={"amount", "rules", "pace"})
            materials = [scene.material_ref(patina.finish.material), scene.material_ref(_base(scene, asset_id, slot))]
            found.append([slot, settings, patina.finish, use, age(scene, patina), context.touches, rules, materials])
    return [scene.kit.asset_ref(asset_id), asset_id, lod, build_instances.ref(scene, drift_id, plan), found]


@derived(_needs, keep="disk")
def worn_colours(scene: Scene, drift_id: str, plan: DriftPlan, asset_id: str, lod: int) -> np.ndarray:
    """(V, 4) float32 linear colours of an asset's vertices in a drift, its own ones and what lies on them."""
    mesh, blend = scene.kit.asset(asset_id).lods[lod], cast(Any, formulas.blend_colour)
    out = np.ones((len(mesh.positions), 4), np.float32) if mesh.colour is None else mesh.colour.astype(np.float32)
    instances = saved(scene, drift_id, plan)
    number = [share.asset for share in plan.assets].index(asset_id)
    of_kind = np.flatnonzero(instances.asset == number)
    if not len(of_kind):
        return out
    some = instances.taken(of_kind[:: max(1, len(of_kind) // _OF_ALL)][:_OF_ALL])
    for slot, name in enumerate(mesh.slot_names):
        laid_on = carried(scene, drift_id, name)
        if not laid_on:
            continue
        on = np.zeros(len(out), bool)
        on[mesh.faces[mesh.slots == slot]] = True
        base = _mean(scene.material(_base(scene, asset_id, name)))
        under = np.tile(base, (int(on.sum()), 1))
        for carries in laid_on:
            _, patina, _ = carries
            lies = covers_on(scene, carries, mesh, slot, some).mean(axis=0)[on, None]
            finish = patina.finish
            laid = np.minimum(1.0, _mean(scene.material(finish.material)) * linear_colour(finish.tint))
            under = blend(under, laid, finish.stain, lies)
        out[on, :3] *= under / np.maximum(base, _DARKEST)
    return out


def _base(scene: Scene, asset_id: str, slot: str) -> str:
    return scene.seasonal(scene.kit.asset(asset_id).materials.get(slot, "concrete"))


def _mean(material: Material) -> np.ndarray:
    """(3,) mean linear colour of what is not cut out."""
    linear = srgb_to_linear(material.colour[::4, ::4].astype(np.float32) / 255).reshape(-1, 3)
    if material.alpha is None:
        return np.asarray(linear.mean(axis=0))
    weight = material.alpha[::4, ::4].reshape(-1, 1).astype(np.float32)
    return np.asarray((linear * weight).sum(axis=0) / max(float(weight.sum()), 1.0))
