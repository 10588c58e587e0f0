"""Light patterns: how the waves of water bundle the light that goes through them, or that they mirror.

Rays from even places on a tile of water land beside where level water would send them, by their slope times a lever:
a quarter of the depth for light that is bent into it, twice the distance for light that is mirrored. Where many land it
is bright. As much light arrives as was sent, so the mean of each pattern is one.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter

from ..base.kernels import kernel
from ..surfaces.water import BENT, BENT_LEVERS, MIRRORED, MIRRORED_LEVERS, TILE
from .waves import Waves, on_tile

SIDE = 256
"""Texels of a pattern along a tile."""
_RAYS = 4
"""Rays along the side of a texel."""
_SUN = 0.0093
"""Width of the sun as a share of the way."""


@kernel
def _landed(slopes: np.ndarray, lever: float, texel: float, side: int) -> np.ndarray:
    """(side, side) light that lands on each texel; each ray spread over the four about it."""
    out = np.zeros((side, side))
    rays = slopes.shape[0]
    for r in range(rays):
        for c in range(rays):
            x = (c + 0.5) * side / rays + lever * slopes[r, c, 0] / texel - 0.5
            z = (r + 0.5) * side / rays + lever * slopes[r, c, 1] / texel - 0.5
            left, top = int(np.floor(x)), int(np.floor(z))
            fx, fz = x - left, z - top
            a, b, d, e = top % side, (top + 1) % side, left % side, (left + 1) % side
            out[a, d] += (1 - fz) * (1 - fx)
            out[a, e] += (1 - fz) * fx
            out[b, d] += fz * (1 - fx)
            out[b, e] += fz * fx
    return out * (side / rays) ** 2


def pattern(waves: Waves, time: float, lever: float, side: int = SIDE) -> np.ndarray:
    """(side, side) float32 light on a tile against that under level water, rows along z; its mean is one.

    Light that is bent lands toward the crests, light that is mirrored away from them: its lever is negative.
    """
    found = _landed(on_tile(waves, side * _RAYS, time), lever, TILE / side, side)
    # The sun is no point: the farther light goes the softer it draws.
    soft = 0.5 * _SUN * abs(lever) / (BENT if lever > 0 else MIRRORED) / (TILE / side)
    return np.asarray(gaussian_filter(found, max(soft, 0.4), mode="wrap"), np.float32)


def patterns(waves: Waves, time: float) -> np.ndarray:
    """(9, SIDE, SIDE) float32: one pattern for each of `BENT_LEVERS`, then one for each of `MIRRORED_LEVERS`."""
    levers = [*BENT_LEVERS, *(-lever for lever in MIRRORED_LEVERS)]
    return np.stack([pattern(waves, time, lever) for lever in levers])
