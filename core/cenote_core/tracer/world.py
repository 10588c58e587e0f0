"""What rays meet, as a kernel reads it: tables uploaded, triangles in the ray engine, sky and sun."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..materials.material import srgb_to_linear
from ..mesh.jit import dr, mi
from ..mesh.rays import build_scene
from ..surfaces.weather_inputs import Fallen
from .bvh_cache import KeptTrees
from .lights import Lamp, Lights, lights_of
from .tables import Triangles

_DECODED = srgb_to_linear(np.arange(256, dtype=np.float32) / 255)


@dataclass(frozen=True)
class World:
    """Everything rays meet and what it looks like; used on the engine's thread only. `fallen` holds the kernel's numbers."""

    scene: Any
    positions: Any
    vertices: Any
    seams: Any
    faces: Any
    texels: Any
    covers: Any
    surfaces: Any
    layers: Any
    decoded: Any
    fallen: Fallen
    patterns: Any
    pattern_side: Any
    has_patterns: bool
    triangles: int


@dataclass(frozen=True)
class Sky:
    """Light from outside: a latitude-longitude picture and the sun.

    `picture` holds (H · W · 4) floats, `size` is (W, H); `sun` points toward the sun, `sun_light` is its irradiance on
    a surface that faces it; `lights` are all sources that are asked one by one, the sun first.
    """

    picture: Any
    size: tuple[Any, Any]
    sun: Any
    sun_light: Any
    lights: Lights


def upload(
    triangles: Triangles,
    texels: np.ndarray,
    covers: np.ndarray,
    surfaces: np.ndarray,
    layers: np.ndarray,
    trees: KeptTrees,
    fallen: Fallen = Fallen(),  # noqa: B008
    patterns: np.ndarray | None = None,
) -> World:
    """Hand everything to the engine.

    Parameters
    ----------
    texels : (T, 2) uint32
    covers : (C,) uint32
    surfaces, layers : (S, ROW) and (L, ROW) uint32
    trees : where the tree of the same triangles may still be
    fallen : what the weather lays on surfaces
    patterns : (sets, levers, R, R) light patterns of water, as `waters.light.patterns` makes a set; None where there is none
    """
    count = len(triangles.faces)
    if count == 0:
        # Rays need something to be tested against: one triangle without area, far below.
        triangles = Triangles(
            np.full((3, 3), -1e6, np.float32), np.zeros((3, 4), np.uint32), np.array([[0, 1, 2, 0]], np.uint32),
            np.zeros((1, 4), np.float32),
        )  # fmt: skip
    assert triangles.seams is not None
    scene, positions = trees.get(triangles.positions, triangles.faces[:, :3], lambda p, f: build_scene(mi, p, f))
    return World(
        scene=scene,
        positions=positions,
        vertices=_words(triangles.vertices),
        seams=mi.Float(_at_least(triangles.seams, 4).ravel()),
        faces=_words(triangles.faces),
        texels=_words(_at_least(texels, 2)),
        covers=_words(_at_least(covers, 1)),
        surfaces=_words(_at_least(surfaces, 16)),
        layers=_words(_at_least(layers, 16)),
        decoded=mi.Float(_DECODED),
        fallen=_read_from_memory(fallen),
        patterns=mi.Float(_at_least(np.zeros(0, np.float32) if patterns is None else patterns.ravel(), 1)),
        pattern_side=dr.opaque(mi.UInt32, 1 if patterns is None else patterns.shape[-1]),
        has_patterns=patterns is not None,
        triangles=count,
    )


def _read_from_memory(fallen: Fallen) -> Fallen:
    """The same for a kernel, which needs no other one for another weather."""
    numbers: dict[str, Any] = {
        name: dr.opaque(mi.Float, value) for name, value in fallen._asdict().items() if name != "rime"
    }
    return Fallen(**numbers, rime=opaque_vector(np.asarray(fallen.rime, float)))


def _at_least(array: np.ndarray, words: int) -> np.ndarray:
    """An empty table would be no pointer; one of zeros is never read."""
    return array if array.size else np.zeros(words, array.dtype)


def _words(array: np.ndarray) -> Any:
    return mi.UInt32(np.ascontiguousarray(array, np.uint32).ravel())


def sky_of(
    picture: np.ndarray, sun: np.ndarray, sun_light: np.ndarray, sun_radius: float, lamps: Sequence[Lamp] = ()
) -> Sky:
    """Upload the light.

    Parameters
    ----------
    picture : (H, W, 3) radiance, row 0 straight up, column 0 toward −z, going toward +x
    sun : (3,) unit vector toward the sun
    sun_light : (3,) irradiance on a surface that faces it
    sun_radius : degrees; 0 for a sun without size
    lamps : what shines besides
    """
    height, width = picture.shape[:2]
    padded = np.concatenate([picture, np.zeros((height, width, 1))], axis=-1).astype(np.float32)
    return Sky(
        picture=mi.Float(padded.ravel()),
        size=(dr.opaque(mi.UInt32, width), dr.opaque(mi.UInt32, height)),
        sun=opaque_vector(sun),
        sun_light=mi.Color3f(opaque_vector(sun_light)),
        lights=lights_of(sun, sun_light, float(np.cos(np.radians(sun_radius))), lamps),
    )


def opaque_vector(values: np.ndarray) -> Any:
    """A vector a kernel reads from memory, so that another one needs no other kernel."""
    return mi.Vector3f(*(dr.opaque(mi.Float, float(v)) for v in values))


def sky_light(sky: Sky, direction: Any) -> Any:
    """Radiance from a direction, bilinear between texels, round the horizon without a seam."""
    width, height = sky.size
    across = dr.atan2(direction.x, -direction.z) * (0.5 / dr.pi)
    across = (across - dr.floor(across)) * mi.Float(width) - 0.5
    down = dr.safe_acos(direction.y) * (1 / dr.pi) * mi.Float(height) - 0.5
    left, top = dr.floor(across), dr.floor(down)
    fx, fy = across - left, down - top
    out = mi.Color3f(0.0)
    last = mi.Int32(height) - 1
    for j, wy in ((0, 1 - fy), (1, fy)):
        row = dr.clip(mi.Int32(top) + j, 0, last)
        for i, wx in ((0, 1 - fx), (1, fx)):
            column = mi.Int32(left) + i
            column = dr.select(column < 0, column + mi.Int32(width), column)
            column = dr.select(column >= mi.Int32(width), column - mi.Int32(width), column)
            texel = dr.gather(mi.Vector4f, sky.picture, mi.UInt32(row) * width + mi.UInt32(column))
            out += mi.Color3f(texel.x, texel.y, texel.z) * (wx * wy)
    return out
