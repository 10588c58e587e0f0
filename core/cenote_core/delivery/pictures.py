"""Materials of the kit as files know them, and pictures as files."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from PIL import Image

from ..materials.material import Material
from .listing import Finish

JPEG, PNG = "JPEG", "PNG"
_QUALITY, _COMPRESSION = 92, 3
"""Of JPEG, and how long PNG looks for what repeats: more takes several times as long for a few per cent."""


def encoded(pixels: np.ndarray, kind: str) -> bytes:
    """A picture, (H, W, 1 to 4) uint8, as the bytes of a file."""
    out = io.BytesIO()
    more: dict[str, Any] = {"quality": _QUALITY} if kind == JPEG else {"compress_level": _COMPRESSION}
    Image.fromarray(np.ascontiguousarray(pixels)).save(out, kind, **more)
    return out.getvalue()


def occlusion_roughness_metal(roughness: np.ndarray, metalness: np.ndarray) -> np.ndarray:
    """(H, W, 3) uint8: nothing occluded, roughness and metalness."""
    return np.dstack([np.full_like(roughness, 255), roughness, metalness])


def plain(name: str, source: Material, blend: bool) -> Finish:
    """A material by its own pictures; with alpha it is cut out, or blended where `blend`."""
    colour = source.colour if source.alpha is None else np.dstack([source.colour, source.alpha])
    metal = np.full_like(source.roughness, int(source.metalness * 255)) if source.metal is None else source.metal
    return Finish(
        name=name,
        colour_map=encoded(colour, JPEG if source.alpha is None else PNG),
        surface_map=encoded(occlusion_roughness_metal(source.roughness, metal), JPEG),
        normal_map=encoded(source.normal, PNG),
        alpha="opaque" if source.alpha is None else ("blend" if blend else "cut"),
        both_sides=True,
    )
