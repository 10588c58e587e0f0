"""What the weather makes of a material's pictures, for files: their readers know no weather.

In the plate and in proofs the weather is a stage of its own, reckoned where each place is seen. A file has pictures and
nothing else, so what is scattered comes in up to two looks: what looks up, on which snow and dust lie, and all else.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..graph.derived import derived
from ..materials.catalogue import sheds_of
from ..materials.material import Material, linear_to_srgb, srgb_to_linear, to_bytes
from ..materials.seasons import parted
from ..patinas.bake import fall_on
from ..plan import Response
from ..scene.scene import Scene
from ..surfaces import channels
from ..surfaces.formulas import CLUMPS, SLIDES
from ..weather.exposure import reached

LOOKS_UP = 0.5
"""Upward part of a normal from which a face counts as looking up: between what holds no snow and what holds all."""
_LEVEL, _UPRIGHT = 0.9, 0.0
"""Upward parts of normals the two looks are reckoned with."""
_OPEN = 1.0
_HIDDEN = 0.75
"""Share of a leaf that snow hides where leaves bear all they can: clumps, between which it shows."""


@dataclass(frozen=True)
class Look:
    """Where a face is: under the open sky or not, and which way it looks."""

    up: bool
    damp: float = 0.0
    exposure: float = _OPEN


def splits(scene: Scene) -> bool:
    """Does what falls lie on what looks up and not on the rest?"""
    now = scene.site.weather.fallen
    return reached(scene) and (now.snow > 0 or now.dust > 0 or now.frost > 0)


def _needs(scene: Scene, material_id: str, response: Response, look: Look) -> list[Any]:
    answers = response.takes_snow, response.takes_frost, response.soaks
    fallen = scene.site.weather.fallen[:-1]
    return [scene.material_ref(material_id), material_id, answers, fallen, look.up, look.damp, look.exposure]


@derived(_needs)
def weathered(scene: Scene, material_id: str, response: Response, look: Look) -> Material:
    """A material's pictures as the weather leaves them on what answers by `response`."""
    source = scene.material(material_id)
    side = source.size
    out = np.zeros((side * side, channels.WIDTH), np.float32)
    out[:, channels.COLOUR] = srgb_to_linear(source.colour.reshape(-1, 3).astype(np.float32) / 255)
    out[:, channels.ROUGHNESS] = source.roughness.ravel() / np.float32(255)
    slopes = source.normal.reshape(-1, 3).astype(np.float32) / 127.5 - 1
    out[:, channels.SLOPE] = slopes[:, :2] / np.maximum(slopes[:, 2:], 0.05)
    out[:, channels.METALNESS] = source.metalness
    out[:, channels.HEIGHT] = (source.height.ravel() / np.float32(255) - 0.5) * source.depth
    porosity, sheds, bare = scene.answer(response, parted(material_id)[0])
    thin = source.translucency > 0
    if thin and sheds < 1:
        held = _HIDDEN * min(1.0, scene.site.weather.fallen.snow / CLUMPS)
        sheds = 1.0 - held * (1.0 - sheds_of(parted(material_id)[0]))
    out[:, channels.ANSWER] = porosity, sheds, bare
    damp = np.tile(np.array([look.damp, 0.0], np.float32), (len(out), 1))
    exposure = np.full(len(out), look.exposure, np.float32)
    up = np.full(len(out), _LEVEL if look.up else _UPRIGHT, np.float32)
    fall_on(scene.site.weather.fallen, exposure, up, damp, np.full(len(out), source.depth, np.float32), out)
    normal = np.column_stack([out[:, channels.SLOPE], np.ones(len(out), np.float32)])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    return replace(
        source,
        colour=to_bytes(linear_to_srgb(out[:, channels.COLOUR])).reshape(side, side, 3),
        roughness=to_bytes(out[:, channels.ROUGHNESS]).reshape(side, side),
        normal=to_bytes(normal * 0.5 + 0.5).reshape(side, side, 3),
        metalness=float(out[:, channels.METALNESS].mean()),
    )


def looking_up(normals: np.ndarray, both_sides: bool) -> np.ndarray:
    """(F,) bool: faces, by their normals, on which something may lie; leaves have two sides."""
    upward = np.abs(normals[:, 1]) if both_sides else normals[:, 1]
    return np.asarray(upward >= max(LOOKS_UP, SLIDES))
