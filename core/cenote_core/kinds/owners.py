"""What ground and pieces have in common: meshes, the covers of what lies on them, how far they lie open to the sky."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..graph.derived import Ref, derived
from ..ground.terrain import ground_mesh, thinned
from ..mesh.packed import mesh_packet
from ..patinas.cover import cover, owner_covers, plate_stack
from ..patinas.drawn import far_films
from ..plan import GROUND
from ..scene import land
from ..scene.scene import VIEW_LIMIT, Scene
from ..weather.exposure import sky_exposure
from .kind import Address, Part, or_ring
from .pages import PAGE

VIEW_SIDE = 1025
"""Points of the ground along a side, at most, as the plate draws it at rest."""


class SurfaceOut(BaseModel):
    """A surface as the plate knows it; `answer` is its porosity, whether snow slips off, whether it is free of frost."""

    ref: str
    slot: str
    material: str
    label: str
    layer: str
    answer: tuple[float, float, float]


class OwnerOut(BaseModel):
    """The ground or a piece as the plate knows it; `cover` is empty where nothing lies on it."""

    owner: str
    mesh: str
    cover: str
    exposure: str
    surfaces: list[SurfaceOut]
    patinas: list[str]
    lift: float


def owners_listed(scene: Scene, address: Address) -> list[dict[str, Any]]:
    """The ground, then every piece."""
    by_owner: dict[str, list[dict[str, Any]]] = {}
    for s in scene.surfaces():
        entry: dict[str, Any] = {
            "ref": s.ref,
            "slot": s.slot,
            "material": s.material,
            "label": s.label,
            "layer": s.layer,
        }
        entry["answer"] = scene.answer(scene.response(s.owner), s.material)
        by_owner.setdefault(s.owner, []).append(entry)
    owners = []
    for owner in scene.owners():
        patinas = [name for name, _, _ in plate_stack(scene, owner)]
        at = lambda part, owner=owner: address(part, owner, OWNER_PARTS[part].version(scene, owner))  # noqa: E731
        owners.append(
            {
                "owner": owner,
                "mesh": at("mesh"),
                "cover": at("covers") if patinas else "",
                "exposure": at("exposure"),
                "surfaces": by_owner[owner],
                "patinas": patinas,
                "lift": 0.0 if owner == GROUND else float(land.lift(scene, owner)),
            }
        )
    return owners


def ground_packet(scene: Scene, most: int, info: dict[str, Any] | None = None) -> bytes:
    """The ground as the plate draws it, and how many rows and columns of points it has."""
    plan, y = thinned(scene.site.ground, land.heights(scene), most)
    return mesh_packet(ground_mesh(plan, y), {"grid": list(y.shape), **(info or {})})


def _film_refs(scene: Scene, owner: str, limit: int) -> list[Ref[np.ndarray]]:
    """(N,) covers of the droplets that are drawn as films from afar, on the owner's texels."""
    side = scene.resolution(owner, limit)
    return [cover.ref(scene, key, film, owner, side) for key, film in far_films(scene, owner)]


def covers_parts(scene: Scene, owners: list[str], limit: int) -> tuple[dict[str, np.ndarray], dict[str, Any]]:
    """Covers of several owners as bytes, one array an owner: (patinas, R, R), row 0 at v = 0; and what lies on each."""
    arrays, order = {}, {}
    for owner in owners:
        films = [ref.value() for ref in _film_refs(scene, owner, limit)]
        table = scene.table(owner, scene.resolution(owner, limit))
        values = np.concatenate([owner_covers(scene, owner, limit), *(table.spread(film)[None] for film in films)])
        arrays[owner] = np.clip(values * 255 + 0.5, 0, 255).astype(np.uint8)
        order[owner] = [name for name, _, _ in plate_stack(scene, owner)]
    return arrays, {"patinas": order}


def covers_packet(scene: Scene, owners: list[str], limit: int, info: dict[str, Any] | None = None) -> bytes:
    """The same as one packet."""
    arrays, order = covers_parts(scene, owners, limit)
    return pack(arrays, {**order, **(info or {})})


def _exposure_packet(scene: Scene, owner: str) -> bytes:
    values = np.clip(sky_exposure(scene, owner) * 255 + 0.5, 0, 255).astype(np.uint8)
    return pack({"exposure": values}, {})


def _mesh_version(scene: Scene, owner: str) -> str:
    # A piece's mesh is its asset's, wherever it stands.
    return scene.mesh.ref(owner).key if owner == GROUND else scene.kit.asset_ref(scene.site.pieces[owner].asset).key


def _mesh(scene: Scene, owner: str) -> bytes:
    return ground_packet(scene, VIEW_SIDE) if owner == GROUND else mesh_packet(scene.local_mesh(owner))


def _stands(scene: Scene, owner: str) -> bool:
    return owner in scene.owners()


@derived(
    lambda scene, owner: [
        owner_covers.ref(scene, owner, VIEW_LIMIT),
        _film_refs(scene, owner, VIEW_LIMIT),
        scene.table.ref(owner, scene.resolution(owner, VIEW_LIMIT)),
        [name for name, _, _ in plate_stack(scene, owner)],
    ],
    keep="disk",
)
def _drawn_covers(scene: Scene, owner: str) -> bytes:
    """The covers of an owner as they are sent; on disk, for a site is opened more often than it is changed."""
    return covers_packet(scene, [owner], VIEW_LIMIT)


OWNER_PARTS = {
    "mesh": Part(_stands, _mesh_version, _mesh),
    "covers": Part(
        _stands,
        lambda scene, owner: or_ring(lambda: _drawn_covers.ref(scene, owner).key),
        _drawn_covers,
    ),
    "page": PAGE,
    "exposure": Part(_stands, lambda scene, owner: sky_exposure.ref(scene, owner).key, _exposure_packet),
}
