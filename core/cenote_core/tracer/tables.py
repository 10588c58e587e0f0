"""The flat tables a kernel reads: what their words are, and how they are packed.

All are arrays of 32-bit words, read in groups of two or four.

| table | words a row |
|---|---|
| vertices | u, v (float32), normal (octahedral, two signed 16-bit), colour (three 10-bit square roots, of 0 to 4) and 1 under a roof |
| seams | unwrapped u, v, own u, v of the base picture, or for a decal its opacity first; for the first vertices only |
| faces | three vertices, surface |
| texels | red, green, blue (sRGB), roughness; height, normal x, normal y, opacity; a byte each |
| surfaces, layers | as `SURFACE` and `LAYER` say |
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..base.kernels import inlined, parallel_kernel, prange
from ..materials.material import Material

THIN, CUT_OUT, SIDES, OWN_BASE, MACRO_DRIFT, FADES, OPEN, FALLEN, WATER, POOLED, CLEAR, PANE, WARM, SCATTERS = (
    1 << k for k in range(14)
)
"""Flags of a surface: light comes through it; its picture has holes; it is ground, whose pictures are laid on from
the side where it is steep; its base has coordinates of its own; its brightness drifts by its enlarged relief; its
vertices carry an opacity; the first of its covers says how far it lies open to the weather; it has
fallen itself, and nothing falls on it; it is a sheet of water, which what guides the denoising
sees through; the second of its
covers says where water stands; it is the outside of a clear body, which light is bent by and goes through; it is a
thin pane, which mirrors as often as glass does and lets straight through otherwise; no frost forms on it; light goes
on inside it and comes out beside where it went in. WARM,
`POROUS_AT` and `SHEDS_AT` are at the same places of a layer's number, which fills the byte below them."""
POROUS_AT = 16
"""The highest byte but one of the flags, and of a layer's number, says how porous a surface is."""
SHEDS_AT = 24
"""The highest byte says how much of the snow on it slips off."""
ROW = 20
COLOUR_RANGE = 4.0
"""Greatest value a vertex colour can have."""

SURFACE = (
    "flags", "offset", "side", "tile",
    "metalness", "roughness", "least_roughness", "translucency",
    "layers", "covers", "cover_side", "depth",
    "red", "green", "blue", "relief",
    "murk", "light", "pattern", "spare",
)  # fmt: skip
LAYER = (
    "offset", "side", "tile", "variation_tile",
    "red", "green", "blue", "variation",
    "roughness", "relief", "break_up", "stain",
    "number", "depth", "thickness", "fill",
    "film", "metalness", "spare", "spare",
)  # fmt: skip
"""`layers` holds the first in its upper 24 bits and how many in its lower 8 (see `layer_run`); `depth` is the relief in
metres. Of what is clear `translucency` is the index of refraction, and the colours are what is lost on a metre; of water `murk`
is how often light meets mud on a metre, `light` the strength of the patterns it throws, and `pattern` their number."""
_WHOLE = {"flags", "offset", "side", "layers", "covers", "cover_side", "number", "pattern"}
MOST_LAYERS = 255


def answering(answer: tuple[float, float, float]) -> int:
    """How something answers to the weather (see `Scene.answer`), as part of a surface's flags or a layer's number."""
    porosity, sheds, warm = answer
    return _byte(porosity) << POROUS_AT | shedding(sheds) | (WARM if warm else 0)


def shedding(share: float) -> int:
    """A share of 0..1 that slips off as part of a surface's flags."""
    return _byte(share) << SHEDS_AT


def _byte(share: float) -> int:
    return int(round(min(max(share, 0.0), 1.0) * 255))


def layer_run(first: int, count: int) -> int:
    """The first of a surface's layers and how many there are, in one word."""
    if not 0 <= count <= MOST_LAYERS:
        raise ValueError(f"a surface carries {MOST_LAYERS} layers at most")
    return first << 8 | count


def packed_row(words: Sequence[str], values: dict[str, float]) -> np.ndarray:
    """(ROW,) uint32 row of a table; what is not given is 0."""
    unknown = set(values) - set(words)
    if unknown:
        raise ValueError(f"no such words in this table: {sorted(unknown)}")
    out = np.zeros(ROW, np.uint32)
    for place, name in enumerate(words):
        value = values.get(name, 0)
        out[place] = np.uint32(value) if name in _WHOLE else np.float32(value).view(np.uint32)
    return out


def packed_texels(material: Material) -> np.ndarray:
    """(N · N, 2) uint32 texels of a material, rows from the top (v = 1) down."""
    parts = [
        material.colour,
        material.roughness[..., None],
        material.height[..., None],
        material.normal[..., :2],
        (np.full_like(material.height, 255) if material.fourth is None else material.fourth)[..., None],
    ]
    return np.ascontiguousarray(np.concatenate(parts, axis=-1)).view(np.uint32).reshape(-1, 2)


