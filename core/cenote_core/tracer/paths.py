"""Paths from the eye: what light each sample of a pixel carries.

At every surface one source, the sun or a lamp, is asked for by a shadow ray (see `lights.py`), the sky by where paths go
on to (which needs no second kind of sampling as long as no source is in its picture). Paths end by roulette from the second bounce on.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..mesh.jit import dr, mi
from .dielectrics import GLINT_COSINE, MOST, Clear, on_its_way, onward_through, paled, passed
from .hits import Spot, first_solid, spot_at
from .lights import ask
from .numbers import hashed, spread_pair, unit
from .reflection import density, lobes_of, sample, value
from .scatter import scattered
from .water import mirrored_sun, muddied, on_floor
from .world import Sky, World, opaque_vector, sky_light

LIGHT = ("sun", "sky", "lamp", "sun_indirect", "sky_indirect", "lamp_indirect")
"""Kinds of light kept apart: straight from the source to what is seen, or by way of other surfaces."""
_DIMENSIONS = 8
"""Pairs of numbers a path may draw at one surface."""


@dataclass(frozen=True)
class View:
    """A camera: rays start at `eye` toward `forward` + x · `right` + y · `up` with x, y from −1 to 1 across the picture
    of `size` pixels."""

    eye: Any
    forward: Any
    right: Any
    up: Any
    size: tuple[Any, Any]


def view_of(eye: np.ndarray, forward: np.ndarray, right: np.ndarray, up: np.ndarray, size: tuple[int, int]) -> View:
    """Upload a camera; `right` and `up` reach from the middle of the picture to its rim at distance 1."""
    parts = [opaque_vector(np.asarray(v, float)) for v in (eye, forward, right, up)]
    return View(parts[0], parts[1], parts[2], parts[3], (dr.opaque(mi.UInt32, size[0]), dr.opaque(mi.UInt32, size[1])))


def _direction(view: View, pixel: Any, jitter: tuple[Any, Any]) -> Any:
    """Through a place in a pixel (box filter)."""
    width, height = view.size
    x = (mi.Float(pixel % width) + jitter[0]) / mi.Float(width) * 2 - 1
    y = 1 - (mi.Float(pixel // width) + jitter[1]) / mi.Float(height) * 2
    return dr.normalize(view.forward + view.right * x + view.up * y)


def trace(
    world: World, sky: Sky, view: View, pixel: np.ndarray, number: np.ndarray, bounces: int, split: bool = False
) -> dict[str, np.ndarray]:
    """One sample for each entry of `pixel`.

    Parameters
    ----------
    pixel, number : (N,) uint32
        Which pixel, and which of its samples; light hangs on nothing else.
    bounces : surfaces a path may be turned round by, the one that is seen included
    split : are kinds of light kept apart?

    Returns
    -------
    dict of float32: `light` (N, 3), or one for each of `LIGHT`; of the first solid surface `colour` (N, 3),
    `normal` (N, 3), `depth` (N,) metres (0 for the sky), `cover` (N,) 1 where something was met; `sky_seen` (N, 3)
    """
    pixels, numbers = mi.UInt32(pixel), mi.UInt32(number)
    seed = hashed(pixels ^ hashed(mi.UInt32(0x5EED)))
    direction = _direction(view, pixels, spread_pair(numbers, seed))
    out = _follow(world, sky, view.eye, direction, seed, numbers, dr.opaque(mi.UInt32, bounces), split)
    return _as_arrays(out)


def see(world: World, sky: Sky, view: View, pixel: np.ndarray, number: np.ndarray) -> dict[str, np.ndarray]:
    """What is seen alone, as `trace` gives it without `light`; pictures are read with all their texels, so that few
    samples suffice."""
    pixels, numbers = mi.UInt32(pixel), mi.UInt32(number)
    seed = hashed(pixels ^ hashed(mi.UInt32(0xF1A7)))
    direction = _direction(view, pixels, spread_pair(numbers, seed))
    own = hashed(seed ^ hashed(numbers))
    # What guides the denoising is what lies under water: a mirror in every tenth sample would tell it nothing.
    hit = first_solid(world, mi.Point3f(view.eye), direction, own, mi.Bool(True), through_water=True)
    met = hit.distance < dr.inf
    spot = spot_at(world, hit, direction, None, unit(hashed(own + 3)), met)
    return _as_arrays(_seen(spot, hit.distance, met) | {"sky_seen": dr.select(met, 0.0, sky_light(sky, direction))})


def _as_arrays(out: dict[str, Any]) -> dict[str, np.ndarray]:
    dr.eval(*out.values())
    found = {name: np.array(values) for name, values in out.items()}
    return {name: values if values.ndim == 1 else np.ascontiguousarray(values.T) for name, values in found.items()}


def _seen(spot: Spot, distance: Any, met: Any) -> dict[str, Any]:
    return {
        "colour": dr.select(met, spot.colour, 0.0),
        "normal": dr.select(met, spot.normal, 0.0),
        "depth": dr.select(met, distance, 0.0),
        "cover": dr.select(met, mi.Float(1.0), 0.0),
    }


def _follow(
    world: World, sky: Sky, eye: Any, direction: Any, seed: Any, numbers: Any, bounces: Any, split: bool
) -> dict[str, Any]:
    """Follow paths from the eye to their ends; everything a sample is asked for."""
    names = LIGHT if split else ("light",)
    light = {name: mi.Color3f(0.0) for name in names}
    seen: dict[str, Any] = {
        "colour": mi.Color3f(0.0), "normal": mi.Vector3f(0.0), "depth": mi.Float(0.0), "cover": mi.Float(0.0),
        "sky_seen": mi.Color3f(0.0),
    }  # fmt: skip

    def going(depth: Any, on: Any, *rest: Any) -> Any:
        return on

    def step(
        depth: Any, on: Any, origin: Any, direction: Any, through: Any, clear: Clear, light: dict[str, Any],
        seen: dict[str, Any],
    ) -> tuple[Any, ...]:  # fmt: skip
        here = hashed(seed + depth * _DIMENSIONS + 1)
        own = hashed(here ^ hashed(numbers))
        at_eye = depth == 0
        hit = first_solid(world, origin, direction, own, on)
        met = on & (hit.distance < dr.inf)
        beyond = dr.select(on & ~met, sky_light(sky, direction), 0.0)
        turned = depth - clear.passed
        # What ends in the sky was under no water.
        light = _add(light, dr.select(at_eye, 0.0, through * beyond), turned > 1, "sky")
        glint = on & ~met & clear.straight & (clear.passed > 0) & (dr.dot(direction, sky.sun) > GLINT_COSINE)
        light = _add(light, dr.select(glint, through * _seen_sun(sky), 0.0), turned > 0, "sun")
        # The last cast of a path asks for the sky and nothing else.
        met &= turned < bounces
        spot = spot_at(
            world, hit, direction, (unit(hashed(own + 1)), unit(hashed(own + 2))), unit(hashed(own + 3)), met
        )
        spot, way = muddied(spot, origin, direction, hit.distance, clear, unit(hashed(own + 8)), met)
        through = through * paled(clear.medium, dr.select(met, way, 0.0))
        now = _seen(spot, way, met) | {"sky_seen": beyond}
        seen = {name: dr.select(at_eye, now[name], value) for name, value in seen.items()}
        spot, left = scattered(world, spot, *spread_pair(numbers, here + 2), own ^ 0x51ED270B, met)
        through *= left
        frame = mi.Frame3f(spot.normal)
        eye = frame.to_local(-direction)
        eye.z = dr.maximum(eye.z, 1e-4)
        lobes = lobes_of(spot)
        asked = ask(sky.lights, spot.position, spot.normal, unit(hashed(own + 9)), spread_pair(numbers, here + 4), met)
        reach = value(lobes, eye, frame.to_local(asked.direction)) * asked.light
        # What lies in water is lit through about as much of it as it is seen through.
        under = way * dr.abs(direction.y)
        reach *= paled(clear.medium, under / dr.maximum(asked.direction.y, 0.1))
        reach *= dr.select(asked.sun, on_floor(world, sky, spot, clear, under, met & asked.sun), 1.0)
        lit = met & (mi.luminance(reach) > 0) & ~(spot.clear & spot.within)
        shadow = first_solid(world, spot.leave(asked.direction), asked.direction, own ^ 0x9E3779B9, lit, to_sun=True)
        reach = dr.select(lit & (shadow.distance >= asked.reach), reach, 0.0)
        light = _add(light, dr.select(asked.sun, 0.0, through * reach), turned > 0, "lamp")
        reach = dr.select(asked.sun, reach, 0.0)
        if world.has_patterns:
            aside, sent = mirrored_sun(world, sky, spot, own ^ 0x2545F491, met & (turned == 0) & ~clear.fresh)
            reach += value(lobes, eye, frame.to_local(aside)) * sent
        light = _add(light, through * reach, turned > 0, "sun")
        out = sample(lobes, eye, unit(hashed(own + 5)), spread_pair(numbers, here + 6))
        chance = density(lobes, eye, out)
        solid = dr.select(chance > 1e-9, value(lobes, eye, out) / chance, 0.0)
        bent, crosses = onward_through(spot, direction, unit(hashed(own + 5)))
        through = dr.select(met, through * dr.select(spot.clear, mi.Color3f(1.0), solid), 0.0)
        keep = dr.select(turned >= 1, dr.minimum(dr.max(through), 0.95), 1.0)
        goes_on = met & (unit(hashed(own + 7)) < keep) & (dr.max(through) > 0) & (clear.passed < MOST)
        onward = dr.select(spot.clear, bent, frame.to_world(out))
        clear = passed(clear, spot, crosses & met)
        return depth + 1, goes_on, spot.leave(onward), onward, through / dr.maximum(keep, 1e-6), clear, light, seen

    none = on_its_way()
    start = (mi.UInt32(0), mi.Bool(True), mi.Point3f(eye), direction, mi.Color3f(1.0), none, light, seen)
    _, _, _, _, _, _, light, seen = dr.while_loop(start, going, step, label="paths")
    return light | seen


def _seen_sun(sky: Sky) -> Any:
    """Radiance of the sun as a disc as wide as it counts for."""
    return sky.sun_light / (2 * dr.pi * (1 - GLINT_COSINE))


def _add(light: dict[str, Any], more: Any, indirect: Any, source: str) -> dict[str, Any]:
    if "light" in light:
        return {"light": light["light"] + more}
    kinds = ((source, ~indirect), (f"{source}_indirect", indirect))
    return light | {name: light[name] + dr.select(chosen, more, 0.0) for name, chosen in kinds}
