"""A sky as the plate is sent it: radiance with a shared exponent, and its light as spherical harmonics."""

from __future__ import annotations

import numpy as np

from ..base.kernels import parallel_kernel, prange

_BITS, _BIAS, _MOST = 9, 15, 31
_LARGEST = (2.0**_BITS - 1) / 2.0**_BITS * 2.0 ** (_MOST - _BIAS)


@parallel_kernel
def shared_exponent(image: np.ndarray) -> np.ndarray:
    """Radiance in 32 bits: three mantissas of nine bits, red lowest, and a common exponent of five in the highest bits.

    The format RGB9_E5 of OpenGL ES 3.0 and its rounding (specification, section 3.8.3.2), so that graphics cards read
    it as it is.

    Parameters
    ----------
    image : (H, W, 3) float32, not negative; more than 65 408 is cut off

    Returns
    -------
    (H, W) uint32
    """
    height, width = image.shape[:2]
    out = np.empty((height, width), np.uint32)
    for row in prange(height):
        for col in range(width):
            largest = 0.0
            for c in range(3):
                largest = max(largest, min(max(float(image[row, col, c]), 0.0), _LARGEST))
            exponent = 0
            if largest > 0:
                exponent = max(-_BIAS - 1, int(np.floor(np.log2(largest)))) + 1 + _BIAS
                # The largest mantissa may round up beyond its bits.
                if np.floor(largest / 2.0 ** (exponent - _BIAS - _BITS) + 0.5) == 2**_BITS:
                    exponent += 1
            step = 2.0 ** (exponent - _BIAS - _BITS)
            word = exponent << 27
            for c in range(3):
                value = min(max(float(image[row, col, c]), 0.0), _LARGEST)
                word |= int(np.floor(value / step + 0.5)) << (_BITS * c)
            out[row, col] = word
    return out


def harmonics(image: np.ndarray, directions: np.ndarray) -> np.ndarray:
    """(9, 3): a sky's radiance as the first nine real spherical harmonics (Ramamoorthi and Hanrahan, *An Efficient
    Representation for Irradiance Environment Maps*, 2001), in the order 1, y, z, x, xy, yz, 3z² − 1, xz, x² − y².

    Parameters
    ----------
    image : (H, W, 3) radiance, latitude-longitude
    directions : (H, W, 3) unit vectors of its texels
    """
    x, y, z = directions[..., 0], directions[..., 1], directions[..., 2]
    basis = np.stack(
        [
            np.full_like(x, 0.282095), 0.488603 * y, 0.488603 * z, 0.488603 * x, 1.092548 * x * y, 1.092548 * y * z,
            0.315392 * (3 * z * z - 1), 1.092548 * x * z, 0.546274 * (x * x - y * y),
        ]
    )  # fmt: skip
    area = np.sqrt(np.maximum(1 - y * y, 0.0))
    return np.asarray(np.einsum("khw,hw,hwc->kc", basis, area, image) * (4 * np.pi / area.sum()))