def packed_covers(covers: np.ndarray) -> np.ndarray:
    """(P, R, R) float 0..1 → (⌈P/4⌉ · R · R,) uint32, four covers a word."""
    count, side = covers.shape[:2]
    planes = (count + 3) // 4
    out = np.zeros((planes, side, side, 4), np.uint8)
    for k in range(count):
        out[k // 4, ..., k % 4] = np.clip(covers[k] * 255 + 0.5, 0, 255)
    return out.view(np.uint32).reshape(-1)


@inlined()
def pack_normal(x: float, y: float, z: float) -> int:
    """Octahedral encoding (Cigolle et al. 2014), two signed 16-bit parts in a word."""
    total = max(abs(x) + abs(y) + abs(z), 1e-12)
    u, v = x / total, y / total
    if z < 0:
        u, v = (1 - abs(v)) * (1.0 if u >= 0 else -1.0), (1 - abs(u)) * (1.0 if v >= 0 else -1.0)
    a, b = int(np.round(u * 32767.0)) & 0xFFFF, int(np.round(v * 32767.0)) & 0xFFFF
    return a | (b << 16)


ROOFED_AT = 30
"""The bit of a vertex's colour that says that it stands under a roof: only of what has no map of how open it lies."""


@inlined()
def pack_colour(r: float, g: float, b: float) -> int:
    """Square roots of three values 0 to `COLOUR_RANGE` in ten bits each: dark colours keep their shades."""
    word = 0
    for k in range(3):
        value = r if k == 0 else (g if k == 1 else b)
        root = np.sqrt(min(max(value, 0.0), COLOUR_RANGE) / COLOUR_RANGE)
        word |= int(root * 1023.0 + 0.5) << (10 * k)
    return word


def packed_vertices(uv: np.ndarray, normals: np.ndarray, colour: np.ndarray) -> np.ndarray:
    """(V, 4) uint32 vertex rows from (V, 2), (V, 3) and (V, 3) floats."""
    out = np.empty((len(uv), 4), np.uint32)
    out[:, :2] = as_words(uv)
    _pack(np.ascontiguousarray(normals, np.float32), np.ascontiguousarray(colour, np.float32), out)
    return out


def as_words(floats: np.ndarray) -> np.ndarray:
    """The bits of float32 values as uint32."""
    return np.ascontiguousarray(floats, np.float32).view(np.uint32)


@parallel_kernel
def _pack(normals: np.ndarray, colour: np.ndarray, out: np.ndarray) -> None:
    for n in prange(len(out)):
        out[n, 2] = pack_normal(normals[n, 0], normals[n, 1], normals[n, 2])
        out[n, 3] = pack_colour(colour[n, 0], colour[n, 1], colour[n, 2])


@dataclass(frozen=True)
class Triangles:
    """Packed triangles, ready to be joined with others.

    Attributes
    ----------
    positions : (V, 3) float32, metres
    vertices : (V, 4) uint32
    faces : (F, 4) uint32, three vertices and the surface
    seams : (V, 4) float32 or None
    """

    positions: np.ndarray
    vertices: np.ndarray
    faces: np.ndarray
    seams: np.ndarray | None = None

    @property
    def nbytes(self) -> int:
        """Bytes held."""
        seams = 0 if self.seams is None else self.seams.nbytes
        return int(self.positions.nbytes + self.vertices.nbytes + self.faces.nbytes + seams)


def joined(parts: Sequence[Triangles]) -> Triangles:
    """All parts as one, those with seams first, so that only they need rows for them."""
    ordered = [p for p in parts if p.seams is not None] + [p for p in parts if p.seams is None]
    if not ordered:
        return Triangles(
            np.zeros((0, 3), np.float32),
            np.zeros((0, 4), np.uint32),
            np.zeros((0, 4), np.uint32),
            np.zeros((0, 4), np.float32),
        )
    faces = np.concatenate([p.faces for p in ordered])
    first_face = first_vertex = 0
    for part in ordered:
        faces[first_face : first_face + len(part.faces), :3] += np.uint32(first_vertex)
        first_face += len(part.faces)
        first_vertex += len(part.positions)
    seams = [p.seams for p in ordered if p.seams is not None]
    return Triangles(
        np.concatenate([p.positions for p in ordered]),
        np.concatenate([p.vertices for p in ordered]),
        faces,
        np.concatenate(seams) if seams else np.zeros((0, 4), np.float32),
    )
