"""How fine rough and good proofs are."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Detail:
    """How fine a proof is.

    Attributes
    ----------
    bounces : surfaces a path may be turned round by, the one that is seen included
    lod_scale : plants have their levels of detail this much nearer or farther than in the kit
    features : rays a pixel for surface colour, normal and depth where light is traced at half size
    half_light : is light traced at half size and lifted by the features?
    first, most : samples a pixel that all have, and that the noisiest may have
    noise : standard error of the tone-mapped picture, 0..1, at which a pixel is good enough
    relief_edge : pixels an edge is long where relief is geometry
    relief_reach : metres from the eye within which it is
    relief_most : triangles that may take
    standing_most : shoots and flakes of patinas at most
    page_side : texels along a side of covers of what is looked at within that reach
    """

    bounces: int
    lod_scale: float
    features: int
    half_light: bool
    first: int
    most: int
    noise: float
    relief_edge: float
    relief_reach: float
    relief_most: int
    standing_most: int
    page_side: int


ROUGH = Detail(
    bounces=2, lod_scale=0.15, features=2, half_light=True, first=4, most=4, noise=0.0,
    relief_edge=4.0, relief_reach=5.0, relief_most=400_000, standing_most=12_000, page_side=512,
)  # fmt: skip
GOOD = Detail(
    bounces=4, lod_scale=0.9, features=0, half_light=False, first=8, most=48, noise=0.04,
    relief_edge=3.0, relief_reach=6.0, relief_most=1_400_000, standing_most=60_000, page_side=1024,
)  # fmt: skip
