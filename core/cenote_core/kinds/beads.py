"""Beads: droplets at rest, each owner's a mesh."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..beads.site_droplets import as_patina, bead_mesh, carriers, droplets, may_form, shown
from ..delivery import fallen as delivered
from ..explain.beads import beads_verdict
from ..explain.each import of_each
from ..graph.derived import Ref
from ..hashing import content_hash
from ..mesh.packed import mesh_packet
from ..patinas.cover import context_of, share_covered
from ..patinas.drawn import as_film
from ..plan import BeadsPlan
from ..proof_scene.beads import add_beads
from ..scene.measuring import RuleContext
from ..scene.scene import Scene
from ..snags.effect import Effect
from .kind import Address, Draft, Kind, Part, masks_packet, or_ring

_SEP = "~"
"""Between the key of beads and their owner in an address."""


class BeadsOut(BaseModel):
    """Beads on an owner as the plate knows them; those less than a pixel in `size`, metres of radius, it draws as a film."""

    key: str
    owner: str
    url: str
    size: float


class BeadMaskOut(BaseModel):
    """Where beads may form, as the cover of a patina."""

    key: str
    url: str


def _named(scene: Scene, name: str) -> tuple[str, BeadsPlan, str] | None:
    key, _, owner = name.partition(_SEP)
    plan = {**scene.site.of(BeadsPlan), **dict(shown(scene))}.get(key)
    return (key, plan, owner) if plan is not None and owner in carriers(scene, plan) else None


def _version(scene: Scene, name: str) -> str:
    found = _named(scene, name)
    return or_ring(lambda: bead_mesh.ref(scene, *found).key) if found else ""


def _packet(scene: Scene, name: str) -> bytes:
    found = _named(scene, name)
    return mesh_packet(bead_mesh(scene, *found) if found else None)


def _listed(scene: Scene, address: Address) -> dict[str, Any]:
    names = [(key, owner, plan.size) for key, plan in shown(scene) for owner in carriers(scene, plan)]
    authored, out = scene.site.of(BeadsPlan), []
    for key, owner, size in names:
        name = f"{key}{_SEP}{owner}"
        # What rain lays on panes has no film.
        seen = size / 1000 if key in authored else 0.0
        out.append({"key": key, "owner": owner, "url": address("beads", name, _version(scene, name)), "size": seen})
    plans = [key for key, plan in sorted(scene.site.of(BeadsPlan).items()) if plan.visible]
    masks = [{"key": key, "url": address("beadmask", key, _mask_version(scene, key))} for key in plans]
    return {"beads": out, "beadmasks": masks}


def _where(scene: Scene, key: str) -> dict[str, Ref[np.ndarray]]:
    """What says where beads may form, owner by owner."""
    plan = scene.site.of(BeadsPlan)[key]
    return {owner: may_form.ref(scene, key, plan, owner) for owner in carriers(scene, plan)}


def _mask_version(scene: Scene, key: str) -> str:
    return or_ring(lambda: content_hash(*(ref.key for ref in _where(scene, key).values())))


def _mask(scene: Scene, key: str) -> bytes:
    """(1, R, R) bytes an owner, how many of the droplets that could be there are."""
    return masks_packet(key, {owner: ref.value() for owner, ref in _where(scene, key).items()})


def _preview(draft: Draft) -> bytes:
    """Meshes of the beads as they would be, one array of bytes an owner."""
    arrays: dict[str, Any] = {}
    for owner in carriers(draft.after, draft.plan):
        packet = mesh_packet(bead_mesh(draft.after, draft.key, draft.plan, owner))
        arrays[owner] = np.frombuffer(packet, np.uint8)
    return pack(arrays, {"key": draft.key})


def _effect(scene: Scene, key: str, plan: BeadsPlan) -> Effect:
    if not plan.uses:
        return Effect(0, "No surface is chosen for them to form on. Add one at the top of the sheet.")
    owners = carriers(scene, plan)
    if not owners:
        return Effect(0, "The surfaces they form on are no longer on the site, or hidden.")
    if plan.amount <= 0:
        return Effect(0, "The amount is 0.", "set it to 1", plan.model_copy(update={"amount": 1.0}).model_dump())
    if plan.drawn:
        return _drawn_effect(scene, key, plan, owners)
    count = sum(len(drops) for owner in owners for drops in droplets(scene, key, plan, owner).values())
    if count:
        return Effect(count)
    if plan.regions:
        cured = plan.model_copy(update={"regions": []})
        return Effect(
            0, "Nothing of the chosen surfaces lies inside the region.", "let them be anywhere", cured.model_dump()
        )
    cured = plan.model_copy(update={"rules": []})
    return Effect(0, "The rules let none through anywhere.", "take the rules off", cured.model_dump())


def _drawn_effect(scene: Scene, key: str, plan: BeadsPlan, owners: list[str]) -> Effect:
    """The share of their surfaces that drawn droplets lie on."""
    film = as_film(plan)
    on = [s for s in scene.surfaces() if s.owner in owners and any(use.surface == s.ref for use in plan.uses)]
    share = float(np.mean([share_covered(scene, key, film, surface) for surface in on])) if on else 0.0
    if share > 0:
        return Effect(share)
    cured = plan.model_copy(update={"rules": []})
    return Effect(0, "The rules let none through anywhere.", "take the rules off", cured.model_dump())


def _context(scene: Scene, key: str, plan: BeadsPlan) -> RuleContext:
    return context_of(scene, key, as_patina(plan))


def _trial(scene: Scene, key: str, plan: BeadsPlan) -> None:
    for owner in carriers(scene, plan):
        bead_mesh(scene, key, plan, owner)


KINDS_HERE = (
    Kind(
        plan=BeadsPlan,
        place=80,
        sections={"beads": list[BeadsOut], "beadmasks": list[BeadMaskOut]},
        listed=_listed,
        parts={
            "beads": Part(lambda scene, name: _named(scene, name) is not None, _version, _packet),
            "beadmask": Part(lambda scene, key: key in scene.site.of(BeadsPlan), _mask_version, _mask),
        },
        preview=_preview,
        emit=add_beads,
        hand_over=delivered.add_beads,
        why=of_each(lambda scene: scene.site.of(BeadsPlan), beads_verdict),
        effect=_effect,
        context=_context,
        trial=_trial,
    ),
)
