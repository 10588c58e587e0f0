"""Decals: thin meshes on what they meet."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from ..decals.project import decal_mesh, stacked
from ..emit.decals import add_decals
from ..mesh.packed import mesh_packet
from ..plan import DecalPlan
from ..scene.scene import Scene
from .kind import Address, Kind, Part


class DecalOut(BaseModel):
    """A decal as the plate knows it."""

    key: str
    url: str
    picture: str
    tint: str


def _version(scene: Scene, key: str) -> str:
    return decal_mesh.ref(scene, scene.site.decals[key]).key


def _listed(scene: Scene, address: Address) -> dict[str, Any]:
    return {
        "decals": [
            {
                "key": key,
                "url": address("decal", key, _version(scene, key)),
                "picture": plan.picture,
                "tint": plan.tint,
            }
            for key, plan in stacked(scene)
        ]
    }


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
                lambda scene, key: mesh_packet(decal_mesh(scene, scene.site.decals[key])),
            )
        },
        preview=lambda draft: mesh_packet(decal_mesh(draft.after, draft.plan)),
        emit=add_decals,
    ),
)
