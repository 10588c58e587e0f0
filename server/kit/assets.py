"""The kit of one site: generated assets and what was imported for it."""

import numpy as np

from cenote_core.cache import Cache
from cenote_core.errors import CenoteError
from cenote_core.formats.model import Model, read_model, settled_asset
from cenote_core.formats.picture import read_picture
from cenote_core.hashing import content_hash
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.catalogue import Asset
from cenote_core.materials.material import Material

from .models import ImportedAsset, ImportedPicture


class SiteKit(BuiltinKit):
    """Adds a site's imported assets, and their own pictures as materials, to the generated ones."""

    def __init__(self, site, cache: Cache) -> None:
        super().__init__(cache)
        self.site = site
        self._rows: dict[str, ImportedAsset] | None = None
        self._pictures: dict[str, ImportedPicture] | None = None

    def rows(self) -> dict[str, ImportedAsset]:
        """Imported assets in use, read once a request."""
        if self._rows is None:
            self._rows = {r.id: r for r in ImportedAsset.objects.filter(site=self.site, settled=True, deleted=None)}
        return self._rows

    def model(self, asset_id: str) -> Model:
        """What the file held, read again only if the cache was deleted."""
        return model_of(self._row(asset_id), self.cache)

    def _row(self, asset_id: str) -> ImportedAsset:
        row = self.rows().get(asset_id)
        if row is None:
            raise CenoteError(f"There is no asset '{asset_id}' in the kit. Choose another one for this item.")
        return row

    def asset_key(self, asset_id: str) -> str:
        if not asset_id.startswith("import-"):
            return super().asset_key(asset_id)
        row = self._row(asset_id)
        return content_hash("imported", row.id, row.info.get("scale"), row.info.get("up"))

    def asset(self, asset_id: str) -> Asset:
        if not asset_id.startswith("import-"):
            return super().asset(asset_id)
        row = self._row(asset_id)
        key = content_hash("imported asset", self.asset_key(asset_id))
        return self.cache.get(
            key,
            lambda: settled_asset(self.model(asset_id), row.id, row.title, row.info["scale"], row.info["up"]),
            on_disk=True,
        )

    def picture(self, picture_id: str) -> np.ndarray:
        row = self._picture_row(picture_id)

        def make() -> np.ndarray:
            with row.original.open("rb") as file:
                return read_picture(file.read(), row.filename)

        return self.cache.get(content_hash("picture", row.id), make, on_disk=True)

    def picture_key(self, picture_id: str) -> str:
        return content_hash("picture", self._picture_row(picture_id).id)

    def _picture_row(self, picture_id: str) -> ImportedPicture:
        if self._pictures is None:
            self._pictures = {r.id: r for r in ImportedPicture.objects.filter(site=self.site, deleted=None)}
        row = self._pictures.get(picture_id)
        if row is None:
            raise CenoteError(f"There is no image '{picture_id}' on this site any more. Choose another one.")
        return row

    def material_key(self, material_id: str) -> str:
        if not material_id.startswith("import-"):
            return super().material_key(material_id)
        return content_hash("imported material", self._row(material_id.rpartition(".")[0]).id, material_id)

    def material(self, material_id: str) -> Material:
        if not material_id.startswith("import-"):
            return super().material(material_id)
        asset_id, _, number = material_id.rpartition(".")
        materials = self.model(asset_id).materials
        if not number.isdigit() or int(number) >= len(materials):
            raise CenoteError(f"There is no material '{material_id}'.")
        return materials[int(number)]


def model_of(row: ImportedAsset, cache: Cache) -> Model:
    """The file of a row, read."""

    def make() -> Model:
        with row.original.open("rb") as file:
            return read_model(file.read(), row.filename)

    return cache.get(content_hash("model file", row.id), make, on_disk=True)
