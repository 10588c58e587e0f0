"""Drifts: what is scattered, plot by plot."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..delivery import drifts
from ..drifts.instancing import build_instances, context_of
from ..drifts.mask import drift_mask
from ..drifts.plots import Counted, Plot, near_plots, plots_of
from ..drifts.worn_colours import carries_any, worn_colours
from ..explain.drifts import drift_verdict
from ..explain.each import of_each
from ..hashing import content_hash
from ..plan import DriftPlan
from ..proof_scene.drifts import add_drifts
from ..scene.scene import Scene
from ..snags.drifts import drift_snags
from ..snags.effect import drift_effect
from .kind import Address, Draft, Kind, Part, masks_packet, or_ring


class GrownOut(BaseModel):
    """A material that things of a drift are made of, which patinas may lie on."""

    ref: str
    slot: str
    material: str


class DriftOut(BaseModel):
    """A drift as the plate knows it."""

    key: str
    url: str
    mask: str
    worn: dict[str, list[str]]
    surfaces: list[GrownOut]


def _version(scene: Scene, key: str) -> str:
    return or_ring(lambda: build_instances.ref(scene, key, scene.site.drifts[key]).key)


def _listed(scene: Scene, address: Address) -> dict[str, Any]:
    shown = [key for key, drift in sorted(scene.site.drifts.items()) if drift.visible]
    return {
        "drifts": [
            {
                "key": key,
                "url": address("instances", key, _version(scene, key)),
                "mask": address("masks", key, _mask_version(scene, key)),
                "worn": _worn(scene, key, address),
                "surfaces": _grown(scene, key),
            }
            for key in shown
        ]
    }


def _stood_on(scene: Scene, key: str) -> list[str]:
    """What a drift may stand on."""
    return sorted({ref.split("/")[0] for ref in scene.site.drifts[key].surfaces} & set(scene.owners()))


def _mask_version(scene: Scene, key: str) -> str:
    plan = scene.site.drifts[key]
    refs = lambda: [drift_mask.ref(scene, key, plan, owner).key for owner in _stood_on(scene, key)]  # noqa: E731
    return or_ring(lambda: content_hash(refs()))


def _mask(scene: Scene, key: str) -> bytes:
    """Where a drift may stand and how much of it, like the cover of a patina."""
    owners = _stood_on(scene, key)
    masks = {owner: drift_mask(scene, key, scene.site.drifts[key], owner) for owner in owners}
    return masks_packet(key, masks)


def _worn(scene: Scene, key: str, address: Address) -> dict[str, list[str]]:
    """Where the vertex colours of assets come from that carry patinas in this drift, level by level."""
    plan = scene.site.drifts[key]
    names = {
        share.asset: [f"{key}/{share.asset}/{lod}" for lod in range(len(scene.kit.asset(share.asset).lods))]
        for share in plan.assets
        if scene.in_kit(share.asset) and carries_any(scene, key, share.asset)
    }
    return {asset: [address("worn", name, _worn_version(scene, name)) for name in of] for asset, of in names.items()}


def _worn_named(scene: Scene, name: str) -> tuple[str, DriftPlan, str, int] | None:
    """What `drift/asset/level` names."""
    key, asset, level = [*name.split("/"), "", ""][:3]
    plan = scene.site.drifts.get(key)
    known = plan and asset in {share.asset for share in plan.assets} and scene.in_kit(asset)
    if not plan or not known or not level.isdecimal() or len(level) > 2:
        return None
    return (key, plan, asset, int(level)) if int(level) < len(scene.kit.asset(asset).lods) else None


def _worn_version(scene: Scene, name: str) -> str:
    named = _worn_named(scene, name)
    assert named
    return or_ring(lambda: worn_colours.ref(scene, *named).key)


def _worn_packet(scene: Scene, name: str) -> bytes:
    named = _worn_named(scene, name)
    assert named
    return pack({"color": worn_colours(scene, *named)}, {})


def _grown(scene: Scene, key: str) -> list[dict[str, str]]:
    """The materials of a drift, one a slot of its assets; what is no longer in the kit has none."""
    plan = scene.site.drifts[key]
    found: dict[str, dict[str, str]] = {}
    for share in plan.assets:
        if not scene.in_kit(share.asset):
            continue
        asset = scene.kit.asset(share.asset)
        for slot in asset.lods[0].slot_names:
            ref = f"{key}/{slot}"
            material = asset.materials.get(slot, "concrete")
            found.setdefault(ref, {"ref": ref, "slot": slot, "material": material})
    return list(found.values())


def drift_packet(scene: Scene, key: str) -> bytes:
    """A saved drift: what its plots are. Only one comes along here, more have addresses of their own."""
    plan = scene.site.drifts[key]
    plots, places = plots_of(scene, key, plan)
    counted = Counted(sum(plot.count for plot in plots), places)
    return _packet(plan, plots if len(plots) == 1 else [], [plot.entry() for plot in plots], counted)


def _preview(draft: Draft) -> bytes:
    """A drift as it would be: of its plots the nearest, as many as the plate takes in while a handle is dragged."""
    near, others, counted = near_plots(draft.after, draft.key, draft.plan, draft.eye, draft.most)
    beyond = [{"cell": name, "count": count} for name, count in others]
    return _packet(draft.plan, near, [*(plot.entry() for plot in near), *beyond], counted)


def _packet(plan: DriftPlan, along: list[Plot], entries: list[dict[str, Any]], counted: Counted) -> bytes:
    return pack(
        {plot.cell: np.frombuffer(plot.data, np.uint8) for plot in along},
        {
            "assets": [share.asset for share in plan.assets],
            "count": counted.standing,
            "places": counted.places,
            "plots": entries,
        },
    )


def _plot(scene: Scene, name: str) -> Plot | None:
    """One plot of a drift, by `drift/cell`."""
    key, _, cell = name.partition("/")
    plan = scene.site.drifts.get(key)
    plots = plots_of(scene, key, plan)[0] if plan else []
    return next((plot for plot in plots if plot.cell == cell), None)


def _known_plot(scene: Scene, name: str) -> Plot:
    plot = _plot(scene, name)
    assert plot is not None
    return plot


def _trial(scene: Scene, key: str, plan: DriftPlan) -> None:
    if plan.assets:
        plots_of(scene, key, plan)


def _growing(scene: Scene) -> dict[str, DriftPlan]:
    return {key: plan for key, plan in scene.site.drifts.items() if plan.assets}


KINDS_HERE = (
    Kind(
        plan=DriftPlan,
        place=20,
        sections={"drifts": list[DriftOut]},
        listed=_listed,
        parts={
            "instances": Part(lambda scene, key: key in scene.site.drifts, _version, drift_packet),
            "worn": Part(lambda scene, name: _worn_named(scene, name) is not None, _worn_version, _worn_packet),
            "masks": Part(lambda scene, key: key in scene.site.drifts, _mask_version, _mask),
            "plots": Part(
                lambda scene, name: _plot(scene, name) is not None,
                lambda scene, name: _known_plot(scene, name).version,
                lambda scene, name: _known_plot(scene, name).data,
            ),
        },
        preview=_preview,
        emit=add_drifts,
        hand_over=drifts.add_drifts,
        why=of_each(_growing, drift_verdict),
        snags=drift_snags,
        effect=drift_effect,
        context=context_of,
        trial=_trial,
    ),
)
