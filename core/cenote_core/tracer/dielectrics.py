"""Bodies of ice, glass and water: light is mirrored at their outside or bent through it, and paled on its way within.

Fresnel's shares and Snell's law choose the one way or the other; what is lost on the way follows Beer and Lambert.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..mesh.jit import dr, mi
from .hits import Spot

MOST = 14
"""Outsides of clear bodies a path may pass or be mirrored by."""
GLINT_COSINE = 0.9990
"""The sun seen through clear bodies counts as a disc of this cosine, with as much light: its own is met too seldom."""


@dataclass
class Clear:
    """A path's way through clear bodies.

    Outsides met, what is lost on a metre here, and has it met nothing else? Of the water it is in how often light meets
    mud on a metre, how strong the light patterns are and which; and did it come in just before?
    """

    passed: Any
    medium: Any
    straight: Any
    murk: Any
    light: Any
    pattern: Any
    fresh: Any


def on_its_way() -> Clear:
    """A path that begins in the open."""
    return Clear(
        mi.UInt32(0), mi.Color3f(0.0), mi.Bool(True), mi.Float(0.0), mi.Float(0.0), mi.UInt32(0), mi.Bool(False)
    )


def passed(clear: Clear, spot: Spot, crosses: Any) -> Clear:
    """A path's way through clear bodies after one more surface."""
    through = spot.clear & crosses
    enters = through & ~spot.within
    leaves = through & spot.within
    here = lambda inside, before: dr.select(enters, inside, dr.select(leaves, type(before)(0), before))  # noqa: E731
    return Clear(
        clear.passed + dr.select(spot.clear, mi.UInt32(1), mi.UInt32(0)),
        here(spot.absorbs, clear.medium),
        # Mirrored at an outside, the sun has been asked for by a shadow ray.
        clear.straight & spot.clear & (crosses | spot.within),
        here(spot.murk, clear.murk),
        here(spot.light, clear.light),
        here(spot.pattern, clear.pattern),
        enters,
    )


def onward_through(spot: Spot, direction: Any, choice: Any) -> tuple[Any, Any]:
    """Where light comes from that leaves a clear body's outside against `direction`, and does it cross the outside?

    `choice` 0..1 decides between mirror and window, each as often as it sends light.
    """
    toward = -direction
    cosine = dr.clip(dr.dot(toward, spot.normal), 1e-4, 1)
    eta = dr.maximum(spot.translucency, 1.0001)
    eta = dr.select(spot.within, dr.rcp(eta), eta)
    mirrored, bent_cosine, _, inverse = mi.fresnel(cosine, eta)
    crosses = choice >= mirrored
    frame = mi.Frame3f(spot.normal)
    local = frame.to_local(toward)
    out = dr.select(crosses, mi.refract(local, bent_cosine, inverse), mi.reflect(local))
    onward = dr.normalize(frame.to_world(out))
    # The shape says which side a way leads to: where the smooth normal says otherwise it goes flat along it.
    side = dr.dot(onward, spot.geometric)
    wrong = dr.select(crosses, side > 0, side < 0)
    flat = dr.normalize(onward - spot.geometric * (side * 1.02))
    return dr.select(wrong, flat, onward), crosses


def paled(medium: Any, distance: Any) -> Any:
    """(3) share of light left after some metres in a medium."""
    return dr.exp(-medium * dr.select(dr.isfinite(distance), distance, 0.0))
