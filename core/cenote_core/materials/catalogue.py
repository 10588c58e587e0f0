"""All materials and pictures Cenote can make, by id."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from ..errors import CenoteError
from ..graph.derived import Host, derived
from ..hashing import content_hash
from . import barks, decals, films, leaves, lichens, minerals, snows, strewn, waters
from .bits import Loose
from .material import Material
from .seasons import parted
from .standing import Flakes, Shoots, Standing

Maker = Callable[..., Material]


@dataclass(frozen=True)
class Recipe:
    """How one material is made, and where it is offered.

    Attributes
    ----------
    chips : how much comes off a hard edge at most, metres
    loose : what lies loose in it, if anything does
    stands : what stands up from it near the eye, if anything does
    drains : share of the water on it that runs through it or soaks in
    sheds : share of the snow on it that slips off
    window : a thin pane that is seen through
    aspect : width over height of a picture as it is meant to be seen
    contact : degrees at which water meets it; on what is clean and smooth it spreads, on paint and wax it beads
    porosity : how far it soaks, 0..1: what soaks darkens in the wet, what does not only shines
    """

    title: str
    kind: str  # "surface", "finish", "leaf", "decal" or "water"; "gone" is offered nowhere
    make: Maker
    size: int = 1024
    seasonal: bool = False
    chips: float = 0.0
    loose: Loose | None = None
    stands: Standing | None = None
    porosity: float = 0.8
    sheds: float = 0.0
    drains: float = 0.1
    contact: float = 58.0
    window: bool = False
    aspect: float = 1.0


def _leaf(title: str, make: Maker, size: int = 512) -> Recipe:
    """A leaf whose picture follows the year; `make` takes size, seed and half month."""
    return Recipe(title, "leaf", make, size, True)


def _twigs(name: str, title: str) -> dict[str, Recipe]:
    return {
        f"{name}_spray": _leaf(f"{title} twig", partial(_twig, name, False)),
        f"{name}_bough": _leaf(f"{title} bough", partial(_twig, name, True)),
    }


def _twig(name: str, bough: bool, size: int, seed: int, half: int) -> Material:
    return leaves.twig_picture(size, seed, name, half, bough)


FINE = 2048
"""Texels along a side of what covers more than a metre: less than a millimetre each."""
GONE = "gone"
"""What is drawn in place of a material that is no longer there."""

CATALOGUE: dict[str, Recipe] = {
    "stone": Recipe("Rubble stone", "surface", minerals.stone, FINE, chips=0.02, porosity=0.7, drains=0.1),
    "concrete": Recipe("Old concrete", "surface", minerals.concrete, FINE, chips=0.016, porosity=0.85),
    "gravel": Recipe(
        "Ballast and gravel", "surface", minerals.gravel, FINE, loose=Loose(0.045, 0.45), porosity=0.6, drains=1.0
    ),
    "soil": Recipe(
        "Crumbly soil", "surface", minerals.soil, FINE, loose=Loose(0.03, 0.66, 0.7), porosity=1.0, drains=0.35
    ),
    "pebbles": Recipe(
        "Brook pebbles", "surface", strewn.pebbles, FINE, loose=Loose(0.04, 0.5, 0.75), porosity=0.45, drains=0.95
    ),
    "bark_chips": Recipe(
        "Bark chips", "surface", strewn.bark_chips, FINE, loose=Loose(0.045, 0.6, 0.35), porosity=1.0, drains=1.0
    ),
    "leaf_soil": Recipe(
        "Leaf soil", "surface", strewn.leaf_soil, FINE, loose=Loose(0.05, 0.62, 0.16), porosity=1.0, drains=0.85
    ),
    "turf": Recipe("Turf", "surface", minerals.turf, FINE, drains=0.75),
    "tin": Recipe("Painted tin", "surface", minerals.tin, FINE, porosity=0.12, drains=0.0, contact=76.0),
    "iron": Recipe("Rusting iron", "surface", minerals.iron, porosity=0.3, drains=0.0),
    "rusted_steel": Recipe("Rusted steel", "surface", minerals.rusted_steel, porosity=0.5, drains=0.0),
    "painted_wood": Recipe(
        "Painted boards", "surface", minerals.painted_wood, FINE, chips=0.004, porosity=0.35, drains=0.0, contact=82.0
    ),
    "timber": Recipe("Silvered timber", "surface", minerals.timber, FINE, chips=0.006, porosity=0.9),
    "glass": Recipe("Old pane", "surface", minerals.glass, 1024, porosity=0.0, drains=0.0, contact=38.0),
    "clear_glass": Recipe(
        "Clear glass", "surface", minerals.clear_glass, 256, porosity=0.0, drains=0.0, contact=34.0, window=True
    ),
    "zinc": Recipe("Galvanised zinc", "surface", minerals.zinc, porosity=0.05, drains=0.0, contact=70.0),
    "fresh_snow": Recipe("Fresh snow", "surface", snows.fresh_snow, FINE),
    "still_water": Recipe("Still water", "water", waters.still_water, 512),
    "drops": Recipe("Drops of water", "water", waters.drops, 1024, porosity=0.0),
    "foam": Recipe("Foam", "water", waters.foam, 512),
    "rain_rings": Recipe("Water in the rain", "water", waters.rain_rings, 1024),
    "rock": Recipe("Field stone", "surface", minerals.rock, porosity=0.5),
    "moss": Recipe("Cushion moss", "finish", minerals.moss, FINE, stands=Shoots(0.008, 0.0045, 0.0042)),
    "lichen": Recipe("Crust lichen", "finish", lichens.lichen),
    "grime": Recipe("Settled dirt", "finish", minerals.grime),
    "wash": Recipe("Thin wash, to be tinted", "finish", films.wash),
    "bared": Recipe("Wood under flakes", "finish", films.bared, stands=Flakes(0.008, 0.014, 0.009)),
    "verdigris": Recipe("Verdigris", "finish", films.verdigris),
    "salts": Recipe("Salt bloom", "finish", films.salts),
    "sand": Recipe("Blown sand", "finish", films.sand),
    "bark_birch": Recipe("Birch bark", "surface", barks.bark_birch),
    "bark_alder": Recipe("Alder bark", "surface", barks.bark_alder),
    "bark_rowan": Recipe("Rowan bark", "surface", barks.bark_rowan),
    "bark_pine": Recipe("Pine bark", "surface", barks.bark_pine),
    "twig_bark": Recipe("Twig bark", "surface", barks.twig_bark, 256),
    "blade": Recipe("Grass blade", "leaf", barks.blade, 64, sheds=0.8),
    **_twigs("birch", "Birch"),
    **_twigs("alder", "Alder"),
    **_twigs("rowan", "Rowan"),
    **_twigs("hazel", "Hazel"),
    **_twigs("pine", "Pine"),
    "bramble_spray": _leaf("Bramble leaf", leaves.bramble_spray),
    "fern_frond": _leaf("Lady fern frond", leaves.frond),
    "bracken_frond": _leaf("Bracken pinna", partial(leaves.frond, wide=0.55, pairs=19)),
    "herb_oval": _leaf("Oval leaf", leaves.herb_leaf, 256),
    "herb_strap": _leaf("Rosette leaf", partial(leaves.herb_leaf, shape="strap", slim=0.26), 256),
    "nettle_leaf": _leaf("Nettle leaf", partial(leaves.herb_leaf, shape="rhomb", slim=0.5, teeth=True), 256),
    "lance_leaf": _leaf("Lance leaf", partial(leaves.herb_leaf, shape="lance", slim=0.2), 256),
    "clover_leaf": _leaf("Clover leaf", partial(leaves.herb_leaf, shape="clover"), 256),
    "ivy_leaf": _leaf("Ivy leaf", partial(leaves.herb_leaf, shape="ivy"), 256),
    "heather_sprig": _leaf("Heather sprig", leaves.sprig),
    "gorse_sprig": _leaf("Gorse sprig", partial(leaves.sprig, bloom="#d9b02a", bloom_at=8.0)),
    "foxglove_spike": _leaf("Foxglove spike", leaves.spike, 256),
    "willowherb_spike": _leaf(
        "Willowherb spike", partial(leaves.spike, bloom="#c07f9c", bloom_at=13.5, downy=True), 256
    ),
    "yellow_flower": _leaf("Yellow flower", leaves.flower_head, 128),
    "white_flower": _leaf(
        "White flower", partial(leaves.flower_head, petal="#e6e4da", heart="#c9a227", petals=18), 128
    ),
    "fallen_leaves": Recipe(
        "Fallen birch leaves",
        "leaf",
        partial(leaves.litter, tones=("#b8923a", "#9a6f2c", "#6d4a2a", "#a98f4e")),
        512,
    ),
    "fallen_alder": Recipe(
        "Fallen alder leaves",
        "leaf",
        partial(leaves.litter, tones=("#6a6a34", "#5a5230", "#4a3c28", "#6e5c38"), shape="round"),
        512,
    ),
    "fallen_rowan": Recipe(
        "Fallen rowan leaflets",
        "leaf",
        partial(leaves.litter, tones=("#b4562e", "#96442a", "#6f4028", "#c07a3a"), shape="lance", slim=0.36),
        512,
    ),
    "fallen_needles": Recipe("Fallen needles", "leaf", leaves.needles, 512),
    "crack": Recipe("Branching crack", "decal", decals.crack),
    "leak": Recipe("Leak stain", "decal", decals.leak, aspect=0.75),
    GONE: Recipe("No longer in the kit", "gone", minerals.stand_in, 64),
}


def recipe_of(material_id: str) -> Recipe:
    """The recipe of a material, or CenoteError."""
    plain, _ = parted(material_id)
    recipe = CATALOGUE.get(plain)
    if recipe is None or (plain != material_id and not recipe.seasonal):
        raise CenoteError(f"There is no material '{material_id}'. Choose one from the kit.")
    return recipe


def _asked_for(host: Host, material_id: str) -> tuple[str, int]:
    plain, half = parted(material_id)
    return plain, half if recipe_of(material_id).seasonal else 0


@derived(_asked_for, keep="disk")
def make_material(host: Host, material_id: str) -> Material:
    """The maps of one material. `<leaf>.h<number>` is a leaf in that half month of the year."""
    plain, half = parted(material_id)
    recipe = recipe_of(material_id)
    seed = int(content_hash("seed", plain)[:6], 16)
    more = (half,) if recipe.seasonal else ()
    return recipe.make(recipe.size, seed, *more)


def is_seasonal(material_id: str) -> bool:
    """Does the material have a picture for each half month?"""
    recipe = CATALOGUE.get(material_id)
    return recipe is not None and recipe.seasonal


USUAL_POROSITY, USUAL_DRAINS, USUAL_CONTACT = 0.6, 0.1, 65.0
"""Of what is not made here: brought along with a model."""


def porosity_of(material_id: str) -> float:
    """How far a material soaks, 0..1."""
    recipe = CATALOGUE.get(material_id)
    return recipe.porosity if recipe else USUAL_POROSITY


def sheds_of(material_id: str) -> float:
    """Share of the snow on a material that slips off, 0..1."""
    recipe = CATALOGUE.get(material_id)
    return recipe.sheds if recipe else 0.0


def drains_of(material_id: str) -> float:
    """Share of the water on a material that runs through it or soaks in, 0..1."""
    recipe = CATALOGUE.get(material_id)
    return recipe.drains if recipe else USUAL_DRAINS


def contact_of(material_id: str) -> float:
    """Degrees at which water meets a material."""
    recipe = CATALOGUE.get(material_id)
    return recipe.contact if recipe else USUAL_CONTACT


def aspect_of(material_id: str) -> float:
    """Width over height of a picture as it is meant to be seen."""
    recipe = CATALOGUE.get(material_id)
    return recipe.aspect if recipe else 1.0


def is_window(material_id: str) -> bool:
    """Is it a thin pane that is seen through?"""
    recipe = CATALOGUE.get(material_id)
    return recipe is not None and recipe.window
