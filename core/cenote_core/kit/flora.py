"""The plants, stones and litter of the kit: species, ages and seeds, with what the drifts need to know of each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from ..mesh.mesh import Mesh
from . import fronds, plants, stones, trees
from .grass import Grass, grass_tuft
from .herbs import Rosette, Stems, dwarf_shrub, herb, mat


@dataclass(frozen=True)
class Plant:
    """One asset that grows or lies about.

    Attributes
    ----------
    species : what it belongs to; litter falls and seasons turn by species
    age : "young", "middling", "grown", "old" or ""
    usual : least and greatest height that is plausible for the species, metres
    sheds : litter material kind it drops: "birch", "alder", "rowan", "needles" or ""
    far : what stands for it in the distance: two "crossed" cards, one "lying", or "" for nothing
    """

    title: str
    kind: str
    make: Callable[[], list[Mesh]]
    materials: dict[str, str]
    species: str = ""
    age: str = ""
    usual: tuple[float, float] = (0.0, 100.0)
    sheds: str = ""
    far: str = "crossed"


def _wooded(name: str, bark: str) -> dict[str, str]:
    return {"trunk": bark, "twig": "twig_bark", "leaf": f"{name}_spray", "bough": f"{name}_bough"}


def _tree(
    title: str,
    name: str,
    kind: trees.Species,
    bark: str,
    sheds: str,
    usual: tuple[float, float],
    ages: tuple[tuple[str, str, int, float], ...],
) -> dict[str, Plant]:
    """Ages of one species: (id ending, age, seed, height in metres)."""
    return {
        f"{name}_{ending}": Plant(
            f"{title}, {age}",
            "plant",
            partial(trees.tree, kind, seed, height),
            _wooded(name, bark),
            name,
            age.split(",")[0],
            usual,
            sheds,
        )
        for ending, age, seed, height in ages
    }


_LEAF = {"stem": "twig_bark", "blade": "blade"}
BLADE = {"blade": "blade"}
_FERN = {"frond": "fern_frond"}
_BRACKEN = {"stalk": "twig_bark", "pinna": "bracken_frond"}
_CANE = {"cane": "twig_bark", "leaf": "bramble_spray"}
_STONE = {"stone": "rock"}


def _grass(title: str, key: str, seed: int, usual: tuple[float, float], species: str = "grass") -> Plant:
    return Plant(title, "plant", partial(grass_tuft, seed, GRASSES[key]), BLADE, species, "", usual)


def _herb(
    title: str,
    seed: int,
    species: str,
    usual: tuple[float, float],
    materials: dict[str, str],
    rosette: Rosette | None = None,
    stems: Stems | None = None,
    age: str = "grown",
) -> Plant:
    return Plant(title, "plant", partial(herb, seed, rosette, stems), {**_LEAF, **materials}, species, age, usual)


GRASSES: dict[str, Grass] = {
    "grass_tall": Grass(length=0.58, foot=0.11, blades=46, dry=0.3, flower=0.1),
    "grass_mid": Grass(length=0.36, foot=0.11, blades=50, dry=0.2, flower=0.03),
    "grass_low": Grass(length=0.2, foot=0.11, blades=58, dry=0.15, bend=1.1),
    "tussock": Grass(length=0.62, foot=0.11, blades=90, dry=0.45, bend=2.0, curl=0.9, root_width=0.0052),
    "rush": Grass(
        length=0.75,
        foot=0.088,
        blades=64,
        dry=0.22,
        bend=0.45,
        curl=0.1,
        stiffness=0.75,
        root_width=0.0055,
        tip_width=0.0014,
        root_colour=(0.035, 0.055, 0.02),
        tip_colour=(0.075, 0.13, 0.045),
        dry_colour=(0.27, 0.2, 0.1),
    ),
    "sedge": Grass(
        length=0.42,
        foot=0.066,
        blades=40,
        dry=0.2,
        bend=1.8,
        curl=0.4,
        stiffness=0.5,
        root_width=0.0104,
        tip_width=0.0012,
        tip_colour=(0.1, 0.16, 0.06),
    ),
}
"""How the grasses of the kit grow; a grass of one's own may begin with any of them."""

