"""Sources of light as one table: the sun first, then lamps; a place asks one of them, chosen by power, distance and facing.

The choice goes through the table once, keeping one row as often as its weight says (weighted reservoir sampling of one,
M. T. Chao, 1982). What it gives is divided by how often it is chosen, so the mean is that of all sources together, and
a site whose only source is the sun has no choice and no noise from it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..mesh.jit import dr, mi

ROW = 8
_NEAR = 1.0
_BEHIND = 0.1
"""Weight of a source behind a surface, as a share of one before it: light goes through leaves."""
_LEAST_AWAY = 1e-3
_OWN_BODY = 1.05
"""Radii about a lamp within which what is met is the lamp itself."""


@dataclass(frozen=True)
class Lamp:
    """A source that shines all around.

    Attributes
    ----------
    position : (3,) metres
    intensity : (3,) linear; irradiance on what faces it at one metre, in the sky's own scale
    radius : metres of the body that shines
    """

    position: Sequence[float]
    intensity: Sequence[float]
    radius: float


@dataclass(frozen=True)
class Lights:
    """The table, as a kernel reads it: `rows` holds (count · ROW) floats."""

    rows: Any
    count: Any


@dataclass(frozen=True)
class Asked:
    """The source a place asks.

    Attributes
    ----------
    direction : toward a point of it
    light : irradiance on what faces it, over how often it is chosen
    reach : metres within which something keeps it off; infinite for the sun
    sun : is it the sun?
    """

    direction: Any
    light: Any
    reach: Any
    sun: Any


def lights_of(sun: np.ndarray, sun_light: np.ndarray, sun_cosine: float, lamps: Sequence[Lamp]) -> Lights:
    """Upload the table.

    Parameters
    ----------
    sun : (3,) unit vector toward the sun
    sun_light : (3,) irradiance on a surface that faces it
    sun_cosine : of its angular radius
    """
    rows = np.zeros((1 + len(lamps), ROW), np.float32)
    rows[0] = [*sun, 0.0, *sun_light, sun_cosine]
    for row, lamp in zip(rows[1:], lamps, strict=True):
        row[:] = [*lamp.position, _NEAR, *lamp.intensity, lamp.radius]
    return Lights(mi.Float(rows.ravel()), dr.opaque(mi.UInt32, len(rows)))


def ask(lights: Lights, position: Any, normal: Any, choice: Any, place: tuple[Any, Any], active: Any) -> Asked:
    """One source for a place: `choice` (0..1) says which, `place` which point of it."""

    def going(at: Any, *rest: Any) -> Any:
        return active & (at < lights.count)

    def step(at: Any, choice: Any, total: Any, chosen: Any, kept: Any) -> tuple[Any, ...]:
        where, what = _row(lights, at, active)
        weight = _weight(where, what, position, normal)
        total += weight
        share = dr.select(total > 0, weight / total, 0.0)
        takes = choice < share
        # The number that chose is as even as before within the part it fell into.
        choice = dr.select(takes, choice / dr.maximum(share, 1e-12), (choice - share) / dr.maximum(1 - share, 1e-12))
        return at + 1, choice, total, dr.select(takes, at, chosen), dr.select(takes, weight, kept)

    start = (mi.UInt32(0), mi.Float(choice), mi.Float(0.0), mi.UInt32(0), mi.Float(0.0))
    _, _, total, chosen, kept = dr.while_loop(start, going, step, label="lights")
    where, what = _row(lights, chosen, active)
    near = where.w > 0
    toward, away = _toward(where, position)
    frame = mi.Frame3f(toward)
    ring = frame.to_world(_disc(place)) * what.w
    point = mi.Point3f(where.x, where.y, where.z) + ring - position
    distance = dr.maximum(dr.norm(point), _LEAST_AWAY)
    direction = dr.select(near, point / distance, frame.to_world(_cap(place, what.w)))
    often = dr.select(total > 0, kept / total, 1.0)
    spread = dr.select(near, dr.square(dr.maximum(away, what.w)), 1.0) * dr.maximum(often, 1e-12)
    light = mi.Color3f(what.x / spread, what.y / spread, what.z / spread)
    reach = dr.select(near, dr.maximum(distance - _OWN_BODY * what.w - _LEAST_AWAY, 0.0), dr.inf)
    return Asked(direction, dr.select(active & (total > 0), light, 0.0), reach, ~near)


def _row(lights: Lights, at: Any, active: Any) -> tuple[Any, Any]:
    return tuple(dr.gather(mi.Vector4f, lights.rows, at * 2 + half, active) for half in (0, 1))  # type: ignore[return-value]


def _toward(where: Any, position: Any) -> tuple[Any, Any]:
    """Unit vector to the middle of a source, and metres to it; 1 for the sun, whose power is said as it comes in."""
    way = mi.Vector3f(where.x, where.y, where.z) - dr.select(where.w > 0, mi.Vector3f(position), mi.Vector3f(0.0))
    away = dr.maximum(dr.norm(way), _LEAST_AWAY)
    return way / away, away


def _weight(where: Any, what: Any, position: Any, normal: Any) -> Any:
    toward, away = _toward(where, position)
    facing = dr.maximum(dr.dot(toward, normal), 0.0) * (1 - _BEHIND) + _BEHIND
    near = dr.square(dr.maximum(away, what.w))
    return mi.luminance(mi.Color3f(what.x, what.y, what.z)) * facing / dr.select(where.w > 0, near, 1.0)


def _disc(at: tuple[Any, Any]) -> Any:
    """Even over the disc of radius 1 across z."""
    s, c = dr.sincos(2 * dr.pi * at[1])
    radius = dr.sqrt(at[0])
    return mi.Vector3f(radius * c, radius * s, 0.0)


def _cap(at: tuple[Any, Any], cosine: Any) -> Any:
    """Even over the cap about z whose rim has this cosine."""
    z = 1 - at[0] * (1 - cosine)
    s, c = dr.sincos(2 * dr.pi * at[1])
    ring = dr.safe_sqrt(1 - dr.square(z))
    return mi.Vector3f(ring * c, ring * s, z)
