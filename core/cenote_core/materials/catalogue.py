"""All materials and pictures Cenote can make, by id."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from ..cache import Cache
from ..errors import CenoteError
from ..hashing import content_hash
from . import decals, foliage, minerals
from .material import Material

Maker = Callable[[int, int], Material]
REVISION = 5
"""Raised whenever a generator changes, so that kept maps are made anew."""


@dataclass(frozen=True)
class Recipe:
    """How one material is made, and where it is offered."""

    title: str
    kind: str  # "surface", "finish", "leaf" or "decal"
    make: Maker
    size: int = 1024


CATALOGUE: dict[str, Recipe] = {
    "stone": Recipe("Rubble stone", "surface", minerals.stone),
    "concrete": Recipe("Old concrete", "surface", minerals.concrete),
    "gravel": Recipe("Ballast and gravel", "surface", minerals.gravel),
    "soil": Recipe("Crumbly soil", "surface", minerals.soil),
    "turf": Recipe("Turf", "surface", minerals.turf),
    "tin": Recipe("Painted tin", "surface", minerals.tin),
    "iron": Recipe("Rusting iron", "surface", minerals.iron),
    "painted_wood": Recipe("Painted boards", "surface", minerals.painted_wood),
    "timber": Recipe("Silvered timber", "surface", minerals.timber),
    "glass": Recipe("Old pane", "surface", minerals.glass, 256),
    "rock": Recipe("Field stone", "surface", minerals.rock, 512),
    "moss": Recipe("Cushion moss", "finish", minerals.moss),
    "grime": Recipe("Settled dirt", "finish", minerals.grime, 512),
    "bark_birch": Recipe("Birch bark", "surface", foliage.bark_birch, 512),
    "twig_bark": Recipe("Twig bark", "surface", foliage.twig_bark, 256),
    "blade": Recipe("Grass blade", "leaf", foliage.blade, 64),
    "birch_spray": Recipe("Birch twig", "leaf", foliage.birch_spray, 512),
    "bramble_spray": Recipe("Bramble leaf", "leaf", foliage.bramble_spray, 512),
    "fern_frond": Recipe("Fern frond", "leaf", foliage.fern_frond, 512),
    "fallen_leaves": Recipe("Fallen leaves", "leaf", foliage.fallen_leaves, 512),
    "crack": Recipe("Branching crack", "decal", decals.crack),
    "leak": Recipe("Leak stain", "decal", decals.leak),
}


def make_material(material_id: str, cache: Cache) -> Material:
    """The maps of one material, made once and kept."""
    recipe = CATALOGUE.get(material_id)
    if recipe is None:
        raise CenoteError(f"There is no material '{material_id}'. Choose one from the kit.")
    key = content_hash("material", material_id, REVISION)
    seed = int(content_hash("seed", material_id)[:6], 16)
    return cache.get(key, partial(recipe.make, recipe.size, seed), on_disk=True)
