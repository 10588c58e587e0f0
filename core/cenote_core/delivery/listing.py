"""The list of all that is handed over: shapes, materials with their pictures, instances, cameras and lights.

Metres, right-handed, Y up; colours are linear. It is built once and written by as many formats as are asked for.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from ..mesh.mesh import Mesh

Alpha = Literal["opaque", "cut", "blend"]


@dataclass(frozen=True)
class Volume:
    """What a metre of something clear takes of the light that goes through it.

    Attributes
    ----------
    thick : metres of it, for renderers that do not trace the body
    away : metres after which `colour` is left of white light; None: nothing is taken
    """

    thick: float
    away: float | None = None
    colour: tuple[float, float, float] = (1.0, 1.0, 1.0)


@dataclass(frozen=True)
class Finish:
    """A material as files know it; pictures are files of their own, top row first.

    Attributes
    ----------
    colour : linear, with opacity; times the picture where there is one
    metalness, roughness : times the picture where there is one
    colour_map, normal_map : bytes of a JPEG or PNG file
    surface_map : occlusion, roughness and metalness in red, green and blue
    relief : times the slope of the normal map
    transmits : share of the light let through that is not mirrored
    bends : index of refraction; None: as usual
    """

    name: str
    colour: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    metalness: float = 1.0
    roughness: float = 1.0
    colour_map: bytes | None = None
    surface_map: bytes | None = None
    normal_map: bytes | None = None
    relief: float = 1.0
    alpha: Alpha = "opaque"
    both_sides: bool = False
    transmits: float = 0.0
    bends: float | None = None
    volume: Volume | None = None


@dataclass(frozen=True)
class Part:
    """Some faces of a mesh in one material.

    Attributes
    ----------
    faces : (F, 3) of the mesh's vertices
    uv : (V, 2) coordinates of the material's pictures, from the bottom left
    colour : (V, 4) linear, or None
    """

    mesh: Mesh
    faces: np.ndarray
    uv: np.ndarray
    material: str
    colour: np.ndarray | None = None


@dataclass(frozen=True)
class Body:
    """A named shape of one or more materials, where it stands."""

    name: str
    parts: list[Part]


@dataclass(frozen=True)
class Scatter:
    """Many of one shape.

    Attributes
    ----------
    shape : key of the shape
    position : (N, 3) metres
    turn : (N, 4) quaternions x, y, z, w
    scale : (N,)
    tint : (N, 3) linear, times the colours of the shape
    """

    name: str
    shape: str
    position: np.ndarray
    turn: np.ndarray
    scale: np.ndarray
    tint: np.ndarray


@dataclass(frozen=True)
class Camera:
    """`turn` is a quaternion that takes a camera looking along −z with y up to this one; `tall` radians of view."""

    name: str
    eye: tuple[float, ...]
    turn: tuple[float, ...]
    tall: float
    aspect: float


@dataclass(frozen=True)
class Light:
    """A source of light.

    Attributes
    ----------
    colour : linear, the strongest of its three values 1
    strength : lux on what faces it if it is far away, else candela
    turn : a quaternion that takes −z to the way it shines; None: it shines all around
    at : where it is, metres; None: far away
    """

    name: str
    colour: tuple[float, ...]
    strength: float
    turn: tuple[float, ...] | None = None
    at: tuple[float, ...] | None = None


@dataclass(frozen=True)
class Rows:
    """Some instances of one asset in one drift, as they are listed in tables: what stands, before the wind leans it.

    Attributes
    ----------
    identity : (N,) uint64
    position, turn, scale, tint : as of a `Scatter`
    mirrored : (N,) bool
    """

    drift: str
    asset: str
    identity: np.ndarray
    position: np.ndarray
    turn: np.ndarray
    scale: np.ndarray
    tint: np.ndarray
    mirrored: np.ndarray


@dataclass
class Delivery:
    """A site's list in the making.

    Attributes
    ----------
    most : texels along a side of baked pictures, at most
    told : told what is worked on next
    materials, shapes : by keys that say what they are made from, so that each is made once
    """

    name: str
    most: int
    told: Callable[[str], None]
    materials: dict[str, Finish] = field(default_factory=dict)
    bodies: list[Body] = field(default_factory=list)
    shapes: dict[str, Body] = field(default_factory=dict)
    scattered: list[Scatter] = field(default_factory=list)
    rows: list[Rows] = field(default_factory=list)
    cameras: list[Camera] = field(default_factory=list)
    lights: list[Light] = field(default_factory=list)

    def material(self, key: str, make: Callable[[], Finish]) -> str:
        """The key of a material, which is made unless it is known."""
        if key not in self.materials:
            self.materials[key] = make()
        return key

    def shape(self, key: str, make: Callable[[], Body]) -> str:
        """The key of a shape of which many stand, which is made unless it is known."""
        if key not in self.shapes:
            self.shapes[key] = make()
        return key

    def stand(self, name: str, parts: list[Part]) -> None:
        """Something that is there once."""
        if parts:
            self.bodies.append(Body(name, parts))

    @property
    def instances(self) -> int:
        """How many things are scattered."""
        return sum(len(rows.scale) for rows in self.rows)
