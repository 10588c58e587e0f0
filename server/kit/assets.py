"""The kit of one site: generated assets and what was imported for it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from cenote_core.errors import CenoteError
from cenote_core.formats.model import Model, settled_asset
from cenote_core.graph.derived import Ref, derived
from cenote_core.graph.store import Cache
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.catalogue import Asset
from cenote_core.materials.material import Material

from .models import ImportedAsset, ImportedPicture
from .reading import read_apart


@derived(lambda kit, row: row.id, keep="disk")
def model_of(kit: SiteKit, row: ImportedAsset) -> Model:
    """What the file of a row holds."""
    with row.original.open("rb") as file:
        return read_apart("model", file, row.filename, kit.tell)


class SiteKit(BuiltinKit):
    """Adds a site's imported assets, and their own pictures as materials, to the generated ones."""

    def __init__(self, site: Any, cache: Cache, tell: Callable[[str], None] = lambda stage: None) -> None:
        super().__init__(cache)
        self.site = site
        self.tell = tell
        self._rows: dict[str, ImportedAsset] | None = None
        self._pictures: dict[str, ImportedPicture] | None = None

    def rows(self) -> dict[str, ImportedAsset]:
        """Imported assets in use, read once a request."""
        return {key: row for key, row in self._all().items() if row.settled and row.deleted is None}

    def _all(self) -> dict[str, ImportedAsset]:
        if self._rows is None:
            self._rows = {r.id: r for r in ImportedAsset.objects.filter(site=self.site)}
        return self._rows

    def model(self, asset_id: str) -> Model:
        """What the file held, read again only if the cache was deleted."""
        return model_of(self, self.row(asset_id))

    def row(self, asset_id: str) -> ImportedAsset:
        """What is known of an imported asset, or CenoteError where it is gone."""
        row = self._all().get(asset_id)
        if row is None:
            raise CenoteError(f"There is no asset '{asset_id}' in the kit. Choose another one for this item.")
        if row.deleted is not None:
            raise CenoteError(f"‘{row.title}’ was taken out of the kit. Choose another asset for this item.")
        if not row.settled:
            raise CenoteError(f"The size of ‘{row.title}’ is not settled yet. Bring the model in again and settle it.")
        return row

    def asset_ref(self, asset_id: str) -> Ref[Asset]:
        return self._brought_in.ref(asset_id) if asset_id.startswith("import-") else super().asset_ref(asset_id)

    def _settled(self, asset_id: str) -> list[Any]:
        row = self.row(asset_id)
        return [row.id, row.info.get("scale"), row.info.get("up"), model_of.ref(self, row)]

    @derived(_settled, keep="disk")
    def _brought_in(self, asset_id: str) -> Asset:
        row = self.row(asset_id)
        return settled_asset(self.model(asset_id), row.id, row.title, row.info["scale"], row.info["up"])

    def picture_ref(self, picture_id: str) -> Ref[np.ndarray]:
        return self._image.ref(picture_id)

    @derived(lambda self, picture_id: self._picture_row(picture_id).id, keep="disk")
    def _image(self, picture_id: str) -> np.ndarray:
        row = self._picture_row(picture_id)
        with row.original.open("rb") as file:
            return read_apart("picture", file, row.filename)

    def pictures(self) -> dict[str, ImportedPicture]:
        """Its images, read once a request."""
        if self._pictures is None:
            self._pictures = {r.id: r for r in ImportedPicture.objects.filter(site=self.site, deleted=None)}
        return self._pictures

    def _picture_row(self, picture_id: str) -> ImportedPicture:
        row = self.pictures().get(picture_id)
        if row is None:
            raise CenoteError(f"There is no image '{picture_id}' on this site any more. Choose another one.")
        return row

    def material_ref(self, material_id: str) -> Ref[Material]:
        imported = material_id.startswith("import-")
        return self._of_model.ref(material_id) if imported else super().material_ref(material_id)

    @derived(
        lambda self, material_id: [model_of.ref(self, self.row(material_id.rpartition(".")[0])), material_id],
        keep="not",
    )
    def _of_model(self, material_id: str) -> Material:
        asset_id, _, number = material_id.rpartition(".")
        materials = self.model(asset_id).materials
        if not number.isdigit() or int(number) >= len(materials):
            raise CenoteError(f"There is no material '{material_id}'.")
        return materials[int(number)]
