"""A site as the path tracer's tables: ground, pieces and decals. Drifts stand in `vegetation.py`."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ..decals.project import projected, stacked
from ..materials.material import Material
from ..materials.tile import linear_colour
from ..mesh.mesh import Mesh
from ..patinas.cover import owner_covers, stack
from ..patinas.heights import layer_tile
from ..plan import GROUND, PatinaPlan
from ..scene.scene import VIEW_LIMIT, Scene, Surface
from ..tracer import tables
from ..tracer.tables import LAYER, SURFACE, Triangles, layer_run, packed_covers, packed_row, packed_texels
from ..weather.exposure import exposure_map

_SMOOTHEST = 20 / 255
"""Least roughness of what has no map finer than a byte; smoother highlights would be single bright pixels."""
_LIFT = 0.0008
"""Metres by which each decal of a pile lies over the one beneath it."""


@dataclass
class Tables:
    """Tables in the making."""

    parts: list[Triangles] = field(default_factory=list)
    texels: list[np.ndarray] = field(default_factory=list)
    covers: list[np.ndarray] = field(default_factory=list)
    surfaces: list[np.ndarray] = field(default_factory=list)
    layers: list[np.ndarray] = field(default_factory=list)
    _pictures: dict[str, int] = field(default_factory=dict)
    _texels: int = 0
    _covers: int = 0

    def picture(self, name: str, material: Material) -> dict[str, float]:
        """Where a material's picture lies; put in when it is asked for first."""
        if name not in self._pictures:
            self._pictures[name] = self._texels
            self.texels.append(packed_texels(material))
            self._texels += len(self.texels[-1])
        return {"offset": self._pictures[name], "side": material.size}

    def cover(self, covers: np.ndarray) -> dict[str, float]:
        """Put an owner's covers in: (P, R, R)."""
        first = self._covers
        self.covers.append(packed_covers(covers))
        self._covers += len(self.covers[-1])
        return {"covers": first, "cover_side": covers.shape[1]}

    def surface(self, **values: float) -> int:
        """Put a surface in; its number."""
        white = {"red": 1.0, "green": 1.0, "blue": 1.0, "roughness": 1.0, "tile": 1.0}
        self.surfaces.append(packed_row(SURFACE, white | values))
        return len(self.surfaces) - 1

    def mesh(self, mesh: Mesh, surfaces: np.ndarray, seams: np.ndarray) -> None:
        """Put a mesh in, (F,) surfaces by face, (V, 4) seams."""
        vertices = tables.packed_vertices(mesh.uv, mesh.normals, np.ones_like(mesh.normals))
        faces = np.column_stack([mesh.faces, surfaces]).astype(np.uint32)
        self.parts.append(Triangles(mesh.positions, vertices, faces, np.ascontiguousarray(seams, np.float32)))

    def arrays(self) -> tuple[Triangles, np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """Everything joined, as `tracer.world.upload` takes it."""
        rows = lambda made: np.stack(made) if made else np.zeros((0, tables.ROW), np.uint32)  # noqa: E731
        texels = np.concatenate(self.texels) if self.texels else np.zeros((0, 2), np.uint32)
        covers = np.concatenate(self.covers) if self.covers else np.zeros(0, np.uint32)
        return tables.joined(self.parts), texels, covers, rows(self.surfaces), rows(self.layers)


def add_owners(out: Tables, scene: Scene, meshes: dict[str, Mesh]) -> None:
    """The ground and every piece, each with the mesh it is drawn by, and the patinas on them."""
    surfaces = [s for s in scene.surfaces() if not s.layer]
    for owner in scene.owners():
        mesh = meshes[owner]
        assert mesh.uv2 is not None
        patinas = stack(scene, owner)
        maps = _maps(scene, owner)
        covers = out.cover(maps) if len(maps) else {}
        numbers = np.zeros(len(mesh.slot_names), np.int64)
        for surface in surfaces:
            if surface.owner == owner:
                numbers[surface.index] = _add_surface(out, scene, surface, patinas, covers)
        own = mesh.uv if mesh.base_uv is None else mesh.base_uv
        out.mesh(mesh, numbers[mesh.slots], np.concatenate([mesh.uv2, own], axis=1))


def _maps(scene: Scene, owner: str) -> np.ndarray:
    """(P, R, R): how far an owner lies open to the sky, if the weather is wet, and the covers of its patinas."""
    covers = owner_covers(scene, owner, VIEW_LIMIT)
    if not _wet(scene):
        return covers
    return np.concatenate([exposure_map(scene, owner, covers.shape[1])[None], covers])


def _wet(scene: Scene) -> bool:
    return scene.site.weather.wetness > 0


def _add_surface(
    out: Tables, scene: Scene, surface: Surface, patinas: list[tuple[str, PatinaPlan]], covers: dict[str, float]
) -> int:
    material = scene.material(surface.material)
    tiles = material.tile > 0
    first = len(out.layers)
    for number, (_, plan) in enumerate(patinas, start=int(_wet(scene))):
        # The ground's surfaces are named one by one, but lie on one slot.
        if surface.owner == GROUND or any(use.surface == surface.ref for use in plan.uses):
            out.layers.append(_layer(out, scene, plan, number))
    flags = (tables.MACRO_DRIFT if tiles else tables.OWN_BASE) | (tables.SIDES if surface.owner == GROUND else 0)
    flags |= tables.OPEN if _wet(scene) else 0
    return out.surface(
        **out.picture(surface.material, material), **covers,
        flags=flags, tile=material.tile if tiles else 1.0, metalness=material.metalness,
        least_roughness=_SMOOTHEST, layers=layer_run(first, len(out.layers) - first), depth=material.depth, relief=1.0,
    )  # fmt: skip


def _layer(out: Tables, scene: Scene, plan: PatinaPlan, number: int) -> np.ndarray:
    finish = plan.finish
    material = scene.material(finish.material)
    red, green, blue = (float(v) for v in linear_colour(finish.tint))
    values = {
        "tile": layer_tile(plan, material.tile), "variation_tile": 4.0 * finish.variation_size,
        "red": red, "green": green, "blue": blue, "variation": finish.variation,
        "roughness": finish.roughness, "relief": finish.relief, "break_up": finish.break_up, "stain": finish.stain,
        "number": number, "fill": finish.fill, "thickness": finish.thickness / 1000,
        "depth": material.depth * finish.relief,
    }  # fmt: skip
    return packed_row(LAYER, values | out.picture(finish.material, material))


def add_decals(out: Tables, scene: Scene, meshes: dict[str, Mesh]) -> None:
    """Decals as thin meshes with soft ends on what is drawn; higher ones lie a little farther out."""
    for order, (_, plan) in enumerate(stacked(scene)):
        mesh = projected(meshes, plan)
        if mesh is None or mesh.colour is None:
            continue
        material = scene.material(plan.picture)
        red, green, blue = (float(v) for v in linear_colour(plan.tint))
        surface = out.surface(
            **out.picture(plan.picture, material), flags=tables.CUT_OUT | tables.FADES, least_roughness=_SMOOTHEST,
            red=red, green=green, blue=blue, relief=1.0,
        )  # fmt: skip
        lifted = Mesh(
            mesh.positions + mesh.normals * np.float32(_LIFT * order), mesh.faces, mesh.normals, mesh.uv, mesh.slots
        )
        seams = np.zeros((len(mesh.positions), 4), np.float32)
        seams[:, 2] = mesh.colour[:, 3]
        out.mesh(lifted, np.full(len(mesh.faces), surface), seams)
