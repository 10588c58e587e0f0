"""Light in and over water: mud it meets on its way, and the patterns that waves throw on floors and walls."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..mesh.jit import dr, mi
from ..surfaces.clear import WATER as INDEX
from ..surfaces.drjit_formulas import water_mirrors
from ..surfaces.water import BENT, BENT_LEVERS, MIRRORED, MIRRORED_LEVERS, TILE
from ..surfaces.weather_inputs import MUD_COLOUR
from .dielectrics import Clear
from .hits import Hit, Spot, first_solid
from .reading import surface_row
from .tables import WATER
from .world import Sky, World

_REACH = 7.0
"""Metres from water within which the light it mirrors is looked for."""
_STIRRED = 1.5
"""Mud in water is brighter than on land: grains lie apart."""


def muddied(
    spot: Spot, origin: Any, direction: Any, distance: Any, clear: Clear, choice: Any, met: Any
) -> tuple[Spot, Any]:
    """The place where light meets mud in water before it comes to `spot`, if it does, and how far that is.

    Light goes freely for a way that falls exponentially; what it meets throws it back as a grain does.
    """
    free = -dr.log(dr.maximum(1 - choice, 1e-6)) * dr.rcp(dr.maximum(clear.murk, 1e-6))
    meets = met & (clear.murk > 0) & (free < distance)
    up = mi.Vector3f(0, 1, 0)
    mud = mi.Color3f(*(part * _STIRRED for part in MUD_COLOUR))
    no = mi.Bool(False)
    grain = replace(
        spot,
        position=dr.select(meets, origin + direction * free, spot.position),
        geometric=dr.select(meets, up, spot.geometric),
        normal=dr.select(meets, up, spot.normal),
        colour=dr.select(meets, mud, spot.colour),
        roughness=dr.select(meets, 1.0, spot.roughness),
        metalness=dr.select(meets, 0.0, spot.metalness),
        thin=dr.select(meets, no, spot.thin),
        clear=dr.select(meets, no, spot.clear),
        scatters=dr.select(meets, no, spot.scatters),
    )
    return grain, dr.select(meets, free, distance)


def _read(world: World, number: Any, plane: Any, x: Any, z: Any, active: Any) -> Any:
    """A pattern at a place, bilinear, repeated."""
    side = mi.Float(world.pattern_side)
    u, v = ((w / TILE - dr.floor(w / TILE)) * side - 0.5 for w in (x, z))
    left, top = dr.floor(u), dr.floor(v)
    fx, fz = u - left, v - top
    planes = len(BENT_LEVERS) + len(MIRRORED_LEVERS)
    first = (number * planes + plane) * world.pattern_side * world.pattern_side
    value = mi.Float(0.0)
    for i, wx in ((0, 1 - fx), (1, fx)):
        for j, wz in ((0, 1 - fz), (1, fz)):
            column, row = (w + mi.Float(k) for w, k in ((left, i), (top, j)))
            column, row = (dr.select(w < 0, w + side, dr.select(w >= side, w - side, w)) for w in (column, row))
            at = first + mi.UInt32(row) * world.pattern_side + mi.UInt32(column)
            value += dr.gather(mi.Float, world.patterns, at, active) * (wx * wz)
    return value


def _pattern(
    world: World, number: Any, lever: Any, levers: tuple[float, ...], before: int, x: Any, z: Any, active: Any
) -> Any:
    """A pattern for any lever, between the two it lies between; less than the least is on the way to none."""
    last = len(levers) - 1
    place = dr.clip(dr.log(dr.maximum(lever, 1e-6) / levers[0]) / dr.log(levers[1] / levers[0]), -1.0, last)
    low = dr.clip(dr.floor(place), 0, last - 1)
    share = dr.clip(place - low, 0, 1)
    plane = mi.UInt32(low) + before
    one = _read(world, number, plane, x, z, active)
    other = _read(world, number, plane + 1, x, z, active)
    found = one + (other - one) * share
    return 1 + (found - 1) * dr.clip(1 + place, 0, 1)


def on_floor(world: World, sky: Sky, spot: Spot, clear: Clear, depth: Any, active: Any) -> Any:
    """Factor on the sun's light at a spot under `depth` metres of water, by the waves it came in through."""
    if not world.has_patterns:
        return mi.Float(1.0)
    under = active & (clear.light > 0) & clear.fresh
    level = dr.sqrt(1 - dr.square(sky.sun.y)) / INDEX
    aside = depth / dr.sqrt(1 - dr.square(level)) / INDEX
    x, z = spot.position.x + sky.sun.x * aside, spot.position.z + sky.sun.z * aside
    found = _pattern(world, clear.pattern, BENT * depth, BENT_LEVERS, 0, x, z, under)
    return dr.select(under, dr.maximum(0, 1 + clear.light * (found - 1)), 1.0)


def mirrored_sun(world: World, sky: Sky, spot: Spot, word: Any, active: Any) -> tuple[Any, Any]:
    """Direction and light of the sun as water near by mirrors it onto a spot; none where it does not."""
    toward = mi.Vector3f(sky.sun.x, -sky.sun.y, sky.sun.z)
    asks = active & (dr.dot(spot.normal, toward) > 0) & ~spot.clear
    down: Hit = first_solid(world, spot.leave(toward), toward, word, asks)
    met = asks & (down.distance < _REACH)
    corner = dr.gather(mi.Vector4u, world.faces, down.face, met)
    look = surface_row(world, corner.w, ("flags", "light", "pattern"), met)
    met &= ((look["flags"] & WATER) != 0) & (look["light"] > 0)
    at = spot.position + toward * down.distance
    up = first_solid(world, at + mi.Vector3f(0, 1e-3, 0), sky.sun, word ^ 0x3C6EF372, met, to_sun=True)
    met &= up.distance == dr.inf
    found = _pattern(
        world, look["pattern"], MIRRORED * down.distance, MIRRORED_LEVERS, len(BENT_LEVERS), at.x, at.z, met
    )
    share = water_mirrors(sky.sun.y)
    return toward, dr.select(met, sky.sun_light * share * dr.maximum(0, 1 + look["light"] * (found - 1)), 0.0)
