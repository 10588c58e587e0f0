"""Every asset Cenote's own generators make, by id."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial

import fast_simplification
import numpy as np

from ..cache import Cache
from ..errors import CenoteError
from ..hashing import content_hash
from ..mesh.mesh import Mesh, make_mesh, with_box_uv
from . import plants, stones, structures

REVISION = 6
"""Raised whenever a generator changes, so that kept meshes are made anew."""


@dataclass(frozen=True)
class Recipe:
    """How one asset is made, and where it is offered."""

    title: str
    kind: str  # "structure", "prop", "plant", "stone" or "litter"
    make: Callable[[], list[Mesh]]
    materials: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Asset:
    """An asset as used: levels of detail, finest first, and the material of each slot."""

    lods: list[Mesh]
    materials: dict[str, str]
    title: str
    kind: str

    @property
    def footprint(self) -> float:
        """Radius of the smallest upright cylinder around the origin, metres."""
        p = self.lods[0].positions
        return float(np.hypot(p[:, 0], p[:, 2]).max()) if len(p) else 0.0


def _solid(make: Callable[[int], Mesh], seed: int) -> list[Mesh]:
    """One level of detail, box-mapped."""
    return [with_box_uv(make(seed))]


def _tree(seed: int, height: float) -> list[Mesh]:
    return plants.birch(seed, height)


_WALLING = {"stone": "stone", "coping": "concrete", "concrete": "concrete"}
_TREE = {"trunk": "bark_birch", "twig": "twig_bark", "leaf": "birch_spray"}
_STONES = {"stone": "rock"}

CATALOGUE: dict[str, Recipe] = {
    "platform": Recipe("Platform, 16 m", "structure", partial(_solid, structures.platform, 3), _WALLING),
    "steps": Recipe("Stone steps", "structure", partial(_solid, structures.steps, 4), _WALLING),
    "shelter": Recipe(
        "Tin-roofed shelter",
        "structure",
        partial(_solid, structures.shelter, 5),
        {"timber": "timber", "boards": "painted_wood", "tin": "tin", "pane": "glass"},
    ),
    "track": Recipe(
        "Track bed, 24 m",
        "structure",
        partial(_solid, structures.track, 6),
        {"ballast": "gravel", "sleeper": "timber", "rail": "iron"},
    ),
    "wall": Recipe("Retaining wall, 10 m", "structure", partial(_solid, structures.wall, 7), _WALLING),
    "tank": Recipe(
        "Water tank", "structure", partial(_solid, structures.tank, 8), {"iron": "iron", "footing": "concrete"}
    ),
    "lamp": Recipe("Lamp post", "prop", partial(_solid, structures.lamp, 9), {"iron": "iron", "pane": "glass"}),
    "seat": Recipe("Bench", "prop", partial(_solid, structures.seat, 10), {"timber": "timber", "iron": "iron"}),
    "crate": Recipe("Crate", "prop", partial(_solid, structures.crate, 11), {"timber": "timber"}),
    "churn": Recipe("Milk churn", "prop", partial(_solid, structures.churn, 12), {"zinc": "tin"}),
    "pole": Recipe(
        "Telegraph pole",
        "prop",
        partial(_solid, structures.pole, 13),
        {"timber": "timber", "iron": "iron", "concrete": "concrete"},
    ),
    "figure": Recipe("Standing figure, 1.75 m", "prop", partial(_solid, structures.figure, 1), {"body": "concrete"}),
    "birch_tall": Recipe("Birch, tall", "plant", partial(_tree, 21, 9.5), _TREE),
    "birch_mid": Recipe("Birch, middling", "plant", partial(_tree, 22, 7.2), _TREE),
    "birch_young": Recipe("Birch, young", "plant", partial(_tree, 23, 4.4), _TREE),
    "fern_full": Recipe("Lady fern, full", "plant", partial(plants.fern, 31, 0.78, 13), {"frond": "fern_frond"}),
    "fern_young": Recipe("Lady fern, young", "plant", partial(plants.fern, 32, 0.5, 8), {"frond": "fern_frond"}),
    "bramble": Recipe("Bramble", "plant", partial(plants.bramble, 41), {"cane": "twig_bark", "leaf": "bramble_spray"}),
    "bramble_low": Recipe(
        "Bramble, low", "plant", partial(plants.bramble, 42, 0.8, 7), {"cane": "twig_bark", "leaf": "bramble_spray"}
    ),
    "grass_tall": Recipe(
        "Bank grass, tall", "plant", partial(plants.grass_tuft, 51, 0.55, 0.2, 46, 0.3), {"blade": "blade"}
    ),
    "grass_mid": Recipe("Bank grass", "plant", partial(plants.grass_tuft, 52, 0.36, 0.2, 50, 0.2), {"blade": "blade"}),
    "grass_low": Recipe(
        "Short grass", "plant", partial(plants.grass_tuft, 53, 0.18, 0.2, 48, 0.15), {"blade": "blade"}
    ),
    "stone_round": Recipe("Field stone", "stone", partial(stones.stone, 61), _STONES),
    "stone_flat": Recipe("Flat stone", "stone", partial(stones.stone, 62, (0.46, 0.15, 0.34)), _STONES),
    "stone_small": Recipe("Pebble", "stone", partial(stones.stone, 63, (0.09, 0.06, 0.08), 7), _STONES),
    "boulder": Recipe("Boulder", "stone", partial(stones.stone, 64, (1.2, 0.8, 1.0), 12), _STONES),
    "leaves": Recipe("Fallen leaves", "litter", partial(plants.fallen_leaf, 71), {"leaf": "fallen_leaves"}),
    "leaves_two": Recipe("Fallen leaves, other", "litter", partial(plants.fallen_leaf, 72), {"leaf": "fallen_leaves"}),
}


def make_asset(asset_id: str, cache: Cache) -> Asset:
    """A generated asset, made once and kept."""
    recipe = CATALOGUE.get(asset_id)
    if recipe is None:
        raise CenoteError(f"There is no asset '{asset_id}' in the kit.")

    def make() -> Asset:
        lods = recipe.make()
        return Asset(
            with_coarser(lods) if recipe.kind in ("structure", "prop") else lods,
            recipe.materials,
            recipe.title,
            recipe.kind,
        )

    return cache.get(content_hash("asset", asset_id, REVISION), make, on_disk=True)


def with_coarser(lods: list[Mesh], shares: tuple[float, ...] = (0.35, 0.12)) -> list[Mesh]:
    """Add coarser levels by quadric simplification (Garland and Heckbert 1997) where a mesh is heavy enough."""
    finest = lods[0]
    out = [finest]
    if finest.triangle_count > 2000 and len(finest.slot_names) == 1:
        for share in shares:
            points, faces = fast_simplification.simplify(finest.positions, finest.faces, 1.0 - share)
            out.append(with_box_uv(make_mesh(points, faces, slot_names=finest.slot_names)))
    return out
