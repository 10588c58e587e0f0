"""What a scene asks of a kit, and how an asset is drawn."""

from __future__ import annotations

from typing import Any, Protocol

import numpy as np

from ..graph.derived import Ref, derived
from ..graph.store import Cache
from ..materials.material import Material
from ..mesh.mesh import Mesh
from .baked_openness import as_drawn
from .catalogue import Asset
from .flora import Plant
from .impostor import SLOT

LOD_REACH = (22.0, 70.0, 200.0)
"""A plant is drawn in its finest level up to this many of its own heights from the eye, then the next, at last a card."""


class Kit(Protocol):
    """Where a scene gets assets, materials and pictures from: generated ones, imported ones, an artist's own."""

    @property
    def cache(self) -> Cache: ...
    @property
    def memo(self) -> dict[Any, Any]: ...

    def asset(self, asset_id: str) -> Asset:
        """The asset, or CenoteError if there is none of that id."""

    def asset_ref(self, asset_id: str) -> Ref[Asset]:
        """The asset without making it; its key changes when the asset does."""

    def plant(self, asset_id: str) -> Plant | None:
        """What is known of it as a plant, stone or litter; None for everything else."""

    def material(self, material_id: str) -> Material:
        """The material, or CenoteError."""

    def material_ref(self, material_id: str) -> Ref[Material]:
        """The material without making it; its key changes when its pictures or figures do. CenoteError where none."""

    def of_season(self, material_id: str, half: int) -> str:
        """The material's name in a half month of the year."""

    def picture(self, picture_id: str) -> np.ndarray:
        """(H, W) float32, 0..1: a height or mask image brought in, or CenoteError."""

    def picture_ref(self, picture_id: str) -> Ref[np.ndarray]:
        """The picture without reading it; its key changes when the picture does."""


@derived(lambda kit, asset_id: kit.asset_ref(asset_id), keep="disk")
def drawn_lods(kit: Kit, asset_id: str) -> list[Mesh]:
    """An asset's levels of detail as they are drawn where light is not traced; see `openness`."""
    return _as_drawn(kit.asset(asset_id))


@derived(lambda kit, asset_id: kit.asset_ref(asset_id))
def drawn_lods_for_now(kit: Kit, asset_id: str) -> list[Mesh]:
    """The same of what is still being changed, or drawn of one site only: not kept on disk."""
    return _as_drawn(kit.asset(asset_id))


def _as_drawn(asset: Asset) -> list[Mesh]:
    if asset.kind != "plant":
        return asset.lods
    # Far cards carry their shade in their picture.
    own = [lod for lod in asset.lods if lod.slot_names != (SLOT,)]
    return [*as_drawn(own), *asset.lods[len(own) :]]
