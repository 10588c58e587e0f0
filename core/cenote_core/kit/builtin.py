"""The kit of everything Cenote makes itself."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..cache import Cache
from ..errors import CenoteError
from ..hashing import content_hash
from ..materials.catalogue import REVISION as MATERIALS_REVISION
from ..materials.catalogue import is_seasonal, make_material, recipe_of
from ..materials.material import Material
from ..materials.seasons import parted, seasonal_name
from .catalogue import CATALOGUE, REVISION, Asset, Recipe, make_asset
from .farcard import far_picture
from .flora import PLANTS, Plant

FAR = "far."


@lru_cache(maxsize=4096)
def _generated_key(asset_id: str) -> str:
    return content_hash("asset", asset_id, REVISION)


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

    def asset(self, asset_id: str) -> Asset:
        return make_asset(asset_id, self.cache)

    def asset_key(self, asset_id: str) -> str:
        if asset_id not in CATALOGUE:
            raise CenoteError(f"There is no asset '{asset_id}' in the kit.")
        return _generated_key(asset_id)

    def plant(self, asset_id: str) -> Plant | None:
        return PLANTS.get(asset_id)

    def material(self, material_id: str) -> Material:
        if material_id.startswith(FAR):
            return self._far(material_id)
        return make_material(material_id, self.cache)

    def material_key(self, material_id: str) -> str:
        if material_id.startswith(FAR):
            # A far card is drawn from its asset's mesh.
            _far_recipe(material_id)
            return content_hash("material", material_id, MATERIALS_REVISION, REVISION)
        recipe_of(material_id)
        return content_hash("material", material_id, MATERIALS_REVISION, "")

    def _far(self, material_id: str) -> Material:
        """The picture of a far card: the asset drawn with the leaves of its half month."""
        asset_id, recipe, lying = _far_recipe(material_id)
        half = parted(material_id)[1]

        def picture(slot: str) -> Material:
            name = recipe.materials.get(slot, "concrete")
            return self.material(seasonal_name(name, half) if is_seasonal(name) else name)

        key = content_hash("far picture", self.asset_key(asset_id), half, MATERIALS_REVISION)
        return self.cache.get(key, lambda: far_picture(self.asset(asset_id).lods[0], picture, lying), on_disk=True)

    def picture(self, picture_id: str) -> np.ndarray:
        """Pictures are brought in with a site; the generated kit has none."""
        raise CenoteError(f"There is no image '{picture_id}' on this site any more. Choose another one.")

    def picture_key(self, picture_id: str) -> str:
        """See `picture`."""
        raise CenoteError(f"There is no image '{picture_id}' on this site any more. Choose another one.")

    def of_season(self, material_id: str, half: int) -> str:
        """The name of a material as it is in a half month of the year; the same name where seasons do not matter."""
        seasonal = material_id.startswith(FAR) or is_seasonal(material_id)
        return seasonal_name(material_id, half) if seasonal else material_id