PLANTS: dict[str, Plant] = {
    **_tree(
        "Birch",
        "birch",
        trees.BIRCH,
        "bark_birch",
        "birch",
        (1.0, 22.0),
        (
            ("tall", "grown", 21, 9.5),
            ("tall_b", "grown, other", 24, 10.4),
            ("mid", "middling", 22, 7.2),
            ("young", "young", 23, 4.4),
        ),
    ),
    **_tree(
        "Alder",
        "alder",
        trees.ALDER,
        "bark_alder",
        "alder",
        (1.0, 20.0),
        (("tall", "grown", 31, 9.0), ("mid", "middling", 32, 6.2), ("young", "young", 33, 3.4)),
    ),
    **_tree(
        "Rowan",
        "rowan",
        trees.ROWAN,
        "bark_rowan",
        "rowan",
        (1.0, 14.0),
        (("grown", "grown", 41, 6.4), ("young", "young", 42, 3.2)),
    ),
    **_tree(
        "Pine",
        "pine",
        trees.PINE,
        "bark_pine",
        "needles",
        (1.0, 28.0),
        (("tall", "grown", 51, 12.5), ("mid", "middling", 52, 8.0), ("young", "young", 53, 3.6)),
    ),
    **_tree(
        "Hazel",
        "hazel",
        trees.HAZEL,
        "bark_rowan",
        "alder",
        (0.6, 7.0),
        (("grown", "grown", 61, 3.6), ("young", "young", 62, 2.0)),
    ),
    "bramble": Plant("Bramble", "plant", partial(plants.bramble, 41), _CANE, "bramble", "grown", (0.2, 2.5)),
    "bramble_low": Plant(
        "Bramble, low", "plant", partial(plants.bramble, 42, 0.8, 7), _CANE, "bramble", "young", (0.2, 2.5)
    ),
    "heather": Plant(
        "Heather",
        "plant",
        partial(dwarf_shrub, 71, 0.38, 0.34, 46, 0.17),
        {**_LEAF, "leaf": "heather_sprig"},
        "heather",
        "grown",
        (0.1, 0.9),
    ),
    "gorse": Plant(
        "Gorse",
        "plant",
        partial(dwarf_shrub, 72, 1.25, 0.75, 90, 0.34),
        {**_LEAF, "leaf": "gorse_sprig"},
        "gorse",
        "grown",
        (0.3, 2.6),
    ),
    "fern_full": Plant(
        "Lady fern, full", "plant", partial(fronds.fern, 31, 0.78, 13), _FERN, "fern", "grown", (0.15, 1.6)
    ),
    "fern_young": Plant(
        "Lady fern, young", "plant", partial(fronds.fern, 32, 0.5, 8), _FERN, "fern", "young", (0.15, 1.6)
    ),
    "fern_other": Plant(
        "Lady fern, other", "plant", partial(fronds.fern, 33, 0.7, 11), _FERN, "fern", "grown", (0.15, 1.6)
    ),
    "bracken": Plant(
        "Bracken", "plant", partial(fronds.bracken, 34, 1.15, 7), _BRACKEN, "bracken", "grown", (0.3, 2.2)
    ),
    "bracken_low": Plant(
        "Bracken, low", "plant", partial(fronds.bracken, 35, 0.75, 6), _BRACKEN, "bracken", "young", (0.2, 1.6)
    ),
    "grass_tall": _grass("Bank grass, tall", "grass_tall", 51, (0.1, 1.4)),
    "grass_mid": _grass("Bank grass", "grass_mid", 52, (0.1, 1.4)),
    "grass_low": _grass("Short grass", "grass_low", 53, (0.04, 0.6)),
    "tussock": _grass("Tussock grass", "tussock", 54, (0.2, 1.4)),
    "rush": _grass("Soft rush", "rush", 55, (0.2, 1.6), "rush"),
    "sedge": _grass("Sedge", "sedge", 56, (0.1, 1.2), "sedge"),
    "nettle": _herb(
        "Nettle", 81, "nettle", (0.2, 1.8), {"leaf": "nettle_leaf"}, None, Stems(7, 0.75, 16, 0.12, 0.55, lean=0.2)
    ),
    "willowherb": _herb(
        "Willowherb",
        82,
        "willowherb",
        (0.3, 2.0),
        {"leaf": "lance_leaf", "flower": "willowherb_spike"},
        None,
        Stems(5, 0.95, 26, 0.14, 0.32, "flower", (0.26, 0.12), lean=0.14),
    ),
    "foxglove": _herb(
        "Foxglove",
        83,
        "foxglove",
        (0.3, 2.0),
        {"leaf": "herb_oval", "flower": "foxglove_spike"},
        Rosette(9, 0.26, (0.35, 1.0), 0.42),
        Stems(2, 0.95, 8, 0.14, 0.4, "flower", (0.4, 0.16), lean=0.08, spread=0.03),
    ),
    "dandelion": _herb(
        "Dandelion",
        84,
        "dandelion",
        (0.03, 0.5),
        {"leaf": "herb_strap", "flower": "yellow_flower"},
        Rosette(12, 0.17, (0.1, 0.7), 0.26),
        Stems(2, 0.17, 0, 0.0, 0.5, "flower", (0.042, 0.042), top_flat=True, spread=0.02),
    ),
    "oxeye": _herb(
        "Oxeye daisy",
        85,
        "oxeye",
        (0.1, 1.0),
        {"leaf": "herb_strap", "flower": "white_flower"},
        Rosette(8, 0.09, (0.2, 0.7), 0.3),
        Stems(6, 0.42, 4, 0.05, 0.3, "flower", (0.05, 0.05), top_flat=True, spread=0.05),
    ),
    "dock": _herb("Dock", 86, "dock", (0.1, 1.2), {"leaf": "herb_oval"}, Rosette(8, 0.32, (0.5, 1.2), 0.36)),
    "clover": Plant(
        "Clover mat",
        "plant",
        partial(mat, 91, 0.22, 150, 0.035, 0.06),
        {"leaf": "clover_leaf"},
        "clover",
        "grown",
        (0.01, 0.3),
        far="lying",
    ),
    "ivy": Plant(
        "Ivy mat",
        "plant",
        partial(mat, 92, 0.32, 130, 0.075, 0.09),
        {"leaf": "ivy_leaf"},
        "ivy",
        "grown",
        (0.02, 0.4),
        far="lying",
    ),
    "stone_round": Plant("Field stone", "stone", partial(stones.stone, 61), _STONE, "stone", far=""),
    "stone_flat": Plant("Flat stone", "stone", partial(stones.stone, 62, (0.46, 0.15, 0.34)), _STONE, "stone", far=""),
    "stone_broken": Plant(
        "Broken stone", "stone", partial(stones.stone, 65, (0.3, 0.24, 0.34), 14), _STONE, "stone", far=""
    ),
    "stone_small": Plant("Pebble", "stone", partial(stones.stone, 63, (0.09, 0.06, 0.08), 7), _STONE, "stone", far=""),
    "boulder": Plant("Boulder", "stone", partial(stones.stone, 64, (1.2, 0.8, 1.0), 12), _STONE, "stone", far=""),
    "leaves": Plant(
        "Fallen birch leaves",
        "litter",
        partial(plants.fallen_leaf, 71),
        {"leaf": "fallen_leaves"},
        "litter",
        sheds="birch",
        far="",
    ),
    "leaves_two": Plant(
        "Fallen birch leaves, other",
        "litter",
        partial(plants.fallen_leaf, 72),
        {"leaf": "fallen_leaves"},
        "litter",
        sheds="birch",
        far="",
    ),
    "leaves_alder": Plant(
        "Fallen alder leaves",
        "litter",
        partial(plants.fallen_leaf, 73),
        {"leaf": "fallen_alder"},
        "litter",
        sheds="alder",
        far="",
    ),
    "leaves_rowan": Plant(
        "Fallen rowan leaflets",
        "litter",
        partial(plants.fallen_leaf, 74),
        {"leaf": "fallen_rowan"},
        "litter",
        sheds="rowan",
        far="",
    ),
    "needles": Plant(
        "Fallen needles",
        "litter",
        partial(plants.fallen_leaf, 75),
        {"leaf": "fallen_needles"},
        "litter",
        sheds="needles",
        far="",
    ),
    "twigs": Plant("Fallen twigs", "litter", partial(plants.fallen_twigs, 76), {"twig": "twig_bark"}, "litter", far=""),
}
