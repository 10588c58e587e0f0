"""A site made ready for computing: its meshes, surfaces, rays and texel tables, each made once.

Everything is derived (see `graph`), so moving one slider computes what hangs on it only. What is
measured on it stands in `measuring.py`, the ground's heights in `land.py`.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..base.fields import PRESENTED
from ..errors import CenoteError
from ..graph.derived import Ref, by_value, derived
from ..graph.store import Cache
from ..ground.terrain import GROUND_SLOT, ground_mesh
from ..kit.kit import Kit
from ..kit.site_grasses import SiteGrassKit
from ..light.sky import Sky, make_sky
from ..materials.catalogue import GONE, drains_of, porosity_of
from ..materials.material import Material
from ..materials.seasons import half_month
from ..mesh.mesh import Mesh, Points, euler_matrix, transformed
from ..mesh.nearest import NearestTree, triangle_tree
from ..mesh.rays import RayScene
from ..mesh.texels import TexelTable, texel_table
from ..mesh.unwrap import unwrap
from ..plan import GROUND, PiecePlan, Response, SitePlan
from . import land

TEXEL = 0.03
"""Wanted size of a texel of a patina's cover, metres."""
VIEW_LIMIT = 1024
PREVIEW_LIMIT = 256


@dataclass(frozen=True)
class Surface:
    """One material slot of the ground or a piece, or one of the surfaces laid over the ground."""

    ref: str
    owner: str
    slot: str
    index: int
    material: str
    label: str
    layer: str = ""


