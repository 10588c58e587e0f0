"""Weather: materials as they are at the time of the year. Wetness and wind are the plate's own affair."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..eaves.icicles import icicles, icicles_ref
from ..emit.clear import add_icicles
from ..emit.pools import add_pools
from ..emit.snow import add_snow
from ..emit.tables import Shot, Tables
from ..graph.derived import derived
from ..kit.catalogue import CATALOGUE as ASSETS
from ..kit.impostor import SLOT
from ..light.sky import make_sky
from ..materials.catalogue import CATALOGUE as MATERIALS
from ..materials.catalogue import GONE, sheds_of
from ..mesh.packed import mesh_packet
from ..plan import SpellPlan, WeatherPlan
from ..pools.surface import damp_map, damp_ref, surface_ref, water_surface
from ..scene.scene import PREVIEW_LIMIT, Scene
from ..snow.cover import cover_ref, snow_cover
from .kind import Address, Draft, Kind, Part, or_ring
from .light import sky_parts
from .owners import covers_parts

VERSION_DIGITS = 12
"""Digits of a hash that tell the versions of a picture or a mesh apart in its address."""


class SnowOut(BaseModel):
    """Snow that lies on an owner as the plate knows it."""

    owner: str
    url: str


class PoolOut(BaseModel):
    """Water that stands on an owner as the plate knows it: its surface, and how wet it makes what lies round it."""

    owner: str
    url: str
    damp: str


class BodyOut(BaseModel):
    """Bodies of ice or water on an owner as the plate knows them."""

    owner: str
    stuff: Literal["ice", "water"]
    url: str


class MaterialOut(BaseModel):
    """A material as the plate knows it."""

    title: str
    kind: str
    url: str
    v: str
    tile: float
    metalness: float
    porosity: float
    sheds: float
    depth: float
    translucency: float
    alpha: bool
    size: int


def materials_info(scene: Scene) -> dict[str, dict[str, Any]]:
    """Titles, addresses and properties of all materials: generated, of far cards, and those models brought along."""
    out = {
        key: {"title": recipe.title, "kind": recipe.kind, **material_properties(scene, key)}
        for key, recipe in MATERIALS.items()
        if key != GONE
    }
    for recipe in ASSETS.values():
        far = recipe.materials.get(SLOT)
        if far:
            out[far] = {"title": recipe.title, "kind": "far", **_where(scene, far), **_FAR}
    for surface in scene.surfaces():
        if surface.material not in out and scene.at_hand(surface.material) == surface.material:
            title = f"{surface.slot}, as brought in"
            out[surface.material] = {"title": title, "kind": "imported", **material_properties(scene, surface.material)}
    for key in sorted(_asked_for(scene) - set(out)):
        out[key] = {"title": f"{key}, no longer in the kit", "kind": GONE, **material_properties(scene, GONE)}
    return out


def _asked_for(scene: Scene) -> set[str]:
    """The materials and pictures a site names."""
    return {
        *(surface.material for surface in scene.surfaces()),
        *(plan.finish.material for plan in scene.site.patinas.values()),
        *(plan.picture for plan in scene.site.decals.values()),
    }


_FAR = {
    "tile": 0.0,
    "depth": 0.0,
    "metalness": 0.0,
    "porosity": 0.8,
    "sheds": 0.0,
    "translucency": 0.35,
    "alpha": True,
    "size": 512,
}
"""Far cards are alike in everything but their picture, which is drawn when it is first seen."""


def _where(scene: Scene, key: str) -> dict[str, str]:
    """Where a material's pictures lie, and the version their addresses carry."""
    name = scene.seasonal(key)
    return {"url": f"/api/kit/materials/{name}", "v": scene.kit.material_ref(name).key[:VERSION_DIGITS]}


def material_properties(scene: Scene, key: str) -> dict[str, Any]:
    """What the plate has to know beside the pictures."""
    return {**_where(scene, key), **_figures(scene, key), "porosity": scene.porosity(key), "sheds": sheds_of(key)}


@derived(lambda scene, key: scene.kit.material_ref(key), keep="disk")
def _figures(scene: Scene, key: str) -> dict[str, Any]:
    """Kept, so that the pictures need not be read for them."""
    m = scene.kit.material(key)
    return {
        "tile": m.tile,
        "metalness": m.metalness,
        "depth": m.depth,
        "translucency": m.translucency,
        "alpha": m.alpha is not None,
        "size": m.size,
    }


