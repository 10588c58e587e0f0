"""The kit of everything Cenote makes itself."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import CenoteError
from ..graph.derived import Ref, derived
from ..graph.store import Cache
from ..materials.catalogue import is_seasonal, make_material
from ..materials.material import Material
from ..materials.seasons import parted, seasonal_name
from .catalogue import CATALOGUE, Asset, Recipe, make_asset
from .flora import PLANTS, Plant
from .impostor import SLOT, impostor_picture

FAR = "far."


def _far_recipe(material_id: str) -> tuple[str, Recipe, bool]:
    """The asset a far card shows, how that is made, and whether it is seen lying; CenoteError where there is none."""
    asset_id = parted(material_id)[0].removeprefix(FAR)
    recipe = CATALOGUE.get(asset_id)
    if recipe is None or recipe.plant is None or not recipe.plant.far:
        raise CenoteError(f"There is no material '{material_id}'. Choose one from the kit.")
    return asset_id, recipe, recipe.plant.far == "lying"


class BuiltinKit:
    """Assets and materials from the generators."""

    def __init__(self, cache: Cache) -> None:
        self.cache = cache
        self.memo: dict[Any, Any] = {}

    def asset(self, asset_id: str) -> Asset:
        return self.asset_ref(asset_id).value()

    def asset_ref(self, asset_id: str) -> Ref[Asset]:
        return make_asset.ref(self, asset_id)

    def plant(self, asset_id: str) -> Plant | None:
        return PLANTS.get(asset_id)

    def material(self, material_id: str) -> Material:
        return self.material_ref(material_id).value()

    def material_ref(self, material_id: str) -> Ref[Material]:
        return (
            _far_material.ref(self, material_id)
            if material_id.startswith(FAR)
            else make_material.ref(self, material_id)
        )

    def picture(self, picture_id: str) -> np.ndarray:
        """Pictures are brought in with a site; the generated kit has none."""
        return self.picture_ref(picture_id).value()

    def picture_ref(self, picture_id: str) -> Ref[np.ndarray]:
        """See `picture`."""
        raise CenoteError(f"There is no image '{picture_id}' on this site any more. Choose another one.")

    def of_season(self, material_id: str, half: int) -> str:
        """The name of a material as it is in a half month of the year; the same name where seasons do not matter."""
        seasonal = material_id.startswith(FAR) or is_seasonal(material_id)
        return seasonal_name(material_id, half) if seasonal else material_id


def _leaf(material_id: str, slot: str) -> str:
    """The material of one of the asset's slots in the half month a far card shows."""
    _, recipe, _ = _far_recipe(material_id)
    name, half = recipe.materials.get(slot, "concrete"), parted(material_id)[1]
    return seasonal_name(name, half) if is_seasonal(name) else name


def _drawn_from(kit: BuiltinKit, material_id: str) -> list[Ref[Any]]:
    asset_id, recipe, _ = _far_recipe(material_id)
    slots = sorted({*recipe.materials, ""} - {SLOT})
    return [kit.asset_ref(asset_id), *(kit.material_ref(_leaf(material_id, slot)) for slot in slots)]


@derived(_drawn_from, keep="disk")
def _far_material(kit: BuiltinKit, material_id: str) -> Material:
    """The picture of a far card: the asset drawn with the leaves of its half month."""
    asset_id, _, lying = _far_recipe(material_id)
    return impostor_picture(kit.asset(asset_id).lods[0], lambda slot: kit.material(_leaf(material_id, slot)), lying)
