"""Plants an artist made for one site, beside the kit they stand in."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ..base.fields import PRESENTED
from ..errors import CenoteError
from ..graph.derived import Ref, derived
from ..graph.store import Cache
from ..materials.material import Material, linear_to_srgb, srgb_to_linear
from ..materials.tile import colour
from ..plan import GrassPlan
from .catalogue import Asset
from .flora import BLADE, Plant
from .grass import Grass, grass_tuft
from .kit import Kit

OWN = "own-"
TUFTS = 3
"""Different tufts of a grass, so that a drift of nothing else has neighbours that differ."""
BLADE_SHOWS = 0.77
"""Linear brightness of the picture of a blade, which colours are multiplied with."""


def tuft_ids(item: str) -> list[str]:
    """The asset ids of a grass item."""
    return [f"{OWN}{item}.{n}" for n in range(1, TUFTS + 1)]


def _parted(asset_id: str) -> tuple[str, int]:
    """Item and number of a tuft."""
    item, _, number = asset_id.removeprefix(OWN).rpartition(".")
    return item, int(number) if number.isdecimal() else 0


_MEASURES = {
    **dict.fromkeys(("length", "clump", "stiffness", "dry", "flower"), 1.0),
    **dict.fromkeys(("root_width", "tip_width", "head_width"), 1000.0),
    **dict.fromkeys(("bend", "curl"), 180 / np.pi),
    "foot": 2.0,
}
"""Settings, and what the generator's metres, radians and radius are multiplied by in a plan."""
_COLOURS = ("root_colour", "tip_colour", "dry_colour", "head_colour")


def grass_of(plan: GrassPlan) -> Grass:
    """Settings as the generator takes them: metres, radians, linear colours."""
    settings: dict[str, Any] = {name: getattr(plan, name) / times for name, times in _MEASURES.items()}
    seen = {name: srgb_to_linear(colour(getattr(plan, name))) / BLADE_SHOWS for name in _COLOURS}
    settings |= {name: tuple(np.minimum(linear, 1.0).tolist()) for name, linear in seen.items()}
    return Grass(blades=plan.blades, **settings)


def plan_of(name: str, grass: Grass) -> GrassPlan:
    """A grass of the kit as a beginning for one's own."""
    measures = {key: round(getattr(grass, key) * times, 3) for key, times in _MEASURES.items()}
    seen = {key: linear_to_srgb(np.array(getattr(grass, key)) * BLADE_SHOWS) for key in _COLOURS}
    colours = {key: "#{:02x}{:02x}{:02x}".format(*np.round(srgb * 255).astype(int)) for key, srgb in seen.items()}
    return GrassPlan.model_validate({"name": name, "blades": grass.blades, **measures, **colours})


class SiteGrassKit:
    """A kit with the grasses of a site beside it."""

    def __init__(self, base: Kit, grasses: dict[str, GrassPlan], cache: Cache) -> None:
        self.base: Kit = base.base if isinstance(base, SiteGrassKit) else base
        self.grasses = grasses
        self.cache = cache
        self.memo: dict[Any, Any] = {}

    def own_ids(self) -> list[str]:
        """The assets the site's own grasses stand for, in stable order."""
        return [asset for item in sorted(self.grasses) for asset in tuft_ids(item)]

    def _plan(self, asset_id: str) -> GrassPlan:
        item, number = _parted(asset_id)
        plan = self.grasses.get(item)
        if plan is None or not 1 <= number <= TUFTS:
            raise CenoteError(f"There is no grass '{asset_id}' on this site any more. Choose another asset.")
        return plan

    def asset(self, asset_id: str) -> Asset:
        found = self.asset_ref(asset_id).value()
        if not asset_id.startswith(OWN):
            return found
        return replace(found, title=f"{self._plan(asset_id).name}, tuft {_parted(asset_id)[1]}")

    def asset_ref(self, asset_id: str) -> Ref[Asset]:
        return self._tuft.ref(asset_id) if asset_id.startswith(OWN) else self.base.asset_ref(asset_id)

    def _grown(self, asset_id: str) -> Any:
        return self._plan(asset_id).model_dump(exclude=PRESENTED), _parted(asset_id)[1]

    @derived(_grown)
    def _tuft(self, asset_id: str) -> Asset:
        plan, (_, number) = self._plan(asset_id), _parted(asset_id)
        lods = grass_tuft(plan.seed * TUFTS + number, grass_of(plan))
        return Asset(lods, BLADE, "", "plant")

    def plant(self, asset_id: str) -> Plant | None:
        if not asset_id.startswith(OWN):
            return self.base.plant(asset_id)
        plan = self.grasses.get(_parted(asset_id)[0])
        return None if plan is None else Plant(plan.name, "plant", list, BLADE, "grass", far="")

    def material(self, material_id: str) -> Material:
        return self.base.material(material_id)

    def material_ref(self, material_id: str) -> Ref[Material]:
        return self.base.material_ref(material_id)

    def of_season(self, material_id: str, half: int) -> str:
        return self.base.of_season(material_id, half)

    def picture(self, picture_id: str) -> np.ndarray:
        return self.base.picture(picture_id)

    def picture_ref(self, picture_id: str) -> Ref[np.ndarray]:
        return self.base.picture_ref(picture_id)
