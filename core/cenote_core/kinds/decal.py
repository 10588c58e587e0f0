"""Decals: thin meshes on what they meet."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from pydantic import BaseModel

from ..decals.project import decal_mesh, receivers, stacked
from ..decals.weathered import open_and_damp
from ..delivery import decals
from ..explain.decals import decal_verdict
from ..explain.each import of_each
from ..hashing import content_hash
from ..mesh.packed import mesh_packet
from ..plan import DecalPlan
from ..proof_scene.decals import add_decals
from ..scene.scene import Scene
from ..snags.effect import Effect
from ..weather.exposure import damp_refs, reached, sky_exposure, wetted
from .kind import Address, Kind, Part


class DecalOut(BaseModel):
    """A decal as the plate knows it."""

    key: str
    url: str
    picture: str
    tint: str
    answer: tuple[float, float, float]


def _version(scene: Scene, key: str) -> str:
    plan = scene.site.decals[key]
    opened = [[sky_exposure.ref(scene, o).key for o in receivers(scene, plan)]] if reached(scene) else []
    damp = [[r.key for o in receivers(scene, plan) for r in damp_refs(scene, o)]] if wetted(scene) else []
    return content_hash(decal_mesh.ref(scene, plan).key, opened, damp)


def _packet(scene: Scene, plan: DecalPlan) -> bytes:
    """A decal's mesh; red and green of its vertices say how open to the sky and how damp it is, their alpha its fading."""
    mesh = decal_mesh(scene, plan)
    if mesh is None or mesh.colour is None:
        return mesh_packet(None)
    colour = mesh.colour.copy()
    colour[:, :2] = open_and_damp(scene, mesh)
    return mesh_packet(replace(mesh, colour=colour, uv2=None))


def _listed(scene: Scene, address: Address) -> dict[str, Any]:
    return {
        "decals": [
            {
                "key": key,
                "url": address("decal", key, _version(scene, key)),
                "picture": plan.picture,
                "tint": plan.tint,
                "answer": scene.answer(plan, plan.picture),
            }
            for key, plan in stacked(scene)
        ]
    }


def _effect(scene: Scene, key: str, plan: DecalPlan) -> Effect:
    """Square metres it falls on, and if none: why."""
    if not plan.visible:
        return Effect(0)
    if not receivers(scene, plan):
        cured = plan.model_copy(update={"only": False, "receivers": []})
        return Effect(0, "Nothing is chosen to receive it.", "let everything in its box receive it", cured.model_dump())
    mesh = decal_mesh(scene, plan)
    if mesh is None:
        return Effect(0, "Nothing that receives it lies in its box, or all of it is turned away from it.")
    return Effect(mesh.area())


KINDS_HERE = (
    Kind(
        plan=DecalPlan,
        place=50,
        sections={"decals": list[DecalOut]},
        listed=_listed,
        parts={
            "decal": Part(
                lambda scene, key: key in scene.site.decals,
                _version,
                lambda scene, key: _packet(scene, scene.site.decals[key]),
            )
        },
        preview=lambda draft: _packet(draft.after, draft.plan),
        emit=add_decals,
        hand_over=decals.add_decals,
        why=of_each(lambda scene: scene.site.decals, decal_verdict),
        effect=_effect,
        trial=lambda scene, key, plan: _packet(scene, plan),
    ),
)
