"""Leaf colour and how much leaf is left through the year, by species.

The year is counted in half months, 0 the first half of January to 23 the second half of December. A leaf material has
one picture a half month, named `<material>.h<number>`; the plain name is the full leaf of summer.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from .tile import colour

HALF_MONTHS = 24
SUMMER = 13
_SUFFIX = re.compile(r"^(?P<name>.+)\.h(?P<half>\d{1,2})$")


@dataclass(frozen=True)
class Year:
    """A species' year: stages (half month, share of leaf left, leaf colours from old to young)."""

    stages: tuple[tuple[float, float, tuple[str, ...]], ...]

    def at(self, half: float) -> tuple[float, np.ndarray]:
        """Share of leaf left and palette (K, 3) sRGB, between the stages around a half month."""
        places = [s[0] for s in self.stages]
        shares = [s[1] for s in self.stages]
        palettes = np.array([[colour(c) for c in s[2]] for s in self.stages])
        share = float(np.interp(half, places, shares, period=HALF_MONTHS))
        flat = palettes.reshape(len(places), -1)
        mixed = [np.interp(half, places, flat[:, k], period=HALF_MONTHS) for k in range(flat.shape[1])]
        return share, np.array(mixed, np.float32).reshape(palettes.shape[1:])


_SPRING = ("#6f8f3a", "#83a546", "#97b653", "#a9c363")

YEARS: dict[str, Year] = {
    "birch": Year(
        (
            (6.5, 0.0, _SPRING),
            (8.5, 0.9, _SPRING),
            (11, 1.0, ("#46602a", "#557034", "#647f3c", "#748d46")),
            (15.5, 1.0, ("#4c6029", "#5f7233", "#75833a", "#8f9440")),
            (17.5, 0.95, ("#5d7030", "#7c8838", "#a09a40", "#c2a743")),
            (19.5, 0.7, ("#a08a34", "#bb9a36", "#cfaa3a", "#d8b84a")),
            (21, 0.12, ("#8f7430", "#a98536", "#b8923a", "#c29f44")),
            (22, 0.0, ("#7a6030", "#8a6c32", "#9a7836", "#a5833c")),
        )
    ),
    "alder": Year(
        (
            (7, 0.0, _SPRING),
            (9, 0.95, ("#55753a", "#638545", "#72934f", "#82a15a")),
            (12, 1.0, ("#33502a", "#3f5e31", "#4b6b39", "#587843")),
            (18, 1.0, ("#3c5429", "#4a602e", "#586b34", "#66743a")),
            (20.5, 0.6, ("#4c5a2a", "#5c652c", "#6a6a30", "#786c34")),
            (21.5, 0.05, ("#4a4a26", "#564f28", "#60532c", "#6a5830")),
            (22, 0.0, ("#4a4a26", "#564f28", "#60532c", "#6a5830")),
        )
    ),
    "rowan": Year(
        (
            (7, 0.0, _SPRING),
            (9, 1.0, ("#587a3c", "#668945", "#75974f", "#85a55a")),
            (13, 1.0, ("#435d2c", "#506b35", "#5e793e", "#6d8748")),
            (17, 1.0, ("#5a6430", "#737036", "#96703a", "#b06a36")),
            (19, 0.75, ("#8f4a2a", "#a9502c", "#bd5d2e", "#c97432")),
            (20.5, 0.1, ("#7c3a26", "#8f4428", "#9c4f2b", "#a75d30")),
            (21, 0.0, ("#7c3a26", "#8f4428", "#9c4f2b", "#a75d30")),
        )
    ),
    "hazel": Year(
        (
            (5.5, 0.0, _SPRING),
            (8, 1.0, ("#678a3c", "#779a47", "#88a953", "#98b65f")),
            (13, 1.0, ("#48632c", "#557035", "#637e3e", "#728b48")),
            (18, 0.95, ("#66702f", "#837f36", "#a08c3c", "#b69a44")),
            (20.5, 0.5, ("#94803a", "#a68b3c", "#b69640", "#c0a248")),
            (21.8, 0.0, ("#7d6834", "#8c7236", "#9a7c3a", "#a4863e")),
        )
    ),
    "pine": Year(
        (
            (1, 1.0, ("#2e4030", "#384b37", "#42563d", "#4c6144")),
            (10, 1.0, ("#34502f", "#40603a", "#4e7042", "#5f8148")),
            (20, 1.0, ("#2f4630", "#3a5238", "#465d3e", "#526946")),
        )
    ),
    "bramble": Year(
        (
            (2, 0.6, ("#3c4528", "#4b4a2a", "#5e4630", "#6c4432")),
            (9, 1.0, ("#4d6c33", "#5b7b3b", "#698944", "#79974e")),
            (15, 1.0, ("#3d5529", "#4a622e", "#577035", "#6a7438")),
            (19, 0.95, ("#445428", "#57592b", "#6f4e30", "#7d4434")),
            (22, 0.7, ("#40482a", "#50482c", "#63442f", "#704232")),
        )
    ),
    "fern": Year(
        (
            (2, 0.5, ("#5a4028", "#6a4b2d", "#785634", "#85623c")),
            (7.5, 0.8, ("#6b8a3c", "#7b9a46", "#8caa52", "#9eba60")),
            (11, 1.0, ("#45652a", "#537434", "#62833d", "#739249")),
            (16.5, 1.0, ("#4d6428", "#5f7531", "#75843a", "#8f8f46")),
            (19, 0.95, ("#6b6a30", "#857238", "#9a7a3e", "#a88548")),
            (21, 0.8, ("#6a4b2d", "#7a5632", "#8a6238", "#966e42")),
        )
    ),
    "herb": Year(
        (
            (2, 0.45, ("#4c5530", "#585c34", "#656238", "#70683c")),
            (8, 0.9, ("#587a36", "#678a40", "#77994a", "#88a856")),
            (12, 1.0, ("#3f5c2b", "#4c6a34", "#5a783d", "#6a8748")),
            (18, 0.9, ("#4c5f2c", "#5c6c32", "#706f38", "#84743e")),
            (21, 0.6, ("#54562f", "#625b33", "#6e6038", "#78663e")),
        )
    ),
    "ever": Year(
        (
            (1, 1.0, ("#2c4226", "#36502d", "#415d34", "#4d6a3c")),
            (9, 1.0, ("#35532a", "#426332", "#52733b", "#648547")),
            (18, 1.0, ("#2f4727", "#3a552e", "#466236", "#536f3e")),
        )
    ),
}

