"""What the ground's water looks like: how much light it takes, how muddy it is, and its waves as a picture."""

from __future__ import annotations

import numpy as np

from ..graph.derived import derived
from ..materials.material import Material, to_bytes
from ..scene.scene import Scene
from ..surfaces.water import MIRRORED_LEVERS, TILE
from .bodies import waters
from .light import pattern
from .sheet import waves_of
from .waves import on_tile

_SIDE = 1024
_STEEPEST = 4.0
"""Slopes up to so many times their root mean square are held; steeper ones, one in ten thousand, are cut off."""
_RINGS, _RINGED = "rain_rings", 4.0
"""What rain draws on it, and the rain (mm/h) from which it is drawn in full."""
_LOST, _MUD_LOST = (0.38, 0.10, 0.05), (1.5, 1.9, 3.4)
"""What a metre takes of red, green and blue: clear water, and what mud and peat in it take besides."""
_MURK = 16.0
"""How often light meets mud on a metre of the muddiest water."""


def loses(murk: float) -> tuple[float, float, float]:
    """What a metre of water takes of red, green and blue."""
    red, green, blue = (clear + murk * mud for clear, mud in zip(_LOST, _MUD_LOST, strict=True))
    return red, green, blue


def meets_mud(murk: float) -> float:
    """How often light meets mud on a metre of water."""
    return _MURK * murk * murk


def _ripples_need(scene: Scene, number: int) -> list[object]:
    now, form = scene.site.weather, scene.site.ground.waters()[number]
    rings = scene.kit.material_ref(_RINGS) if now.rain > 0 else None
    return [waves_of(scene, form).__dict__, waters.ref(scene), now.moment, now.rain, rings]


@derived(_ripples_need, keep="not")
def ripples(scene: Scene, number: int) -> tuple[Material, float]:
    """The waves of one of the ground's waters at the moment of the weather, as a picture of a tile, and its relief."""
    now = scene.site.weather
    slopes = on_tile(waves_of(scene, scene.site.ground.waters()[number]), _SIDE, now.moment)
    if now.rain > 0:
        rings = scene.kit.material(_RINGS).normal.astype(np.float64) / 127.5 - 1
        lean = -rings[..., :2] / np.maximum(rings[..., 2:], 0.1) * [1, -1]
        across = np.tile(lean, (2, 2, 1))[:: 2 * lean.shape[0] // _SIDE, :: 2 * lean.shape[0] // _SIDE]
        slopes = slopes + across * min(1.0, now.rain / _RINGED)
    relief = _STEEPEST * float(np.sqrt((slopes**2).mean())) + 1e-6
    normal = np.full((_SIDE, _SIDE, 3), 255, np.uint8)
    normal[..., :2] = to_bytes(0.5 + 0.5 * np.clip(slopes * [-1, 1] / relief, -1, 1))
    plane = np.full((_SIDE, _SIDE), 128, np.uint8)
    return Material(np.full_like(normal, 255), np.full_like(plane, 255), plane, normal, TILE), relief


BRIGHTEST = 8.0
"""Times the light of level water that is held of a pattern; what is brighter is a speck."""


@derived(lambda scene, number: [waves_of(scene, scene.site.ground.waters()[number]).__dict__, waters.ref(scene),
                                scene.site.weather.moment, MIRRORED_LEVERS])  # fmt: skip
def mirrored(scene: Scene, number: int) -> np.ndarray:
    """(levers, SIDE, SIDE) uint8: the light one of the ground's waters mirrors, as proofs have it, over `BRIGHTEST`.

    On a scale of square roots, on which faint light is told apart.
    """
    waves, moment = waves_of(scene, scene.site.ground.waters()[number]), scene.site.weather.moment
    found = np.stack([pattern(waves, moment, -lever) for lever in MIRRORED_LEVERS])
    return to_bytes(np.sqrt(np.clip(found / BRIGHTEST, 0, 1)))
