"""The kit of everything Cenote makes itself."""

from __future__ import annotations

from ..cache import Cache
from ..errors import CenoteError
from ..hashing import content_hash
from ..materials.catalogue import make_material
from ..materials.material import Material
from .catalogue import CATALOGUE, REVISION, Asset, make_asset


class BuiltinKit:
    """Assets and materials from the generators."""

    def __init__(self, cache: Cache) -> None:
        self.cache = cache

    def asset(self, asset_id: str) -> Asset:
        return make_asset(asset_id, self.cache)

    def asset_key(self, asset_id: str) -> str:
        if asset_id not in CATALOGUE:
            raise CenoteError(f"There is no asset '{asset_id}' in the kit.")
        return content_hash("asset", asset_id, REVISION)

    def material(self, material_id: str) -> Material:
        return make_material(material_id, self.cache)
