"""Light traced at half size, lifted to full size by the guides.

Light changes slowly over a surface; what is fine in a picture is the surface's own colour and its edges, and those
the guides know at full size at a small part of the cost. So a rough proof traces a quarter of the pixels, takes the
surface colour out of them, spreads what is left over the pixels whose normal and depth are alike (joint bilateral
upsampling after Kopf et al., *Joint Bilateral Upsampling*, 2007) and puts the full surface colour back.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import parallel_kernel, prange

DARK = 0.01
"""Added to the surface colour where it is taken out, so that black surfaces do not blow up what noise is left."""


def half_sized(plane: np.ndarray) -> np.ndarray:
    """(H, W, …) float32 → (H/2, W/2, …): means of two by two pixels; an odd last row or column stands twice."""
    pad = [(0, plane.shape[0] % 2), (0, plane.shape[1] % 2), *[(0, 0)] * (plane.ndim - 2)]
    even = np.pad(plane, pad, mode="edge")
    return np.asarray((even[::2, ::2] + even[1::2, ::2] + even[::2, 1::2] + even[1::2, 1::2]) / 4, np.float32)


def joint_bilateral_upsample(small: np.ndarray, guides: dict[str, np.ndarray]) -> np.ndarray:
    """Full-size light from half-size light.

    Parameters
    ----------
    small : (H/2, W/2, 3) float32, denoised
    guides : as `tracer.paths.see` gives them, at full size

    Returns
    -------
    (H, W, 3) float32
    """
    half = {name: half_sized(plane) for name, plane in guides.items()}
    # What the sky adds to a pixel is known exactly, so only light from surfaces is spread.
    own = np.maximum(small - half["sky_seen"], 0.0)
    light = own / (half["colour"] + DARK * half["cover"][..., None] + 1e-6)
    out = np.empty_like(guides["colour"])
    _spread(
        np.ascontiguousarray(light, np.float32),
        *(np.ascontiguousarray(half[name]) for name in ("normal", "depth", "cover")),
        *(np.ascontiguousarray(guides[name]) for name in ("normal", "depth", "cover")),
        out,
    )
    return np.asarray(out * (guides["colour"] + DARK * guides["cover"][..., None]) + guides["sky_seen"], np.float32)


@parallel_kernel
def _spread(
    light: np.ndarray, small_normal: np.ndarray, small_depth: np.ndarray, small_cover: np.ndarray,
    normal: np.ndarray, depth: np.ndarray, cover: np.ndarray, out: np.ndarray,
) -> None:  # fmt: skip
    """Each pixel from the small ones about it, those of its own surface counting most."""
    rows, columns = small_depth.shape
    for y in prange(depth.shape[0]):
        for x in range(depth.shape[1]):
            fy, fx = (y + 0.5) / 2 - 0.5, (x + 0.5) / 2 - 0.5
            iy, ix = int(np.floor(fy)), int(np.floor(fx))
            total, r, g, b = 1e-8, 0.0, 0.0, 0.0
            for j in range(-1, 3):
                for i in range(-1, 3):
                    p, q = min(max(iy + j, 0), rows - 1), min(max(ix + i, 0), columns - 1)
                    if small_cover[p, q] <= 0.0:
                        continue
                    near = (iy + j - fy) ** 2 + (ix + i - fx) ** 2
                    # Depths are means over a pixel's rays; what met nothing counts as nothing in them.
                    own, other = depth[y, x] / max(cover[y, x], 1e-3), small_depth[p, q] / small_cover[p, q]
                    apart = (own - other) / (0.04 * own + 0.02)
                    turned = 0.0
                    for k in range(3):
                        turned += (normal[y, x, k] - small_normal[p, q, k]) ** 2
                    weight = small_cover[p, q] * np.exp(-0.9 * near - 0.5 * apart * apart - 4.0 * turned) + 1e-6
                    total += weight
                    r += weight * light[p, q, 0]
                    g += weight * light[p, q, 1]
                    b += weight * light[p, q, 2]
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = r / total, g / total, b / total
