"""How the ground and pieces of a site respond to the weather that shows, and what does not respond and why."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.fields import Item
from ..columns.grid import columns_of
from ..eaves.icicles import hang
from ..eaves.lips import fed, lips
from ..plan import GROUND
from ..plan import Response as Answer
from ..pools.standing import drains, standing_water
from ..scene.scene import Scene
from ..snow.cover import lying_ref, takes_snow
from ..snow.fall import reach, wind_of
from ..weather.exposure import sky_exposure

_ROOFED = 0.25
"""Share of the sky, or of what falls, under which a thing stands under a roof."""
_LEVEL = 0.77
"""Upward part of a normal from which snow holds, and water could stand."""
_SOAKS, _SEALED = 0.85, 0.2
"""Share that soaks away from which no water stands, and porosity under which a thing only shines in the wet."""
_LITTLE = 0.1
"""Share of what fell in the open under which next to nothing lies."""


@dataclass(frozen=True)
class Response:
    """One thing and what the weather does to it.

    Attributes
    ----------
    item, name : the ground, or any item
    what : "snow", "standing water", "wetness", "frost" or "icicles"
    amount, unit : how much of it, on the mean
    reason : why next to nothing, empty where it responds
    cure : what the one step is called; empty where there is none
    plan : the item's plan after that step, or None
    """

    item: str
    name: str
    what: str
    amount: float
    unit: str
    reason: str = ""
    cure: str = ""
    plan: dict[str, Any] | None = None


def responses(scene: Scene) -> list[Response]:
    """How the ground and pieces respond to what falls and stands, and what was set not to; what does not comes first."""
    now = scene.site.weather
    found: list[Response] = []
    for owner in scene.owners():
        if now.snow > 0:
            found.append(_snow(scene, owner))
        if now.standing > 0:
            found.append(_water(scene, owner))
        if now.wetness > 0:
            found.append(_wet(scene, owner))
        if now.icicles > 0 and owner != GROUND:
            found.append(_icy(scene, owner))
    themselves: list[tuple[str, Any]] = [
        item for kind in (scene.site.decals, scene.site.drifts, scene.site.pieces) for item in kind.items()
    ]
    for key, plan in themselves:
        if plan.visible:
            found += _kept_off(scene, key, plan, plan, plan.model_copy)
    for key, patina in scene.site.patinas.items():
        changed = lambda update, p=patina: p.model_copy(update={"finish": p.finish.model_copy(update=update)})  # noqa: E731
        if patina.visible and patina.uses:
            found += _kept_off(scene, key, patina, patina.finish, changed)
    return sorted(found, key=lambda r: not r.reason)


def _kept_off(
    scene: Scene, key: str, plan: Item, answer: Answer, changed: Callable[..., Item]
) -> list[Response]:  # fmt: skip
    """What something has been set not to answer to. Snow on pieces has a line of its own, with its depth."""
    now = scene.site.weather
    asked = [
        (now.frost > 0 and not answer.takes_frost, "frost", "It is kept free of frost.", "let frost form", {"takes_frost": True}),
        (now.wetness > 0 and answer.soaks == 0, "wetness", "It is set to take no water up: it only shines in the wet.",
         "let it soak as its material does", {"soaks": None}),
        (now.snow > 0 and not answer.takes_snow and key not in scene.site.pieces, "snow", "It is kept free of snow.",
         "let snow lie on it", {"takes_snow": True}),
    ]  # fmt: skip
    return [
        Response(key, plan.name, what, 0.0, "", reason, cure, changed(update=update).model_dump())
        for holds, what, reason, cure, update in asked
        if holds
    ]


def _name(scene: Scene, owner: str) -> str:
    return "ground" if owner == GROUND else scene.piece(owner).name


def _snow(scene: Scene, owner: str) -> Response:
    name, columns = _name(scene, owner), columns_of(scene, owner)
    if not takes_snow(scene, owner):
        cured = scene.piece(owner).model_copy(update={"takes_snow": True})
        return Response(
            owner, name, "snow", 0.0, "cm", "It is kept free of snow.", "let snow lie on it", cured.model_dump()
        )
    level = columns.there & (columns.up > _LEVEL)
    if not level.any():
        return Response(owner, name, "snow", 0.0, "cm", "Nothing on it is level enough for snow to hold.")
    found = lying_ref(scene, owner)
    depth = float(np.maximum(found.value().depth, 0)[level].mean()) * 100 if found else 0.0
    if depth > _LITTLE * scene.site.weather.snow:
        return Response(owner, name, "snow", depth, "cm")
    if float(np.maximum(reach(scene, owner, wind_of(scene)), 0)[level].mean()) < _ROOFED:
        reason = "It stands under a roof, where no snow reaches."
    else:
        reason = "The sun has taken it."
    return Response(owner, name, "snow", depth, "cm", reason)


def _water(scene: Scene, owner: str) -> Response:
    name, columns = _name(scene, owner), columns_of(scene, owner)
    found = standing_water(scene, owner, scene.site.weather.standing / 1000)
    level = columns.there & (columns.up > _LEVEL)
    litres = found.stored * 1000
    area = float(level.sum()) * columns.cell**2
    if litres > _LITTLE * area:
        return Response(owner, name, "standing water", litres, "l")
    if not level.any():
        reason = "Nothing on it is level enough for water to stand."
    elif float(drains(scene, owner)[level].mean()) > _SOAKS:
        reason = "It lets water through: what it is made of drains."
    elif found.came < _ROOFED * scene.site.weather.standing / 1000 * area:
        reason = "It stands under a roof, and no water runs in."
    else:
        reason = "It has no hollows: water runs off it."
    return Response(owner, name, "standing water", litres, "l", reason)


def _wet(scene: Scene, owner: str) -> Response:
    name = _name(scene, owner)
    open_sky = float(sky_exposure(scene, owner).mean())
    answer = scene.response(owner)
    pores = [scene.soaks(answer, s.material) for s in scene.surfaces_of(owner)]
    share = min(1.0, 2 * scene.site.weather.wetness * open_sky)
    if open_sky < _ROOFED:
        return Response(owner, name, "wetness", share, "", "It stands under a roof and stays dry.")
    if max(pores, default=0.0) < _SEALED:
        return Response(
            owner, name, "wetness", share, "", "It does not soak: in the wet it shines and does not darken."
        )
    return Response(owner, name, "wetness", share, "")


def _icy(scene: Scene, owner: str) -> Response:
    name, along = _name(scene, owner), lips(scene, owner)
    hanging = len(hang(along, fed(scene, owner), scene.site.weather.icicles / 100).length)
    if hanging:
        return Response(owner, name, "icicles", float(hanging), "")
    if not len(along):
        reason = "It has no lower edge with air under it for them to hang from."
    else:
        reason = "No water comes to its lower edges, or none of them has room for an icicle."
    return Response(owner, name, "icicles", 0.0, "", reason)
