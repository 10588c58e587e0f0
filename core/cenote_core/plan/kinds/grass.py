"""A grass of one's own: how its blades grow and look."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...base.fields import Colour, Item, quantity, seed_field


class GrassPlan(Item):
    """A grass shaped by the artist; it stands in the kit of its site as a few different tufts."""

    kind: Literal["grass"] = "grass"
    length: float = quantity(
        0.42, 0.02, 3.0, "m", "Length of the longest leaves, measured along the blade.", 0.01, slider=(0.02, 1.6, 1.6)
    )
    blades: int = Field(
        default=44,
        ge=3,
        le=240,
        description="Blades in one tuft. More make it denser and costlier to draw.",
        json_schema_extra={"slider": [3, 160, 1.5], "unit": "", "step": 1},
    )
    foot: float = quantity(
        0.17, 0.01, 2.0, "m", "Width of the patch the blades of one tuft rise from.", 0.01, slider=(0.01, 0.8, 1.6)
    )
    root_width: float = quantity(6.0, 0.3, 60.0, "mm", "Width of a blade at its foot.", 0.1, slider=(0.3, 25, 2))
    tip_width: float = quantity(0.7, 0.0, 60.0, "mm", "Width of a blade at its tip.", 0.1, slider=(0, 12, 2))
    bend: float = quantity(
        65.0,
        0.0,
        180.0,
        "°",
        "How far tips lean from the upright on average: 90 lies level, 180 hangs straight down.",
        1,
        slider=(0, 180, 1),
    )
    curl: float = quantity(
        35.0, 0.0, 360.0, "°", "How far a blade may turn about itself on its way up.", 1, slider=(0, 360, 1.6)
    )
    clump: float = quantity(
        0.0,
        0.0,
        1.0,
        "",
        "0 every blade leans its own way, 1 all blades of a tuft lean one way.",
        0.05,
        slider=(0, 1, 1),
    )
    stiffness: float = quantity(
        0.3, 0.0, 1.0, "", "0 lies down in the wind, 1 hardly moves in it.", 0.05, slider=(0, 1, 1)
    )
    dry: float = quantity(
        0.25, 0.0, 1.0, "", "Share of leaves that are dead; some of the others get dry tips.", 0.02, slider=(0, 1, 1)
    )
    flower: float = quantity(0.0, 0.0, 1.0, "", "Share of blades that are flowering stems.", 0.02, slider=(0, 1, 1))
    head_width: float = quantity(
        5.0, 0.5, 60.0, "mm", "Width of the head of a flowering stem.", 0.1, slider=(0.5, 30, 2)
    )
    root_colour: Colour = Field(default="#3a3e23", description="Colour of a leaf at its foot, sRGB.")
    tip_colour: Colour = Field(default="#5a6b33", description="Colour of a leaf towards its tip, sRGB.")
    dry_colour: Colour = Field(default="#908356", description="Colour of dead leaves and dry tips, sRGB.")
    head_colour: Colour = Field(default="#7c6e5a", description="Colour of flower heads, sRGB.")
    seed: int = seed_field()