class Scene:
    """Derived geometry of one site plan; a `hasty` one traces coarsely what nobody has traced finely yet."""

    def __init__(self, site: SitePlan, kit: Kit, cache: Cache, hasty: bool = False) -> None:
        self.site, self.hasty = site, hasty
        self.kit = SiteGrassKit(kit, site.grasses, cache)
        self.cache = cache
        self._asking: list[tuple[str, str]] = []
        self.memo: dict[Any, Any] = {}
        self._owners_kept: list[str] | None = None
        self._surfaces_kept: tuple[Surface, ...] | None = None
        self._by_owner_kept: dict[str, list[Surface]] | None = None
        self._boxes_kept: tuple[list[str], np.ndarray, np.ndarray] | None = None

    # Meshes -------------------------------------------------------------------------------------------------

    def piece(self, piece_id: str) -> PiecePlan:
        piece = self.site.pieces.get(piece_id)
        if piece is None:
            raise CenoteError(f"There is no piece '{piece_id}' on this site any more. Choose another surface.")
        return piece

    def owners(self) -> list[str]:
        """The ground, then every visible piece whose asset is in the kit, in stable order."""
        if self._owners_kept is None:
            self._owners_kept = [GROUND, *(key for key in sorted(self.site.pieces) if self.stands(key))]
        return self._owners_kept

    def stands(self, piece_id: str) -> bool:
        """Is it there, visible, and is its asset in the kit?"""
        piece = self.site.pieces.get(piece_id)
        return piece is not None and piece.visible and self.in_kit(piece.asset)

    def in_kit(self, asset_id: str) -> bool:
        """Is the asset still there?"""
        return not self.why_missing(asset_id)

    def why_missing(self, asset_id: str) -> str:
        """Why an asset cannot be had; empty where it can."""
        try:
            self.kit.asset_ref(asset_id)
        except CenoteError as error:
            return str(error)
        return ""

    def position(self, owner: str) -> np.ndarray:
        """(3,) where a piece's origin stands now: where it was set down, risen with the ground."""
        return np.asarray(self.piece(owner).position, float) + [0.0, land.lift(self, owner), 0.0]

    def matrix(self, owner: str) -> np.ndarray:
        """(4, 4) from the owner's own coordinates to the site's."""
        matrix = np.eye(4)
        if owner != GROUND:
            piece = self.piece(owner)
            matrix[:3, :3] = euler_matrix(piece.turn, piece.tilt, piece.roll) * piece.size
            matrix[:3, 3] = self.position(owner)
        return matrix

    def local_mesh(self, owner: str) -> Mesh:
        """The owner's finest mesh, unwrapped, in its own coordinates."""
        return self._ground() if owner == GROUND else _unwrapped(self.kit, self.piece(owner).asset)

    def _sheet(self) -> list[Any]:
        plan = self.site.ground
        return [land.heights.ref(self), plan.width, plan.depth, plan.cell]

    @derived(_sheet)
    def _ground(self) -> Mesh:
        return ground_mesh(self.site.ground, land.heights(self))

    def _as_it_stands(self, owner: str) -> list[Any]:
        if owner == GROUND:
            return [self._ground.ref()]
        piece = self.piece(owner)
        return [_unwrapped.ref(self.kit, piece.asset), self.matrix(owner), piece.size]

    @derived(_as_it_stands)
    def mesh(self, owner: str) -> Mesh:
        """The owner's mesh where it stands; box-mapped `uv` stays in metres under enlargement."""
        local = self.local_mesh(owner)
        if owner == GROUND:
            return local
        moved = transformed(local, self.matrix(owner))
        size = self.piece(owner).size
        return moved if local.own_uv else replace(moved, uv=moved.uv * np.float32(size))

    def surfaces(self) -> Sequence[Surface]:
        """Every surface of the site."""
        if self._surfaces_kept is None:
            self._surfaces_kept = tuple(self._listed_surfaces())
        return self._surfaces_kept

    def surfaces_of(self, owner: str) -> Sequence[Surface]:
        """Those of the ground, its further ones among them, or of a piece."""
        if self._by_owner_kept is None:
            found: dict[str, list[Surface]] = {}
            for surface in self.surfaces():
                found.setdefault(surface.owner, []).append(surface)
            self._by_owner_kept = found
        return self._by_owner_kept.get(owner, ())

    def _listed_surfaces(self) -> Iterator[Surface]:
        ground = self.site.ground
        yield Surface(f"{GROUND}/{GROUND_SLOT}", GROUND, GROUND_SLOT, 0, ground.material, "ground")
        for layer in ground.layers:
            ref = f"{GROUND}/{layer.key}"
            yield Surface(ref, GROUND, layer.key, 0, layer.material, f"ground, {layer.key}", layer.key)
        for key in self.owners()[1:]:
            piece = self.site.pieces[key]
            with by_value():
                # What is made from a surface has its slot and its material in its key.
                asset = self.kit.asset(piece.asset)
            for index, slot in enumerate(asset.lods[0].slot_names):
                material = piece.materials.get(slot) or asset.materials.get(slot, "concrete")
                yield Surface(f"{key}/{slot}", key, slot, index, material, f"{piece.name}, {slot}")

    def at_hand(self, material_id: str) -> str:
        """The material, or the stand-in for one that is no longer in the kit: all else of the site goes on."""
        try:
            self.kit.material_ref(material_id)
        except CenoteError:
            return GONE
        return material_id

    def material(self, material_id: str) -> Material:
        """The pictures of a material, or an even grey where it is no longer in the kit."""
        return self.kit.material(self.at_hand(material_id))

    def material_ref(self, material_id: str) -> Ref[Material]:
        """What `material` gives, without making it."""
        return self.kit.material_ref(self.at_hand(material_id))

    def porosity(self, material_id: str) -> float:
        """How far a material soaks, 0..1."""
        return porosity_of(material_id)

    def is_cut_out(self, material_id: str) -> bool:
        """Has its picture holes, as those of leaves have?"""
        with by_value():
            # Which of an owner's materials are is told by their keys.
            return self.material(material_id).alpha is not None

    def soaks(self, response: Response, material_id: str) -> float:
        """The same of something made of a material that may have an answer of its own."""
        return self.porosity(material_id) if response.soaks is None else response.soaks

    def answer(self, response: Response, material_id: str) -> tuple[float, float, float]:
        """How something answers to the weather: porosity, share of the snow that slips off, and 1 where no frost forms."""
        soaks = self.soaks(response, material_id)
        return soaks, float(not response.takes_snow), float(not response.takes_frost)

    def response(self, owner: str) -> Response:
        """How an owner answers to the weather; the ground does by what it is made of."""
        return Response() if owner == GROUND else self.piece(owner)

    def drains(self, material_id: str) -> float:
        """Share of the water on a material that soaks away, 0..1."""
        return drains_of(material_id)

    def picture(self, picture_id: str | None) -> np.ndarray | None:
        """An image of the site, or None where it is missing: what hung on it goes on without."""
        try:
            return self.kit.picture(picture_id) if picture_id else None
        except CenoteError:
            return None

    def picture_ref(self, picture_id: str | None) -> Ref[np.ndarray] | None:
        """An image of the site, without reading it; None where there is none."""
        try:
            return self.kit.picture_ref(picture_id) if picture_id else None
        except CenoteError:
            return None

    @derived(lambda self: self.site.daylight.model_dump(exclude=PRESENTED | {"exposure"}), keep="disk")
    def sky(self) -> Sky:
        """The sky over the site."""
        return make_sky(self.site.daylight)

    def half(self) -> int:
        """The half month of the year the site is in."""
        return half_month(self.site.weather.season)

    def seasonal(self, material_id: str) -> str:
        """A material's name as it is in the site's half month."""
        return self.kit.of_season(material_id, self.half())

    # Rays and distances --------------------------------------------------------------------------------------

    def standing(self) -> RayScene:
        """Ground and pieces as one set of triangles for rays."""
        return self.rays(tuple(self.owners()))

    def pieces_rays(self) -> RayScene:
        """Pieces alone, without the ground."""
        return self.rays(tuple(self.owners()[1:]))

    @derived(lambda self, owners: [self.mesh.ref(o) for o in owners])
    def rays(self, owners: tuple[str, ...]) -> RayScene:
        """Some owners as one set of triangles for rays."""
        return RayScene(*self._joined(owners))

    def pieces_tree(self, pieces: list[str]) -> NearestTree:
        """Exact distances to some pieces."""
        return self._tree(tuple(p for p in pieces if self.stands(p)))

    @derived(lambda self, owners: [self.mesh.ref(o) for o in owners])
    def _tree(self, owners: tuple[str, ...]) -> NearestTree:
        return triangle_tree(*self._joined(owners))

    def _joined(self, owners: tuple[str, ...]) -> tuple[np.ndarray, np.ndarray]:
        meshes = [self.mesh(o) for o in owners]
        if not meshes:
            return np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32)
        offsets = np.cumsum([0, *(len(m.positions) for m in meshes[:-1])])
        positions = np.concatenate([m.positions for m in meshes])
        return positions, np.concatenate([m.faces + o for m, o in zip(meshes, offsets, strict=True)])

    def near(self, owner: str, reach: float) -> list[str]:
        """An owner, and everything that stands within `reach` of it."""
        low, high = self.mesh(owner).bounds()
        others, least, greatest = self._boxes()
        meets = np.all((least <= high + reach) & (greatest >= low - reach), axis=1)
        return [owner, *(others[k] for k in np.flatnonzero(meets) if others[k] != owner)]

    def _boxes(self) -> tuple[list[str], np.ndarray, np.ndarray]:
        """All owners, with (N, 3) least and greatest corners; kept, for a scene's site does not change."""
        if self._boxes_kept is None:
            owners = self.owners()
            bounds = [self.mesh(o).bounds() for o in owners]
            self._boxes_kept = owners, np.stack([b[0] for b in bounds]), np.stack([b[1] for b in bounds])
        return self._boxes_kept

    # Texels ---------------------------------------------------------------------------------------------------

    def resolution(self, owner: str, limit: int = VIEW_LIMIT, texel: float = TEXEL) -> int:
        """Side of the owner's maps: a power of two that gives about so many metres a texel, within `limit`."""
        wanted = np.sqrt(max(self.mesh(owner).area(), 1e-6) * 1.5) / texel
        return int(np.clip(2 ** int(np.round(np.log2(max(wanted, 1.0)))), 32, limit))

    @derived(lambda self, owner, resolution: [self.mesh.ref(owner), resolution])
    def table(self, owner: str, resolution: int) -> TexelTable:
        """Texel table of the owner where it stands."""
        return texel_table(self.mesh(owner), resolution)

    @derived(lambda self, owner, resolution: self.table.ref(owner, resolution), keep="not")
    def texel_points(self, owner: str, resolution: int) -> Points:
        """The points of a texel table."""
        return self.table(owner, resolution).points

    def size(self, owner: str) -> float:
        """The owner's enlargement."""
        return 1.0 if owner == GROUND else self.piece(owner).size

    def to_local(self, owner: str, positions: np.ndarray) -> np.ndarray:
        """Site coordinates → the owner's own, (N, 3)."""
        if owner == GROUND:
            return positions
        inverse = np.linalg.inv(self.matrix(owner))
        return (positions @ inverse[:3, :3].T + inverse[:3, 3]).astype(np.float32)

    def to_site(self, owner: str, positions: np.ndarray) -> np.ndarray:
        """The owner's own coordinates → the site's, (N, 3)."""
        matrix = self.matrix(owner)
        return (positions @ matrix[:3, :3].T + matrix[:3, 3]).astype(np.float32)

    @contextmanager
    def asking(self, item_id: str, name: str) -> Iterator[None]:
        """Marks that an item is being worked out, so that items that ask for each other in a ring are found.

        Keys are made before anything is locked or computed, so a ring ends here and never in a lock.
        """
        ids = [known for known, _ in self._asking]
        if item_id in ids:
            ring = [*(said for _, said in self._asking[ids.index(item_id) :]), name]
            raise CenoteError(f"These ask for each other in a ring: {' → '.join(ring)}. Take one of those rules out.")
        self._asking.append((item_id, name))
        try:
            yield
        finally:
            self._asking.pop()


@derived(lambda kit, asset_id: kit.asset_ref(asset_id), keep="disk")
def _unwrapped(kit: Kit, asset_id: str) -> Mesh:
    """The finest mesh of an asset, unwrapped; its `uv` in metres, and coordinates of its own pictures apart from them."""
    asset = kit.asset(asset_id)
    mesh = unwrap(asset.lods[0])
    if not mesh.own_uv or mesh.base_uv is not None:
        return mesh
    # Where coordinates count repeats of a picture, a repeat is as many metres as the picture covers.
    with by_value():
        # Of generated materials alone, whose code is in the key.
        metres = [
            kit.material(asset.materials[name]).tile if name in asset.materials else 0.0 for name in mesh.slot_names
        ]
    by_vertex = np.ones(len(mesh.positions), np.float32)
    by_vertex[mesh.faces] = np.where(np.array(metres) > 0, metres, 1.0)[mesh.slots][:, None]
    return replace(mesh, uv=mesh.uv * by_vertex[:, None], base_uv=mesh.uv, own_uv=False)
