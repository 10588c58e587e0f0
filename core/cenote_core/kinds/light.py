"""Light: the sky as the plate takes it."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..base.packet import pack
from ..delivery.views import add_sun
from ..graph.derived import derived
from ..light.radiance import harmonics, shared_exponent
from ..light.sky import Sky, make_sky, texel_directions
from ..plan import LightPlan
from ..scene.scene import Scene
from .kind import Kind, Part

SKY = "sky"
"""There is one, and this is its name."""
IMAGE = "sky image"
"""Its picture in a packet; no item can be called that, so that it can go along with what is named by items."""
HARMONICS_EVERY = 4
"""Texels from one to the next that the harmonics of a sky are taken from: they vary slowly."""


Packed = tuple[dict[str, np.ndarray], dict[str, Any]]
"""Arrays and what is said with them, before they are one packet."""


def sky_parts(sky: Sky) -> Packed:
    """The sky as three.js takes it: row 0 at the nadir, columns from −x over north to the east, ready for the card."""
    height, width = sky.image.shape[:2]
    some = slice(HARMONICS_EVERY // 2, None, HARMONICS_EVERY)
    directions, _ = texel_directions(width, height)
    return (
        {IMAGE: shared_exponent(np.ascontiguousarray(np.roll(sky.image[::-1], width // 4, axis=1)))},
        {
            "sun": sky.sun_direction.tolist(),
            "sunColour": sky.sun_colour.tolist(),
            "haze": sky.haze_colour.tolist(),
            "ambient": harmonics(sky.image[some, some], directions[some, some]).tolist(),
        },
    )


def sky_packet(sky: Sky) -> bytes:
    """The same as one packet."""
    return pack(*sky_parts(sky))


@derived(lambda scene: scene.sky.ref(), keep="disk")
def sky_of(scene: Scene) -> bytes:
    """The packet of a site's sky."""
    return sky_packet(scene.sky())


def _version(scene: Scene, name: str) -> str:
    return sky_of.ref(scene).key


KINDS_HERE = (
    Kind(
        plan=LightPlan,
        place=60,
        sections={"sky": str},
        listed=lambda scene, address: {"sky": address("light", SKY, _version(scene, SKY))},
        parts={"light": Part(lambda scene, name: name == SKY, _version, lambda scene, name: sky_of(scene))},
        preview=lambda draft: sky_packet(make_sky(draft.after.site.daylight)),
        hand_over=add_sun,
        trial=lambda scene, key, plan: scene.sky(),
    ),
)
