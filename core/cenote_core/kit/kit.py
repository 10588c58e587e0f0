"""What a scene asks of a kit, and how an asset is drawn."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from ..cache import Cache
from ..hashing import content_hash
from ..materials.material import Material
from ..mesh.mesh import Mesh
from .catalogue import Asset
from .farcard import SLOT
from .flora import Plant
from .openness import as_drawn

LOD_REACH = (22.0, 70.0, 200.0)
"""A plant is drawn in its finest level up to this many of its own heights from the eye, then the next, at last a card."""


class Kit(Protocol):
    """Where a scene gets assets, materials and pictures from: generated ones, imported ones, an artist's own."""

    def asset(self, asset_id: str) -> Asset:
        """The asset, or CenoteError if there is none of that id."""

    def asset_key(self, asset_id: str) -> str:
        """A hash that changes when the asset does."""

    def plant(self, asset_id: str) -> Plant | None:
        """What is known of it as a plant, stone or litter; None for everything else."""

    def material(self, material_id: str) -> Material:
        """The material, or CenoteError."""

    def material_key(self, material_id: str) -> str:
        """A hash that changes when the material's pictures or figures do, or CenoteError."""

    def of_season(self, material_id: str, half: int) -> str:
        """The material's name in a half month of the year."""

    def picture(self, picture_id: str) -> np.ndarray:
        """(H, W) float32, 0..1: a height or mask image brought in, or CenoteError."""

    def picture_key(self, picture_id: str) -> str:
        """A hash that changes when the picture does."""


def drawn_lods(kit: Kit, asset_id: str, cache: Cache, keep: bool = True) -> list[Mesh]:
    """An asset's levels of detail as they are drawn where light is not traced; see `openness`. Kept on disk if wanted."""
    asset = kit.asset(asset_id)
    if asset.kind != "plant":
        return asset.lods
    # Far cards carry their shade in their picture.
    own = [lod for lod in asset.lods if lod.slot_names != (SLOT,)]
    return cache.get(
        content_hash("drawn", kit.asset_key(asset_id)),
        lambda: [*as_drawn(own), *asset.lods[len(own) :]],
        on_disk=keep,
    )
