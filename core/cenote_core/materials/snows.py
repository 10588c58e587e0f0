"""Snow. Each takes a size and a seed."""

from __future__ import annotations

import numpy as np

from .material import Material, material
from .tile import colour, mix, ramp, smooth, spectral

_GLINTS = 0.985
"""Of crystals that lie by chance, so many do not throw the sun back like a mirror."""


def fresh_snow(size: int, seed: int) -> Material:
    """Fresh snow: fine grains in soft clumps, faintly blue in its hollows, here and there a crystal that glints. 1.2 m."""
    rng = np.random.Generator(np.random.Philox(seed + 40))
    soft = spectral(size, 0.16, 1.5, seed)
    clumps = spectral(size, 0.03, 0.9, seed + 1)
    grain = spectral(size, 0.004, 0.1, seed + 2)
    crystal = rng.random((size, size)).astype(np.float32)
    glint = smooth(_GLINTS, 1.0, crystal)
    height = 0.5 + 0.42 * (soft - 0.5) + 0.30 * (clumps - 0.5) + 0.16 * (grain - 0.5)
    base = ramp(height, (0.2, "#dbe4ec"), (0.5, "#eaeff2"), (0.8, "#f3f4f3"))
    base = mix(base, colour("#f9faf8"), 0.5 * glint)
    rough = 0.74 + 0.16 * (clumps - 0.5) - 0.46 * glint
    return material(base, rough, np.clip(height, 0, 1), 1.2, 0.007)
