"""A drift: one population of scattered assets."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from ...base.fields import Colour, Item, ItemId, PlanModel, SurfaceRef, quantity, seed_field
from ..response import Response
from ..rules import Rule


class AssetShare(PlanModel):
    """One asset of a mix and how often it is taken."""

    asset: ItemId
    weight: float = quantity(1.0, 0.0, 1000.0, "", "How often this asset is taken, against the others.", 0.1)


class Variety(PlanModel):
    """How the single plants or stones of a drift differ."""

    size_min: float = quantity(
        0.8, 0.01, 100.0, "×", "Smallest size against the asset's own.", 0.05, slider=(0.05, 3, 1)
    )
    size_max: float = quantity(
        1.2, 0.01, 100.0, "×", "Largest size against the asset's own.", 0.05, slider=(0.05, 3, 1)
    )
    size_bias: float = quantity(
        0.0, -1.0, 1.0, "", "Below 0 mostly small, above 0 mostly large.", 0.1, slider=(-1, 1, 1)
    )
    turn: float = quantity(360.0, 0.0, 360.0, "°", "Range of rotation about the upright axis.", 5, slider=(0, 360, 1))
    lean: float = quantity(4.0, 0.0, 90.0, "°", "Largest lean from its own axis.", 1, slider=(0, 60, 1))
    sink_min: float = quantity(0.0, -10.0, 10.0, "m", "Least depth below the surface.", 0.01, slider=(-0.2, 0.5, 1))
    sink_max: float = quantity(0.02, -10.0, 10.0, "m", "Greatest depth below the surface.", 0.01, slider=(-0.2, 0.5, 1))
    follow: float = quantity(0.2, 0.0, 1.0, "", "0 stands upright, 1 follows the surface.", 0.05, slider=(0, 1, 1))
    tint: float = quantity(
        0.12, 0.0, 1.0, "", "Difference in brightness and warmth from one to the next.", 0.02, slider=(0, 1, 1)
    )
    mirrored: float = quantity(
        0.5, 0.0, 1.0, "", "Share that is mirrored left to right; 0 for what bears writing.", 0.05, slider=(0, 1, 1)
    )

    @model_validator(mode="after")
    def _ordered(self) -> Variety:
        if self.size_min > self.size_max:
            raise ValueError("The smallest size must not be above the largest.")
        if self.sink_min > self.sink_max:
            raise ValueError("The least depth must not be above the greatest.")
        return self


class KeepOut(PlanModel):
    """What a drift may not enter, with a clearance."""

    of: ItemId = Field(
        description="A piece, another drift, `pieces` for every piece, `paths` for the floors of paths and ditches, or "
        "`stations` for what the cameras see through."
    )
    clearance: float = quantity(
        0.1,
        0.0,
        100.0,
        "m",
        "Free distance between the plant's own body and it; for stations the half width kept free.",
        0.01,
        slider=(0, 2, 2),
    )
    reach: float = quantity(
        6.0,
        0.1,
        500.0,
        "m",
        "For stations: how far in front of the camera the corridor is kept free.",
        0.5,
        slider=(0.5, 40, 2),
    )


class Border(PlanModel):
    """What changes toward the border of the region."""

    width: float = quantity(
        0.0, 0.0, 100.0, "m", "Over this distance from the border inward; 0: no border.", 0.1, slider=(0, 15, 2)
    )
    size: float = quantity(0.6, 0.05, 3.0, "×", "Size at the border against inside.", 0.05, slider=(0.05, 1.5, 1))
    density: float = quantity(0.4, 0.0, 1.0, "×", "Density at the border against inside.", 0.05, slider=(0, 1, 1))
    ragged: float = quantity(0.5, 0.0, 1.0, "", "How far the border wanders in and out.", 0.05, slider=(0, 1, 1))


class Arrangement(PlanModel):
    """How the places of a drift lie to each other."""

    regularity: float = quantity(
        1.0, 0.0, 1.0, "", "1 keeps the full spacing, 0 lets chance decide.", 0.05, slider=(0, 1, 1)
    )
    even: bool = Field(
        default=False, description="They push each other apart: evener, up to a fifth more of them at the same spacing."
    )
    by_size: bool = Field(default=False, description="Large ones keep more distance than small ones.")
    clump: float = quantity(0.0, 0.0, 100.0, "m", "Width of a clump; 0: no clumps.", 0.1, slider=(0, 15, 2))
    tightness: float = quantity(0.6, 0.0, 1.0, "", "How empty it is between clumps.", 0.05, slider=(0, 1, 1))
    rows: float = quantity(0.0, 0.0, 100.0, "m", "Distance between rows; 0: no rows.", 0.1, slider=(0, 8, 2))
    heading: float = quantity(
        90.0, 0.0, 360.0, "°", "Compass direction the rows run in, 90 is east.", 1, slider=(0, 360, 1)
    )


class Litter(PlanModel):
    """Litter that comes from the crowns that stand above."""

    on: bool = Field(default=False, description="It lies where crowns shed it, instead of everywhere.")
    sources: list[ItemId] = Field(
        default_factory=list, max_length=32, description="The drifts it falls from; none named: all trees."
    )
    carry: float = quantity(
        1.0, 0.0, 5.0, "×", "How far the wind carries it, against a birch leaf.", 0.1, slider=(0, 4, 1)
    )
    gather: float = quantity(
        0.7, 0.0, 1.0, "", "How much gathers at feet of walls, in corners and hollows.", 0.05, slider=(0, 1, 1)
    )


class Match(PlanModel):
    """Fits a drift into the picture when its assets came in too bright or too strong."""

    tint: Colour = Field(default="#ffffff", description="Multiplied with the colour of everything in it.")
    gain: float = quantity(1.0, 0.0, 4.0, "×", "Brightness.", 0.05, slider=(0, 2, 1))


Tier = Literal["canopy", "shrub", "cover", "litter"]


class DriftPlan(Response, Item):
    """One population: a weighted mix of assets, where it may stand, how dense, how varied."""

    kind: Literal["drift"] = "drift"
    tier: Tier = Field(default="cover", description="Size class, from canopy trees to litter.")
    assets: list[AssetShare] = Field(default_factory=list, max_length=32, description="The mix.")
    surfaces: list[SurfaceRef] = Field(default_factory=list, max_length=500, description="What it stands on.")
    density: float = quantity(
        2.0, 0.0, 10_000.0, "per m²", "How many stand on a square metre at most.", 0.1, slider=(0, 40, 2.5)
    )
    spacing: float = quantity(0.3, 0.005, 100.0, "m", "No two stand closer than this.", 0.01, slider=(0.05, 6, 2.5))
    headroom: float = quantity(
        0.5, 0.0, 100.0, "m", "Free height it needs above; nothing stands under less.", 0.1, slider=(0, 10, 2)
    )
    arrangement: Arrangement = Field(default_factory=Arrangement)
    border: Border = Field(default_factory=Border)
    rules: list[Rule] = Field(default_factory=list, max_length=24, description="Where it may stand.")
    size_rules: list[Rule] = Field(
        default_factory=list, max_length=8, description="Where it grows large: full size where they let all through."
    )
    size_least: float = quantity(
        0.4, 0.02, 1.0, "×", "Size where those rules let nothing through.", 0.05, slider=(0.05, 1, 1)
    )
    keep_outs: list[KeepOut] = Field(default_factory=list, max_length=64, description="What it may not enter.")
    litter: Litter = Field(default_factory=Litter)
    variety: Variety = Field(default_factory=Variety)
    match: Match = Field(default_factory=Match)
    seed: int = seed_field()

    @model_validator(mode="after")
    def _has_weight(self) -> DriftPlan:
        if self.assets and not any(share.weight > 0 for share in self.assets):
            raise ValueError("At least one asset of the mix needs a weight above 0.")
        return self