GRASS_TINT = (
    (2.0, (0.86, 0.78, 0.66)),
    (5.5, (0.95, 0.92, 0.78)),
    (8.5, (0.92, 1.16, 0.86)),
    (12.0, (1.0, 1.0, 1.0)),
    (17.0, (1.1, 1.0, 0.88)),
    (20.0, (1.14, 0.96, 0.78)),
)
"""Factor on the colour of grass blades through the year, linear."""


def leaf_left(species: str, half: float) -> float:
    """Share of its leaf a species has left in a half month; all of it where it sheds none."""
    return YEARS[species].at(half)[0] if species in YEARS else 1.0


def half_month(season: float) -> int:
    """The half month a season (month of the year, 0 the first of January to 12) falls into."""
    return int(np.floor((season % 12.0) * 2.0)) % HALF_MONTHS


def seasonal_name(material: str, half: int) -> str:
    """The name of a leaf material's picture for a half month."""
    return f"{material}.h{half}"


def parted(material: str) -> tuple[str, int]:
    """A material's plain name and its half month (summer where it has none)."""
    found = _SUFFIX.match(material)
    if found is None:
        return material, SUMMER
    return found["name"], int(found["half"]) % HALF_MONTHS


def grass_tint(season: float) -> np.ndarray:
    """(3,) factor on the colour of grass for a month of the year."""
    places = [p for p, _ in GRASS_TINT]
    tints = np.array([t for _, t in GRASS_TINT])
    half = (season % 12.0) * 2.0
    return np.array([np.interp(half, places, tints[:, k], period=HALF_MONTHS) for k in range(3)])
