"""A site made ready for computing: its meshes, surfaces, texel tables and measures, each made once.

Everything is kept under a hash of what it depends on, so moving one slider computes what hangs on it only.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from ..cache import Cache
from ..errors import CenoteError
from ..ground.terrain import GROUND_SLOT, ground_mesh
from ..hashing import content_hash
from ..kit.catalogue import Asset
from ..materials.material import Material
from ..measures.height import height
from ..measures.noise import noise
from ..measures.painted import painted
from ..measures.shelter import shelter
from ..measures.slope import slope
from ..mesh.mesh import Mesh, Points, euler_matrix, transformed
from ..mesh.rays import RayScene
from ..mesh.texels import TexelTable, sample_map, texel_table
from ..mesh.unwrap import unwrap
from ..plan import (
    GROUND,
    HeightRule,
    NoiseRule,
    PaintedRule,
    PiecePlan,
    Rule,
    ShelterRule,
    SitePlan,
    SlopeRule,
    TouchPlan,
)


class Kit(Protocol):
    """Where a scene gets assets and materials from: generated ones, imported ones, or both."""

    def asset(self, asset_id: str) -> Asset:
        """The asset, or CenoteError if there is none of that id."""

    def asset_key(self, asset_id: str) -> str:
        """A hash that changes when the asset does."""

    def material(self, material_id: str) -> Material:
        """The material, or CenoteError."""


TEXEL = 0.03
"""Wanted size of a texel of a patina's cover, metres."""
VIEW_LIMIT = 1024
PREVIEW_LIMIT = 256
SHELTER_LIMIT = 512
VIEW_RAYS = 96


@dataclass(frozen=True)
class Surface:
    """One material slot of the ground or a piece."""

    ref: str
    owner: str
    slot: str
    index: int
    material: str
    label: str


