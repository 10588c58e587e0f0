"""A site made ready for computing: its meshes, surfaces, rays and texel tables, each made once.

Everything is kept under a hash of what it depends on, so moving one slider computes what hangs on it only. What is
measured on it stands in `measuring.py`, the ground's heights in `land.py`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace

import numpy as np

from ..cache import Cache
from ..errors import CenoteError
from ..ground.terrain import GROUND_SLOT, ground_mesh
from ..hashing import content_hash
from ..kit.kit import Kit
from ..kit.own import OwnKit
from ..light.sky import Sky, make_sky
from ..materials.catalogue import GONE
from ..materials.material import Material
from ..materials.seasons import half_month
from ..mesh.mesh import Mesh, euler_matrix, transformed
from ..mesh.nearest import NearestTree, triangle_tree
from ..mesh.rays import RayScene
from ..mesh.texels import TexelTable, texel_table
from ..mesh.unwrap import unwrap
from ..plan import GROUND, PiecePlan, SitePlan
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
    """Derived geometry of one site plan."""

    def __init__(self, site: SitePlan, kit: Kit, cache: Cache) -> None:
        self.site = site
        self.kit = OwnKit(kit, site.grasses, cache)
        self.cache = cache
        self._asking: list[tuple[str, str]] = []
        self._keys: dict[str, str] = {}
        self.bare_keys_kept: list[str] | None = None
        self._owners_kept: list[str] | None = None
        self._boxes_kept: tuple[list[str], np.ndarray, np.ndarray] | None = None

    # Meshes -------------------------------------------------------------------------------------------------

    def ground_key(self) -> str:
        return self.owner_key(GROUND)

    def owner_key(self, owner: str) -> str:
        """Hash of an owner's mesh as it stands; kept, for a scene's site does not change."""
        return self.kept_key(owner, lambda: land.ground_key(self) if owner == GROUND else self._piece_key(owner))

    def kept_key(self, name: str, make: Callable[[], str]) -> str:
        """A hash under a name, made once; for a scene's site does not change."""
        if name not in self._keys:
            self._keys[name] = make()
        return self._keys[name]

    def _piece_key(self, owner: str) -> str:
        piece = self.piece(owner)
        at = self.position(owner).tolist()
        return content_hash(
            "piece", self.kit.asset_key(piece.asset), at, piece.turn, piece.tilt, piece.roll, piece.size
        )

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
        if piece is None or not piece.visible:
            return False
        try:
            self.kit.asset_key(piece.asset)
        except CenoteError:
            return False
        return True

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
        if owner == GROUND:
            return self.cache.get(self.ground_key(), lambda: ground_mesh(self.site.ground, land.heights(self)))
        asset_id = self.piece(owner).asset
        key = content_hash("unwrapped", self.kit.asset_key(asset_id))
        return self.cache.get(key, lambda: unwrap(self.kit.asset(asset_id).lods[0]), on_disk=True)

    def mesh(self, owner: str) -> Mesh:
        """The owner's mesh where it stands; box-mapped `uv` stays in metres under enlargement."""
        local = self.local_mesh(owner)
        if owner == GROUND:
            return local

        def make() -> Mesh:
            moved = transformed(local, self.matrix(owner))
            size = self.piece(owner).size
            return moved if local.own_uv else replace(moved, uv=moved.uv * np.float32(size))

        return self.cache.get(content_hash("standing mesh", self.owner_key(owner)), make)

    def surfaces(self) -> list[Surface]:
        """Every surface of the site."""
        ground = self.site.ground
        out = [Surface(f"{GROUND}/{GROUND_SLOT}", GROUND, GROUND_SLOT, 0, ground.material, "ground")]
        for layer in ground.layers:
            ref = f"{GROUND}/{layer.key}"
            out.append(Surface(ref, GROUND, layer.key, 0, layer.material, f"ground, {layer.key}", layer.key))
        for key in self.owners()[1:]:
            piece = self.site.pieces[key]
            asset = self.kit.asset(piece.asset)
            for index, slot in enumerate(asset.lods[0].slot_names):
                material = piece.materials.get(slot) or asset.materials.get(slot, "concrete")
                out.append(Surface(f"{key}/{slot}", key, slot, index, material, f"{piece.name}, {slot}"))
        return out

    def surface(self, ref: str) -> Surface | None:
        """The surface of that name if it still exists."""
        return next((s for s in self.surfaces() if s.ref == ref), None)

    def at_hand(self, material_id: str) -> str:
        """The material, or the stand-in for one that is no longer in the kit: all else of the site goes on."""
        try:
            self.kit.material_key(material_id)
        except CenoteError:
            return GONE
        return material_id

    def material(self, material_id: str) -> Material:
        """The pictures of a material, or an even grey where it is no longer in the kit."""
        return self.kit.material(self.at_hand(material_id))

    def material_key(self, material_id: str) -> str:
        """Hash of what `material` gives."""
        return self.kit.material_key(self.at_hand(material_id))

    def picture(self, picture_id: str | None) -> np.ndarray | None:
        """An image of the site, or None where it is missing: what hung on it goes on without."""
        try:
            return self.kit.picture(picture_id) if picture_id else None
        except CenoteError:
            return None

    def picture_key(self, picture_id: str | None) -> str:
        """Hash of an image of the site, empty where there is none."""
        try:
            return self.kit.picture_key(picture_id) if picture_id else ""
        except CenoteError:
            return ""

    def sky(self) -> Sky:
        """The sky over the site, kept."""
        light = self.site.light
        key = content_hash("sky", light.model_dump(exclude={"name", "note", "exposure", "visible", "locked"}))
        return self.cache.get(key, lambda: make_sky(light), on_disk=True)

    def half(self) -> int:
        """The half month of the year the site is in."""
        return half_month(self.site.weather.season)

    def seasonal(self, material_id: str) -> str:
        """A material's name as it is in the site's half month."""
        return self.kit.of_season(material_id, self.half())

    # Rays and distances --------------------------------------------------------------------------------------

    def standing(self) -> RayScene:
        """Ground and pieces as one set of triangles for rays."""
        return self._rays(self.owners())

    def pieces_rays(self) -> RayScene:
        """Pieces alone, without the ground."""
        return self._rays(self.owners()[1:])

    def _rays(self, owners: list[str]) -> RayScene:
        key = content_hash("rays", [self.owner_key(o) for o in owners])
        return self.cache.get(key, lambda: RayScene(*self._joined(owners)))

    def pieces_tree(self, pieces: list[str]) -> NearestTree:
        """Exact distances to some pieces."""
        owners = [p for p in pieces if self.stands(p)]
        key = content_hash("tree", [self.owner_key(o) for o in owners])
        return self.cache.get(key, lambda: triangle_tree(*self._joined(owners)))

    def _joined(self, owners: list[str]) -> tuple[np.ndarray, np.ndarray]:
        meshes = [self.mesh(o) for o in owners]
        if not meshes:
            return np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32)
        offsets = np.cumsum([0, *(len(m.positions) for m in meshes[:-1])])
        positions = np.concatenate([m.positions for m in meshes])
        return positions, np.concatenate([m.faces + o for m, o in zip(meshes, offsets, strict=True)])

    def near_key(self, owner: str, reach: float) -> str:
        """Hash of an owner and everything that stands within `reach` of it."""
        low, high = self.mesh(owner).bounds()
        others, least, greatest = self._boxes()
        meets = np.all((least <= high + reach) & (greatest >= low - reach), axis=1)
        near = [self.owner_key(others[k]) for k in np.flatnonzero(meets)]
        return content_hash("near", self.owner_key(owner), near, reach)

    def _boxes(self) -> tuple[list[str], np.ndarray, np.ndarray]:
        """All owners, with (N, 3) least and greatest corners; kept, for a scene's site does not change."""
        if self._boxes_kept is None:
            owners = self.owners()
            bounds = [self.mesh(o).bounds() for o in owners]
            self._boxes_kept = owners, np.stack([b[0] for b in bounds]), np.stack([b[1] for b in bounds])
        return self._boxes_kept

    # Texels ---------------------------------------------------------------------------------------------------

    def resolution(self, owner: str, limit: int = VIEW_LIMIT) -> int:
        """Side of the owner's maps: a power of two that gives about TEXEL metres a texel, within `limit`."""
        area = float(self.mesh(owner).face_areas().sum())
        wanted = np.sqrt(max(area, 1e-6) * 1.5) / TEXEL
        return int(np.clip(2 ** int(np.round(np.log2(max(wanted, 1.0)))), 32, limit))

    def table(self, owner: str, resolution: int) -> TexelTable:
        """Texel table of the owner where it stands."""
        key = content_hash("texels", self.owner_key(owner), resolution)
        return self.cache.get(key, lambda: texel_table(self.mesh(owner), resolution))

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
