"""Reading tables in a kernel: rows of surfaces and layers, texels, covers, packed normals and colours."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..mesh.jit import dr, mi
from .tables import _WHOLE, COLOUR_RANGE, LAYER, ROW, SURFACE
from .world import World


@dataclass
class Texel:
    """What a material's picture says at a place: linear colour, the rest 0..1, the normal's parts −1..1."""

    colour: Any
    roughness: Any
    height: Any
    normal_x: Any
    normal_y: Any
    opacity: Any


def as_float(word: Any) -> Any:
    """The bits of a word as a float."""
    return dr.reinterpret_array(mi.Float, word)


def row(table: Any, number: Any, words: tuple[str, ...], names: tuple[str, ...], active: Any) -> dict[str, Any]:
    """Some named words of a row; read four at a time, and only the fours that are needed."""
    fours = {words.index(name) // 4 for name in names}
    read = {k: dr.gather(mi.Vector4u, table, number * (ROW // 4) + k, active) for k in fours}
    found = {name: read[words.index(name) // 4][words.index(name) % 4] for name in names}
    return {name: word if name in _WHOLE else as_float(word) for name, word in found.items()}


def surface_row(world: World, number: Any, names: tuple[str, ...], active: Any) -> dict[str, Any]:
    """Some named words of a surface."""
    return row(world.surfaces, number, SURFACE, names, active)


def layer_row(world: World, number: Any, active: Any) -> dict[str, Any]:
    """A layer."""
    return row(world.layers, number, LAYER, LAYER, active)


def _wrapped(at: Any, side: Any) -> Any:
    """A whole coordinate from −1 to `side`, repeated."""
    at = dr.select(at < 0, at + mi.Int32(side), at)
    return mi.UInt32(dr.select(at >= mi.Int32(side), at - mi.Int32(side), at))


def _cell(u: Any, v: Any, side: Any) -> tuple[Any, Any]:
    """Place in a repeating picture in texels; rows go from v = 1 down."""
    x = (u - dr.floor(u)) * mi.Float(side) - 0.5
    y = (1 - (v - dr.floor(v))) * mi.Float(side) - 0.5
    return x, y


def _decode(world: World, words: Any, active: Any) -> Texel:
    byte = lambda word, shift: mi.Float((word >> shift) & 255) * (1 / 255)  # noqa: E731
    colour = mi.Color3f(*(dr.gather(mi.Float, world.decoded, (words.x >> s) & 255, active) for s in (0, 8, 16)))
    return Texel(
        colour,
        byte(words.x, 24),
        byte(words.y, 0),
        mi.Float((words.y >> 8) & 255) * (1 / 127.5) - 1,
        mi.Float((words.y >> 16) & 255) * (1 / 127.5) - 1,
        byte(words.y, 24),
    )


def texel(world: World, offset: Any, side: Any, u: Any, v: Any, jitter: tuple[Any, Any] | None, active: Any) -> Texel:
    """A picture at repeating coordinates.

    With `jitter`, two numbers 0..1, one of the four texels about the place is read, each as often as bilinear reading
    weighs it: the mean is the same at a quarter of the reads. Without, all four are read and mixed.
    """
    x, y = _cell(u, v, side)
    if jitter is not None:
        column, line = mi.Int32(dr.floor(x + jitter[0])), mi.Int32(dr.floor(y + jitter[1]))
        index = offset + _wrapped(line, side) * side + _wrapped(column, side)
        return _decode(world, dr.gather(mi.Vector2u, world.texels, index, active), active)
    left, top = dr.floor(x), dr.floor(y)
    total = Texel(mi.Color3f(0.0), *(mi.Float(0.0) for _ in range(5)))
    for j, wy in ((0, 1 - (y - top)), (1, y - top)):
        line = _wrapped(mi.Int32(top) + j, side) * side
        for i, wx in ((0, 1 - (x - left)), (1, x - left)):
            index = offset + line + _wrapped(mi.Int32(left) + i, side)
            one = _decode(world, dr.gather(mi.Vector2u, world.texels, index, active), active)
            for name in total.__dataclass_fields__:
                setattr(total, name, getattr(total, name) + getattr(one, name) * (wx * wy))
    return total


def opacity(world: World, offset: Any, side: Any, u: Any, v: Any, jitter: tuple[Any, Any], active: Any) -> Any:
    """The opacity of a picture alone, read as `texel` reads with jitter."""
    x, y = _cell(u, v, side)
    column, line = mi.Int32(dr.floor(x + jitter[0])), mi.Int32(dr.floor(y + jitter[1]))
    index = offset + _wrapped(line, side) * side + _wrapped(column, side)
    return mi.Float(dr.gather(mi.UInt32, world.texels, index * 2 + 1, active) >> 24) * (1 / 255)


def cover(world: World, first: Any, side: Any, plane: Any, shift: Any, u: Any, v: Any, active: Any) -> Any:
    """A cover at unwrapped coordinates, bilinear, row 0 at v = 0, held at the rim."""
    last = mi.Float(side) - 1
    x, y = dr.clip(u * mi.Float(side) - 0.5, 0, last), dr.clip(v * mi.Float(side) - 0.5, 0, last)
    left, top = dr.minimum(dr.floor(x), dr.maximum(last - 1, 0)), dr.minimum(dr.floor(y), dr.maximum(last - 1, 0))
    fx, fy = x - left, y - top
    at = first + plane * side * side + mi.UInt32(top) * side + mi.UInt32(left)
    value = mi.Float(0.0)
    for step, weight in ((0, (1 - fx) * (1 - fy)), (1, fx * (1 - fy)), (side, (1 - fx) * fy), (side + 1, fx * fy)):
        word = dr.gather(mi.UInt32, world.covers, at + step, active)
        value += mi.Float((word >> shift) & 255) * weight
    return value * (1 / 255)


def unpacked_normal(word: Any) -> Any:
    """The vector of an octahedral word, unit length."""
    signed = lambda bits: mi.Float(mi.Int32(bits << 16) >> 16) * (1 / 32767)  # noqa: E731
    u, v = signed(word & 0xFFFF), signed(word >> 16)
    z = 1 - dr.abs(u) - dr.abs(v)
    fold = dr.maximum(-z, 0)
    u = u + dr.select(u >= 0, -fold, fold)
    v = v + dr.select(v >= 0, -fold, fold)
    return dr.normalize(mi.Vector3f(u, v, z))


def unpacked_colour(word: Any) -> Any:
    """The colour of a word of three ten-bit square roots."""
    parts = [mi.Float((word >> shift) & 1023) * (1 / 1023) for shift in (0, 10, 20)]
    return mi.Color3f(*(part * part * COLOUR_RANGE for part in parts))
