"""From scene light to the screen: exposure and the Khronos PBR Neutral tone mapper, as in the plate."""

from __future__ import annotations

import numpy as np

from ..materials.material import linear_to_srgb


def neutral(linear: np.ndarray) -> np.ndarray:
    """Khronos PBR Neutral tone mapping (Khronos Group, 2024); (…, 3) linear → (…, 3) linear in 0..1."""
    start, desaturation = 0.8 - 0.04, 0.15
    low = linear.min(axis=-1, keepdims=True)
    offset = np.where(low < 0.08, low - 6.25 * low * low, 0.04)
    colour = linear - offset
    peak = colour.max(axis=-1, keepdims=True)
    d = 1.0 - start
    new_peak = 1.0 - d * d / np.maximum(peak + d - start, 1e-6)
    squeezed = colour * new_peak / np.maximum(peak, 1e-9)
    g = 1.0 - 1.0 / (desaturation * (peak - new_peak) + 1.0)
    bright = squeezed * (1 - g) + new_peak * g
    return np.asarray(np.clip(np.where(peak < start, colour, bright), 0, 1))


def to_screen(linear: np.ndarray, exposure: float) -> np.ndarray:
    """(…, 3) radiance → (…, 3) uint8 sRGB. `exposure` in stops."""
    return (linear_to_srgb(neutral(np.maximum(linear, 0) * 2.0**exposure)) * 255 + 0.5).astype(np.uint8)
