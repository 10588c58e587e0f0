"""Light inside snow: it goes in at one place and comes out beside it, so that shadows have soft edges and rims glow.

Where it comes out is looked for by a ray down onto the surface beside the place it went in (as in King, Kulla, Conty and
Fajardo, *BSSRDF Importance Sampling*, 2013), at a distance drawn from an exponential fall. What has gone far has lost
red: ice takes it up first (Warren and Brandt 2008), and snow hands light on from grain to grain, a long way for a step.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..mesh.jit import dr, mi
from .hits import Spot, first_solid
from .world import World

SPREAD = 0.011
"""Metres on the mean between where light goes in and comes out."""
_FARTHEST = 6.0
"""Means beyond which none comes out."""
LOST = (2.4, 0.9, 0.25)
"""Share of red, green and blue that is lost on a metre between the two."""


def scattered(world: World, spot: Spot, one: Any, other: Any, word: Any, active: Any) -> tuple[Spot, Any]:
    """The spot where light that meets `spot` comes out, and what of it is left.

    Parameters
    ----------
    one, other : numbers 0..1 that choose how far and which way
    word : decides on holes the ray meets
    """
    inside = active & spot.scatters
    far = dr.minimum(-dr.log(dr.maximum(1 - one, 1e-6)), _FARTHEST) * SPREAD
    s, c = dr.sincos(2 * dr.pi * other)
    frame = mi.Frame3f(spot.geometric)
    beside = spot.position + (frame.s * c + frame.t * s) * far
    down = first_solid(world, beside + spot.geometric * far, -spot.geometric, word, inside)
    found = inside & (down.distance < 2 * far)
    corner = dr.gather(mi.Vector4u, world.faces, down.face, found)
    p = [dr.gather(mi.Point3f, world.positions, k, found) for k in (corner.x, corner.y, corner.z)]
    across = dr.cross(p[1] - p[0], p[2] - p[0])
    flat = dr.mulsign(dr.normalize(across), dr.dot(across, spot.geometric))
    # The grain stays that of the place that is seen; only its shape turns.
    turned = dr.normalize(spot.normal + flat - spot.geometric)
    at = beside + spot.geometric * (far - down.distance)
    left = mi.Color3f(*(dr.exp(-lost * far) for lost in LOST))
    out = replace(
        spot,
        position=dr.select(found, at, spot.position),
        geometric=dr.select(found, flat, spot.geometric),
        normal=dr.select(found, turned, spot.normal),
    )
    return out, dr.select(inside, left, mi.Color3f(1.0))