def _preview(draft: Draft) -> bytes:
    """Materials of the time of the year; the sky where that is another; and covers, where the years have changed them."""
    arrays: dict[str, np.ndarray] = {}
    info: dict[str, Any] = {"materials": materials_info(draft.after)}
    parts = []
    if draft.before.sky.ref().key != draft.after.sky.ref().key:
        parts.append(sky_parts(make_sky(draft.after.site.daylight)))
    if draft.before.site.weather.years != draft.after.site.weather.years:
        aged = [plan for plan in draft.after.site.patinas.values() if plan.visible and plan.pace > 0]
        touched = {use.surface.split("/")[0] for plan in aged for use in plan.uses} & set(draft.after.owners())
        parts.append(covers_parts(draft.after, sorted(touched), PREVIEW_LIMIT))
    for more, said in parts:
        arrays |= more
        info |= said
    return pack(arrays, info)


def _snow_version(scene: Scene, owner: str) -> str:
    return or_ring(lambda: found.key if (found := cover_ref(scene, owner)) else "")


def _snow_packet(scene: Scene, owner: str) -> bytes:
    """The cover of snow on an owner, in the site's coordinates."""
    cover = snow_cover(scene, owner)
    return mesh_packet(cover.mesh, {}, {"lift": cover.lift}) if cover else mesh_packet(None)


def _snow(scene: Scene, address: Address) -> list[dict[str, str]]:
    if not scene.site.weather.snow > scene.site.weather.melted:
        return []
    return [
        {"owner": o, "url": address("snow", o, _snow_version(scene, o))} for o in scene.owners() if cover_ref(scene, o)
    ]


def _pool_version(scene: Scene, owner: str) -> str:
    return or_ring(lambda: found.key if (found := surface_ref(scene, owner)) else "")


def _damp_version(scene: Scene, owner: str) -> str:
    return or_ring(lambda: found.key if (found := damp_ref(scene, owner)) else "")


def _damp_packet(scene: Scene, owner: str) -> bytes:
    values = damp_map(scene, owner)
    return pack({} if values is None else {"damp": np.clip(values * 255 + 0.5, 0, 255).astype(np.uint8)}, {})


def _pools(scene: Scene, address: Address) -> list[dict[str, str]]:
    if not scene.site.weather.standing > 0:
        return []
    return [
        {
            "owner": o,
            "url": address("pool", o, _pool_version(scene, o)),
            "damp": address("damp", o, _damp_version(scene, o)),
        }
        for o in scene.owners()
    ]


def _icicles_version(scene: Scene, owner: str) -> str:
    return or_ring(lambda: found.key if (found := icicles_ref(scene, owner)) else "")


def _bodies(scene: Scene, address: Address) -> list[dict[str, str]]:
    if not scene.site.weather.icicles > 0:
        return []
    return [
        {"owner": o, "stuff": "ice", "url": address("icicles", o, _icicles_version(scene, o))}
        for o in scene.owners()
        if icicles_ref(scene, o)
    ]


def _emit(out: Tables, shot: Shot) -> None:
    add_snow(out, shot)
    add_pools(out, shot)
    add_icicles(out, shot)


def _stands(scene: Scene, owner: str) -> bool:
    return owner in scene.owners()


KINDS_HERE = (
    Kind(
        plan=WeatherPlan,
        place=70,
        sections={"materials": dict[str, MaterialOut], "snow": list[SnowOut], "pools": list[PoolOut], "bodies": list[BodyOut]},
        listed=lambda scene, address: {
            "materials": materials_info(scene),
            "snow": _snow(scene, address),
            "pools": _pools(scene, address),
            "bodies": _bodies(scene, address),
        },
        parts={
            "snow": Part(_stands, _snow_version, _snow_packet),
            "pool": Part(_stands, _pool_version, lambda scene, owner: mesh_packet(water_surface(scene, owner))),
            "icicles": Part(_stands, _icicles_version, lambda scene, owner: mesh_packet(icicles(scene, owner))),
            "damp": Part(_stands, _damp_version, _damp_packet),
        },
        preview=_preview,
        emit=_emit,
    ),
    # A spell is shown by being made the weather; by itself it changes nothing.
    Kind(plan=SpellPlan, place=75),
)
