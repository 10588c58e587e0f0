"""Weather: materials as they are at the time of the year. Wetness and wind are the plate's own affair."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..delivery.drifts import add_floating as add_afloat
from ..delivery.fallen import add_fallen
from ..delivery.fallen import add_hanging as add_clear
from ..delivery.listing import Delivery
from ..explain.weather import weather_verdicts
from ..graph.derived import derived
from ..kit.catalogue import CATALOGUE as ASSETS
from ..kit.impostor import SLOT
from ..light.sky import make_sky
from ..materials.catalogue import CATALOGUE as MATERIALS
from ..materials.catalogue import GONE, aspect_of, is_window, sheds_of
from ..materials.figures import FIGURES, figures_of
from ..plan import SpellPlan, WeatherPlan
from ..proof_scene.afloat import add_floating
from ..proof_scene.clear import add_hanging
from ..proof_scene.pools import add_pools
from ..proof_scene.snow import add_snow
from ..proof_scene.tables import Shot, Tables
from ..scene.scene import PREVIEW_LIMIT, Scene
from . import weather_parts
from .kind import Draft, Kind
from .light import sky_parts
from .owners import covers_parts

VERSION_DIGITS = 12
"""Digits of a hash that tell the versions of a picture or a mesh apart in its address."""


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
    window: bool
    aspect: float
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
    "window": False,
    "aspect": 1.0,
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
    return {
        **_where(scene, key),
        **_figures(scene, key),
        "porosity": scene.porosity(key),
        "sheds": sheds_of(key),
        "window": is_window(key),
        "aspect": aspect_of(key),
    }


def _figures(scene: Scene, key: str) -> dict[str, Any]:
    """Of the kit's own they are known; no picture is made for them."""
    return FIGURES[key] if key in FIGURES else _figures_brought_in(scene, key)


@derived(lambda scene, key: scene.kit.material_ref(key), keep="disk")
def _figures_brought_in(scene: Scene, key: str) -> dict[str, Any]:
    """Kept, so that the pictures need not be read for them."""
    return figures_of(scene.kit.material(key))


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


def _emit(out: Tables, shot: Shot) -> None:
    add_snow(out, shot)
    add_pools(out, shot)
    add_hanging(out, shot)
    add_floating(out, shot)


def _hand_over(to: Delivery, scene: Scene) -> None:
    to.told("what has fallen")
    add_fallen(to, scene)
    add_clear(to, scene)
    add_afloat(to, scene)


KINDS_HERE = (
    Kind(
        plan=WeatherPlan,
        place=70,
        sections={"materials": dict[str, MaterialOut], **weather_parts.SECTIONS},
        listed=lambda scene, address: {"materials": materials_info(scene), **weather_parts.listed(scene, address)},
        parts=weather_parts.PARTS,
        preview=_preview,
        emit=_emit,
        why=weather_verdicts,
        hand_over=_hand_over,
    ),
    # A spell is shown by being made the weather; by itself it changes nothing.
    Kind(plan=SpellPlan, place=75),
)
