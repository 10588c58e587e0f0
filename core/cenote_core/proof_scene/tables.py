"""Tables in the making, and what whoever fills them is told."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ..materials.material import Material
from ..materials.tile import linear_colour
from ..mesh.mesh import Mesh
from ..plan import PatinaPlan, StationPlan
from ..scene.scene import Scene
from ..tracer import tables
from ..tracer.lights import Lamp
from ..tracer.tables import LAYER, SURFACE, Triangles, packed_covers, packed_row, packed_texels
from .detail import Detail

SMOOTHEST = 20 / 255
"""Least roughness of what has no map finer than a byte; smoother highlights would be single bright pixels."""

WHITE = Material(
    colour=np.full((2, 2, 3), 255, np.uint8),
    roughness=np.full((2, 2), 255, np.uint8),
    height=np.full((2, 2), 128, np.uint8),
    normal=np.full((2, 2, 3), 128, np.uint8),
    tile=0.0,
)
"""A picture of nothing: vertices, or what the surface is, say all."""


@dataclass
class Tables:
    """Tables in the making."""

    parts: list[Triangles] = field(default_factory=list)
    texels: list[np.ndarray] = field(default_factory=list)
    covers: list[np.ndarray] = field(default_factory=list)
    surfaces: list[np.ndarray] = field(default_factory=list)
    layers: list[np.ndarray] = field(default_factory=list)
    patterns: list[np.ndarray] = field(default_factory=list)
    lamps: list[Lamp] = field(default_factory=list)
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
        colour = np.ones_like(mesh.normals) if mesh.colour is None else mesh.colour[:, :3]
        vertices = tables.packed_vertices(mesh.uv, mesh.normals, colour)
        faces = np.column_stack([mesh.faces, surfaces]).astype(np.uint32)
        self.parts.append(Triangles(mesh.positions, vertices, faces, np.ascontiguousarray(seams, np.float32)))

    def arrays(self) -> tuple[Triangles, np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """Everything joined, as `tracer.world.upload` takes it."""
        rows = lambda made: np.stack(made) if made else np.zeros((0, tables.ROW), np.uint32)  # noqa: E731
        texels = np.concatenate(self.texels) if self.texels else np.zeros((0, 2), np.uint32)
        covers = np.concatenate(self.covers) if self.covers else np.zeros(0, np.uint32)
        return tables.joined(self.parts), texels, covers, rows(self.surfaces), rows(self.layers)


@dataclass(frozen=True)
class Shot:
    """One picture to be: what of, from where and how fine.

    Attributes
    ----------
    meshes : the mesh each owner is drawn by
    size : pixels across and down
    """

    scene: Scene
    meshes: dict[str, Mesh]
    station: StationPlan
    size: tuple[int, int]
    detail: Detail

    @property
    def aspect(self) -> float:
        """Width over height."""
        return self.size[0] / self.size[1]


def finish_layer(out: Tables, scene: Scene, plan: PatinaPlan, number: int, tile: float) -> np.ndarray:
    """A layer's row: what a patina looks like, its cover's number among those of its surface, and its enlargement."""
    finish = plan.finish
    material = scene.material(finish.material)
    red, green, blue = (float(v) for v in linear_colour(finish.tint))
    answers = tables.answering(scene.answer(finish, finish.material))
    values = {
        "tile": tile, "variation_tile": 4.0 * finish.variation_size,
        "red": red, "green": green, "blue": blue, "variation": finish.variation,
        "roughness": finish.roughness, "relief": finish.relief, "break_up": finish.break_up, "stain": finish.stain, "film": float(finish.film),
        "number": number | answers, "fill": finish.fill, "thickness": finish.thickness / 1000,
        "depth": material.depth * finish.relief, "metalness": material.metalness,
    }  # fmt: skip
    return packed_row(LAYER, values | out.picture(finish.material, material))
