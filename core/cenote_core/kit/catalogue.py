"""Every asset Cenote's own generators make, by id."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial

import fast_simplification
import numpy as np

from ..errors import CenoteError
from ..graph.derived import Host, derived
from ..mesh.mesh import Mesh, make_mesh, with_box_uv
from ..mesh.nearest import triangle_tree
from . import still_life, structures
from .flora import PLANTS, Plant
from .impostor import SLOT, impostor_card


@dataclass(frozen=True)
class Recipe:
    """How one asset is made, and where it is offered."""

    title: str
    kind: str  # "structure", "prop", "plant", "stone" or "litter"
    make: Callable[[], list[Mesh]]
    materials: dict[str, str] = field(default_factory=dict)
    plant: Plant | None = None


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

    @property
    def stem(self) -> float:
        """Radius of what meets the ground: of everything within the lowest tenth, metres."""
        p = self.lods[0].positions
        if len(p) == 0:
            return 0.0
        low = p[p[:, 1] <= p[:, 1].min() + 0.1 * max(float(np.ptp(p[:, 1])), 1e-6)]
        return float(np.quantile(np.hypot(low[:, 0], low[:, 2]), 0.9))

    @property
    def tall(self) -> float:
        """Height above the origin, metres."""
        return float(self.lods[0].bounds()[1][1])


def _solid(make: Callable[[int], Mesh], seed: int) -> list[Mesh]:
    """One level of detail, box-mapped."""
    return [with_box_uv(make(seed))]


def _built(title: str, kind: str, make: Callable[[int], Mesh], seed: int, materials: dict[str, str]) -> Recipe:
    return Recipe(title, kind, partial(_solid, make, seed), materials)


_WALLING = {"stone": "stone", "coping": "concrete", "concrete": "concrete"}

_STRUCTURES: dict[str, Recipe] = {
    "platform": _built("Platform, 16 m", "structure", structures.platform, 3, _WALLING),
    "steps": _built("Stone steps", "structure", structures.steps, 4, _WALLING),
    "shelter": _built(
        "Tin-roofed shelter",
        "structure",
        structures.shelter,
        5,
        {"timber": "timber", "boards": "painted_wood", "tin": "tin", "pane": "glass"},
    ),
    "track": _built(
        "Track bed, 24 m",
        "structure",
        structures.track,
        6,
        {"ballast": "gravel", "sleeper": "timber", "rail": "rusted_steel"},
    ),
    "wall": _built("Retaining wall, 10 m", "structure", structures.wall, 7, _WALLING),
    "tank": _built("Water tank", "structure", structures.tank, 8, {"iron": "iron", "footing": "concrete"}),
    "lamp": _built("Lamp post", "prop", structures.lamp, 9, {"iron": "iron", "pane": "glass"}),
    "seat": _built("Bench", "prop", structures.seat, 10, {"timber": "timber", "iron": "iron"}),
    "crate": _built("Crate", "prop", structures.crate, 11, {"timber": "timber"}),
    "churn": _built("Milk churn", "prop", structures.churn, 12, {"zinc": "tin"}),
    "pole": _built(
        "Telegraph pole", "prop", structures.pole, 13, {"timber": "timber", "iron": "iron", "concrete": "concrete"}
    ),
    "lantern": _built("Hurricane lantern", "prop", still_life.lantern, 14, {"iron": "iron", "pane": "clear_glass"}),
    "bucket": _built("Zinc bucket", "prop", still_life.bucket, 15, {"zinc": "zinc"}),
    "ledge": _built("Stone ledge, 1.9 m", "structure", still_life.ledge, 16, _WALLING),
    "figure": _built("Standing figure, 1.75 m", "prop", structures.figure, 1, {"body": "concrete"}),
}


def _grown(asset_id: str, plant: Plant) -> Recipe:
    materials = dict(plant.materials)
    if plant.far:
        materials[SLOT] = f"far.{asset_id}"
    return Recipe(plant.title, plant.kind, plant.make, materials, plant)


CATALOGUE: dict[str, Recipe] = {**_STRUCTURES, **{key: _grown(key, plant) for key, plant in PLANTS.items()}}


def _named(host: Host, asset_id: str) -> str:
    if asset_id not in CATALOGUE:
        raise CenoteError(f"There is no asset '{asset_id}' in the kit.")
    return asset_id


@derived(_named, keep="disk")
def make_asset(host: Host, asset_id: str) -> Asset:
    """A generated asset."""
    recipe = CATALOGUE[asset_id]
    lods = recipe.make()
    if recipe.kind in ("structure", "prop"):
        lods = with_coarser(lods)
    elif recipe.plant is not None and recipe.plant.far:
        lods = [*lods, impostor_card(lods[0], lods[-1].triangle_count, recipe.plant.far == "lying")]
    return Asset(lods, recipe.materials, recipe.title, recipe.kind)


def with_coarser(lods: list[Mesh], shares: tuple[float, ...] = (0.35, 0.12)) -> list[Mesh]:
    """Add coarser levels by quadric simplification (Garland and Heckbert 1997), slot by slot, where it pays."""
    finest = lods[0]
    if finest.triangle_count <= 600:
        return [finest]
    out = [finest]
    for share in shares:
        coarser = _reduced(finest, share)
        if coarser.triangle_count < 0.8 * out[-1].triangle_count:
            out.append(coarser)
    return out


def _kept_outline(corners: np.ndarray, faces: np.ndarray, share: float) -> tuple[np.ndarray, np.ndarray]:
    """Fewer triangles if no place then lies farther than 2 % of the whole from what is left; else as it was.

    Quadrics may drop a thin leg or a rod altogether, which is seen from afar more than anything else.
    """
    points, fewer = fast_simplification.simplify(corners, faces, 1.0 - share)
    if len(fewer) == 0:
        return corners, faces
    # A rod may have corners at its ends alone, where other things are: its length counts too.
    ends, others = corners[faces], corners[np.roll(faces, -1, axis=1)]
    along = [ends + (others - ends) * share_of_edge for share_of_edge in (0.25, 0.5, 0.75)]
    places = np.concatenate([corners, *(places.reshape(-1, 3) for places in along)])
    strayed = triangle_tree(points, fewer).distance(places).max()
    allowed = 0.02 * float(np.linalg.norm(np.ptp(corners, axis=0)))
    return (points, fewer) if strayed <= allowed else (corners, faces)


def _reduced(mesh: Mesh, share: float) -> Mesh:
    """The mesh with a share of its triangles, slots kept."""
    parts, slots = [], []
    offset = 0
    points_of = []
    for slot in range(len(mesh.slot_names)):
        faces = mesh.faces[mesh.slots == slot]
        if len(faces) == 0:
            continue
        # Corners that box mapping has split are joined again, or the mesh would come apart.
        corners, joined = np.unique(np.round(mesh.positions[faces.ravel()], 5), axis=0, return_inverse=True)
        faces = joined.reshape(-1, 3).astype(np.int32)
        if len(faces) > 60:
            corners, faces = _kept_outline(corners.astype(np.float32), faces, share)
        points_of.append(corners)
        parts.append(np.asarray(faces) + offset)
        slots.append(np.full(len(faces), slot, np.int32))
        offset += len(corners)
    return with_box_uv(
        make_mesh(np.concatenate(points_of), np.concatenate(parts), np.concatenate(slots), mesh.slot_names)
    )