class Scene:
    """Derived geometry and measures of one site plan."""

    def __init__(self, site: SitePlan, kit: Kit, cache: Cache) -> None:
        self.site = site
        self.kit = kit
        self.cache = cache

    # Meshes -------------------------------------------------------------------------------------------------

    def ground_key(self) -> str:
        shape = self.site.ground.model_dump(exclude={"name", "note", "visible", "locked", "material"})
        return content_hash("ground", shape)

    def owner_key(self, owner: str) -> str:
        """Hash of an owner's mesh as it stands."""
        if owner == GROUND:
            return self.ground_key()
        piece = self.piece(owner)
        return content_hash(
            "piece", self.kit.asset_key(piece.asset), piece.position, piece.turn, piece.tilt, piece.roll, piece.size
        )

    def piece(self, piece_id: str) -> PiecePlan:
        piece = self.site.pieces.get(piece_id)
        if piece is None:
            raise CenoteError(f"There is no piece '{piece_id}' on this site any more. Choose another surface.")
        return piece

    def owners(self) -> list[str]:
        """The ground, then every visible piece whose asset is in the kit, in stable order."""
        return [GROUND, *(key for key in sorted(self.site.pieces) if self._stands(key))]

    def _stands(self, piece_id: str) -> bool:
        piece = self.site.pieces[piece_id]
        if not piece.visible:
            return False
        try:
            self.kit.asset_key(piece.asset)
        except CenoteError:
            return False
        return True

    def matrix(self, owner: str) -> np.ndarray:
        """(4, 4) from the owner's own coordinates to the site's."""
        matrix = np.eye(4)
        if owner != GROUND:
            piece = self.piece(owner)
            matrix[:3, :3] = euler_matrix(piece.turn, piece.tilt, piece.roll) * piece.size
            matrix[:3, 3] = piece.position
        return matrix

    def local_mesh(self, owner: str) -> Mesh:
        """The owner's finest mesh, unwrapped, in its own coordinates."""
        if owner == GROUND:
            return self.cache.get(self.ground_key(), lambda: ground_mesh(self.site.ground))
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
        out = [Surface(f"{GROUND}/{GROUND_SLOT}", GROUND, GROUND_SLOT, 0, self.site.ground.material, "ground")]
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

    # Rays ---------------------------------------------------------------------------------------------------

    def standing(self) -> RayScene:
        """Ground and pieces as one set of triangles for rays."""
        owners = self.owners()
        key = content_hash("rays", [self.owner_key(o) for o in owners])

        def make() -> RayScene:
            meshes = [self.mesh(o) for o in owners]
            offsets = np.cumsum([0, *(len(m.positions) for m in meshes[:-1])])
            positions = np.concatenate([m.positions for m in meshes])
            faces = np.concatenate([m.faces + o for m, o in zip(meshes, offsets, strict=True)])
            return RayScene(positions, faces)

        return self.cache.get(key, make)

    def _near_key(self, owner: str, reach: float) -> str:
        """Hash of an owner and everything that stands within `reach` of it."""
        low, high = self.mesh(owner).bounds()
        near = []
        for other in self.owners():
            a, b = self.mesh(other).bounds()
            if np.all(a <= high + reach) and np.all(b >= low - reach):
                near.append(self.owner_key(other))
        return content_hash("near", self.owner_key(owner), near, reach)

    # Texels and measures --------------------------------------------------------------------------------------

    def resolution(self, owner: str, limit: int = VIEW_LIMIT) -> int:
        """Side of the owner's maps: a power of two that gives about TEXEL metres a texel, within `limit`."""
        area = float(self.mesh(owner).face_areas().sum())
        wanted = np.sqrt(max(area, 1e-6) * 1.5) / TEXEL
        return int(np.clip(2 ** int(np.round(np.log2(max(wanted, 1.0)))), 32, limit))

    def table(self, owner: str, resolution: int) -> TexelTable:
        """Texel table of the owner where it stands."""
        key = content_hash("texels", self.owner_key(owner), resolution)
        return self.cache.get(key, lambda: texel_table(self.mesh(owner), resolution))

    def shelter_map(self, owner: str, reach: float, rays: int = VIEW_RAYS) -> np.ndarray:
        """(R, R) float32 shelter of an owner; kept on disk, it is the costliest measure."""
        resolution = self.resolution(owner, SHELTER_LIMIT if owner == GROUND else SHELTER_LIMIT // 2)
        key = content_hash("shelter", self._near_key(owner, reach), resolution, rays)

        def make() -> np.ndarray:
            table = self.table(owner, resolution)
            values = shelter(self.standing(), table.points.positions, table.points.normals, reach, rays)
            return table.spread(values)

        return self.cache.get(key, make, on_disk=True)

    def measure(
        self, owner: str, points: Points, rule: Rule, touches: list[TouchPlan], points_key: str = ""
    ) -> np.ndarray:
        """Values of a rule's measure at points of an owner; (N,) float32.

        With a `points_key` (a hash of the points), values are kept for the next time.
        """

        def make() -> np.ndarray:
            if isinstance(rule, SlopeRule):
                return slope(points.normals)
            if isinstance(rule, HeightRule):
                return height(points.positions, self._foot(owner) if rule.above == "foot" else 0.0)
            if isinstance(rule, ShelterRule):
                return sample_map(self.shelter_map(owner, rule.reach), points.uv2)
            if isinstance(rule, NoiseRule):
                return noise(points.positions, rule.size, rule.detail, rule.seed)
            assert isinstance(rule, PaintedRule)
            return painted(self.to_local(owner, points.positions), owner, touches, self.size(owner))

        if not points_key or isinstance(rule, PaintedRule):
            return make()
        settings = rule.model_dump(exclude={"gate", "strength", "active"})
        near = self._near_key(owner, rule.reach) if isinstance(rule, ShelterRule) else ""
        return self.cache.get(content_hash("measure", points_key, settings, near), make)

    def _foot(self, owner: str) -> float:
        return 0.0 if owner == GROUND else float(self.mesh(owner).bounds()[0][1])

    def size(self, owner: str) -> float:
        """The owner's enlargement."""
        return 1.0 if owner == GROUND else self.piece(owner).size

    def to_local(self, owner: str, positions: np.ndarray) -> np.ndarray:
        """Site coordinates → the owner's own, (N, 3)."""
        if owner == GROUND:
            return positions
        inverse = np.linalg.inv(self.matrix(owner))
        return (positions @ inverse[:3, :3].T + inverse[:3, 3]).astype(np.float32)
