"""Light in the units of lamps: lumen, candela, lux, and the colour of what glows."""

from __future__ import annotations

import numpy as np

from ..materials.material import LUMINANCE

LUX = 12_000.0
"""Lux of one unit of the sky's own scale: the sun in a clear sky then gives about a hundred thousand."""
COOLEST, HOTTEST = 1667.0, 25_000.0
"""Kelvin between which the locus is given; outside them its ends count."""
_XYZ_TO_LINEAR = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
)
"""IEC 61966-2-1."""


def planckian(kelvin: float) -> tuple[float, float]:
    """Chromaticity x, y (CIE 1931) of a black body; Y.-S. Kang et al., J. Korean Phys. Soc. 41 (2002), 865–871."""
    t = 1000.0 / min(max(kelvin, COOLEST), HOTTEST)
    if t > 0.25:
        x = np.polyval([-0.2661239, -0.2343589, 0.8776956, 0.179910], t)
    else:
        x = np.polyval([-3.0258469, 2.1070379, 0.2226347, 0.240390], t)
    if t > 1000 / 2222:
        y = np.polyval([-1.1063814, -1.34811020, 2.18555832, -0.20219683], x)
    elif t > 0.25:
        y = np.polyval([-0.9549476, -1.37418593, 2.09137015, -0.16748867], x)
    else:
        y = np.polyval([3.0817580, -5.87338670, 3.75112997, -0.37001483], x)
    return float(x), float(y)


def glow(kelvin: float) -> np.ndarray:
    """(3,) linear colour of luminance 1 of what glows at a temperature; what a screen cannot show is cut off."""
    x, y = planckian(kelvin)
    linear = np.maximum(_XYZ_TO_LINEAR @ np.array([x / y, 1.0, (1 - x - y) / y]), 0.0)
    return np.asarray(linear / (linear @ LUMINANCE))
