"""The layers of a proof's EXR. To write another one, add an entry; what it holds comes from the film's features."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Layer:
    """One layer.

    Attributes
    ----------
    name : what it is called in the file; without a name it is the picture itself
    of : which of the proof's planes it holds
    channels : the letters of its channels, in the planes' order
    dtype : half floats hold light and directions, distances need whole ones
    """

    name: str
    of: str
    channels: str
    dtype: type[np.floating] = np.float16

    def planes(self, values: np.ndarray) -> dict[str, np.ndarray]:
        """(H, W) pixels by the dotted names that multi-layer EXRs use."""
        values = values if values.ndim == 3 else values[..., None]
        dotted = (f"{self.name}.{c}" if self.name else c for c in self.channels)
        return {name: np.ascontiguousarray(values[..., k].astype(self.dtype)) for k, name in enumerate(dotted)}


WHOLE, CLEAN, HAZE, FALLING = "whole", "clean", "haze", "falling"
"""The picture; its light without noise, before air; and what the air lays over that, first haze, then drops and flakes."""
LAYERS = (
    Layer("", WHOLE, "RGB"),
    Layer("clean", CLEAN, "RGB"),
    Layer("haze", HAZE, "RGBA"),
    Layer("falling", FALLING, "RGBA"),
    Layer("noisy", "beauty", "RGB"),
    Layer("colour", "colour", "RGB"),
    Layer("normal", "normal", "XYZ"),
    Layer("depth", "depth", "Z", np.float32),
)
