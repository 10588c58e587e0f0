"""The ground of a site: a sheet, forms laid over it in order, and the surfaces it is made of."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from ...base.fields import Item, ItemId, Name, PlanModel, Point2, quantity, seed_field
from ...base.names import GROUND
from ..rules import Rule

MOST_POINTS = 2048 * 2048
"""Points of a ground: with rain and snow on them they take some two gigabytes while they are worked out."""


class Terrace(PlanModel):
    """A step of the ground across a straight line: the left side of the line is raised by `height`."""

    form: Literal["terrace"] = "terrace"
    start: Point2 = Field(description="One end of the line at the foot, x and z in metres.")
    end: Point2 = Field(description="The other end of the line, x and z in metres.")
    height: float = quantity(2.0, -50.0, 50.0, "m", "How far the ground is raised beyond the line.", 0.1)
    run: float = quantity(3.0, 0.05, 100.0, "m", "Horizontal length of the slope between foot and top.", 0.1)


class Liquid(PlanModel):
    """What water in a form of the ground is like."""

    murk: float = quantity(
        0.15, 0.0, 1.0, "", "How muddy its water is: 0 clear as from a spring, 1 hides what lies a hand deep.", 0.05, "muddy",
        slider=(0, 1, 1),
    )  # fmt: skip
    patterns: float = quantity(
        1.0, 0.0, 3.0, "×", "Light patterns its waves throw on its floor and on walls near by; 0: none.", 0.05,
        "light patterns", (0, 2, 1),
    )  # fmt: skip
    foam: float = quantity(
        1.0, 0.0, 3.0, "×", "Foam on it: 0 none, 1 as much as speed, wind and drips beat up, more: along its edges too.",
        0.05, "foam", (0, 2, 1),
    )  # fmt: skip


LIQUID: set[str] = {*Liquid.model_fields, "water", "flow"}
"""Settings of a form that say what water is in it; of them the shape of the ground hangs only on whether any runs."""


class Cut(Liquid):
    """A ditch, path or bed pressed into the ground along a line; water may run in it."""

    form: Literal["cut"] = "cut"
    line: list[Point2] = Field(min_length=2, max_length=500, description="The middle of the cut, x and z in metres.")
    width: float = quantity(3.0, 0.1, 100.0, "m", "Width of the floor.", 0.1)
    depth: float = quantity(0.4, -20.0, 20.0, "m", "How far the floor lies below the ground.", 0.05)
    bank: float = quantity(1.0, 0.05, 50.0, "m", "Horizontal width of each bank.", 0.1)
    camber: float = quantity(0.0, -2.0, 2.0, "m", "How far the middle of the floor is raised, so that it drains.", 0.01)
    level: float | None = Field(
        default=None, ge=-1000, le=1000, description="If given, the floor lies at this height instead."
    )
    water: float = quantity(
        0.0, 0.0, 10.0, "m", "Depth of the water that runs in it, from the first point to the last; 0: it is dry.", 0.01,
        "depth of its water", (0, 1, 2),
    )  # fmt: skip
    flow: float = quantity(
        10.0, 0.0, 1e6, "l/s", "Litres that run down it in a second: where it is narrow they run faster.", 1,
        "water running", (0, 200, 2.5),
    )  # fmt: skip


class Mound(PlanModel):
    """A rounded rise, or with a negative height a hollow."""

    form: Literal["mound"] = "mound"
    centre: Point2 = Field(description="Middle of the mound, x and z in metres.")
    radius: float = quantity(8.0, 0.2, 500.0, "m", "Distance from the middle to the foot.", 0.1)
    height: float = quantity(1.0, -100.0, 100.0, "m", "Height of the top above the foot.", 0.1)


class Basin(PlanModel):
    """A basin or crater: a level floor, a raised rim, soft inside and outside."""

    form: Literal["basin"] = "basin"
    centre: Point2 = Field(description="Middle of the floor, x and z in metres.")
    radius: float = quantity(5.0, 0.1, 500.0, "m", "Distance from the middle to the crest of the rim.", 0.1)
    floor: float = quantity(-0.8, -100.0, 100.0, "m", "Height of the floor against the ground around it.", 0.05)
    rim: float = quantity(0.25, -50.0, 50.0, "m", "Height of the crest above the ground around it.", 0.05)
    rim_width: float = quantity(0.6, 0.0, 100.0, "m", "Width of the crest.", 0.05)
    inside: float = quantity(2.0, 0.05, 200.0, "m", "Horizontal length of the slope from crest to floor.", 0.1)
    outside: float = quantity(1.5, 0.05, 200.0, "m", "Horizontal length of the slope from crest to the ground.", 0.1)


class Pad(PlanModel):
    """A place levelled under a piece, its edges blended into the ground."""

    form: Literal["pad"] = "pad"
    piece: ItemId = Field(description="The piece the ground is levelled under.")
    margin: float = quantity(0.5, 0.0, 100.0, "m", "How far the level place reaches beyond the piece.", 0.1)
    blend: float = quantity(2.0, 0.05, 100.0, "m", "Width over which it meets the ground around it.", 0.1)
    drop: float = quantity(0.0, -10.0, 10.0, "m", "How far the pad lies below the foot of the piece.", 0.01)


class Water(Liquid):
    """Still water: everything connected that lies below its level is under it."""

    form: Literal["water"] = "water"
    centre: Point2 = Field(description="A place under the water, x and z in metres.")
    level: float = quantity(0.0, -1000.0, 1000.0, "m", "Height of the water above the site's zero.", 0.02)


GroundForm = Annotated[Terrace | Cut | Mound | Basin | Pad | Water, Field(discriminator="form")]

LayerKey = Annotated[str, Field(min_length=1, max_length=32, pattern=r"^[A-Za-z0-9_-]+$")]


class GroundLayer(PlanModel):
    """One surface of the ground (gravel, path, rock) laid over those before it, where its rules and strokes say."""

    key: LayerKey = Field(description="Its name as a surface, in one word.")
    material: ItemId = Field(default="gravel", description="The tiling material it is made of.")
    amount: float = quantity(1.0, 0.0, 1.0, "×", "How much of it there is.", 0.05, slider=(0, 1, 1))
    blend: float = quantity(
        0.6, 0.0, 1.0, "", "How far relief decides where its edge runs: stones stand out first.", 0.05, slider=(0, 1, 1)
    )
    scale: float = quantity(1.0, 0.05, 20.0, "×", "Enlargement of the material's pattern.", 0.05, slider=(0.2, 4, 1.5))
    rules: list[Rule] = Field(default_factory=list, max_length=24, description="Where it lies.")


class GroundPlan(Item):
    """The ground of a site: a sheet with forms laid over it in order."""

    kind: Literal["ground"] = "ground"
    single: ClassVar[str] = GROUND
    name: Name = "ground"
    width: float = quantity(40.0, 2.0, 2000.0, "m", "Size from west to east.", 1)
    depth: float = quantity(40.0, 2.0, 2000.0, "m", "Size from north to south.", 1)
    cell: float = quantity(0.25, 0.02, 20.0, "m", "Distance between ground points; smaller is finer.", 0.05)
    amount: float = quantity(
        0.6, 0.0, 200.0, "m", "Height of the unevenness from lowest to highest.", 0.05, slider=(0, 6, 1.6)
    )
    feature: float = quantity(14.0, 0.2, 1000.0, "m", "Width of the largest humps.", 0.5, slider=(1, 60, 1.6))
    detail: int = Field(
        default=5,
        ge=1,
        le=9,
        description="How many finer layers of unevenness are added.",
        json_schema_extra={"slider": [1, 9, 1]},
    )
    ridged: float = quantity(0.0, 0.0, 1.0, "", "0 soft humps, 1 sharp ridges.", 0.05, slider=(0, 1, 1))
    seed: int = seed_field()
    image: ItemId | None = Field(default=None, description="A height image the sheet starts from.")
    image_height: float = quantity(
        5.0, 0.0, 2000.0, "m", "Height between black and white of the image.", 0.1, slider=(0, 40, 2)
    )
    image_crop: tuple[float, float, float, float] = Field(
        default=(0.0, 0.0, 1.0, 1.0),
        description="The part of the image that is used: left, top, right, bottom, 0 to 1.",
    )
    image_smooth: float = quantity(
        0.0,
        0.0,
        50.0,
        "m",
        "Steps of an image with few grey levels are smoothed over this distance.",
        0.05,
        slider=(0, 5, 2),
    )
    forms: list[GroundForm] = Field(default_factory=list, max_length=64, description="Forms laid over the ground.")
    material: ItemId = Field(default="turf", description="Material of the ground.")
    layers: list[GroundLayer] = Field(default_factory=list, max_length=4, description="Further surfaces over it.")

    def waters(self) -> list[Water | Cut]:
        """Its still and running water."""
        return [f for f in self.forms if isinstance(f, Water) or (isinstance(f, Cut) and f.water > 0)]

    def paths(self) -> list[Cut]:
        """Its paths and ditches."""
        return [form for form in self.forms if isinstance(form, Cut)]

    @model_validator(mode="after")
    def _sound(self) -> GroundPlan:
        points = (self.width / self.cell + 1) * (self.depth / self.cell + 1)
        if points > MOST_POINTS:
            raise ValueError(
                f"The ground would have {points:,.0f} points; at most {MOST_POINTS:,}. "
                "Make the cell larger or the ground smaller."
            )
        left, top, right, bottom = self.image_crop
        if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
            raise ValueError("The part of the image that is used must lie within it and have some size.")
        keys = [layer.key for layer in self.layers]
        if len(keys) != len(set(keys)) or "ground" in keys:
            raise ValueError("Every surface of the ground needs a name of its own; 'ground' is taken by the lowest.")
        return self
