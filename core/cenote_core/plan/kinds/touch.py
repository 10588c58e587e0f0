"""Hand edits: strokes, things set down one by one or along a line, changes to single instances."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...base.fields import Coordinate, Item, ItemId, Name, PlanModel, Point3, quantity, seed_field

Action = Literal["more", "less", "erase", "raise", "lower", "smooth", "flatten", "roughen", "erode", "lay"]


class TouchPlan(Item):
    """One brush stroke, kept as what it was, on what it was made.

    On a drift, a patina, beads or a surface of the ground (`ground.<surface>`): more, less or erase; on beads also lay,
    which sets droplets one by one along it. On the ground itself: raise, lower, smooth, flatten, roughen, erode.
    """

    kind: Literal["touch"] = "touch"
    name: Name = "stroke"
    target: ItemId = Field(description="The drift, patina or ground that was touched.")
    action: Action = Field(default="more", description="What the stroke does.")
    owner: ItemId = Field(default="ground", description="The ground or the piece the stroke lies on.")
    points: list[Point3] = Field(
        min_length=1, max_length=4000, description="The stroke, in its owner's own coordinates, metres."
    )
    radius: float = quantity(1.0, 0.01, 100.0, "m", "Radius of the brush.", 0.05, slider=(0.05, 12, 2))
    strength: float = quantity(1.0, 0.0, 1.0, "×", "How much the stroke changes in its middle.", 0.05, slider=(0, 1, 1))
    falloff: float = quantity(0.5, 0.0, 1.0, "", "0 hard edge, 1 soft from the middle on.", 0.05, slider=(0, 1, 1))
    amount: float = quantity(
        0.3, 0.0, 50.0, "m", "How far a stroke at full strength raises, lowers or roughens.", 0.05, slider=(0, 3, 2)
    )
    level: float = quantity(0.0, -1000.0, 1000.0, "m", "The height a flattening stroke brings the ground to.", 0.05)
    order: float = Field(default=0.0, ge=0, le=1e12)


class PlacedThing(PlanModel):
    """One thing set down by hand."""

    asset: ItemId
    point: Point3 = Field(description="Where it stands, in its owner's own coordinates, metres.")
    turn: float = quantity(0.0, -3600.0, 3600.0, "°", "Rotation about its own axis.", 1)
    size: float = quantity(1.0, 0.001, 1000.0, "×", "Enlargement against the asset's own size.", 0.05)


class PlacedPlan(Item):
    """Things of a drift set down one by one. They stand whatever the rules say, and follow the ground."""

    kind: Literal["placed"] = "placed"
    name: Name = "set down by hand"
    target: ItemId = Field(description="The drift they belong to.")
    owner: ItemId = Field(default="ground", description="The ground or the piece they stand on.")
    things: list[PlacedThing] = Field(min_length=1, max_length=2000)
    order: float = Field(default=0.0, ge=0, le=1e12)


class LinePlan(Item):
    """Things of a drift set along a drawn line."""

    kind: Literal["line"] = "line"
    name: Name = "along a line"
    target: ItemId = Field(description="The drift they belong to.")
    points: list[Point3] = Field(min_length=2, max_length=500, description="The line on the ground, metres.")
    closed: bool = Field(default=False, description="The last point is joined to the first.")
    spacing: float = quantity(1.0, 0.02, 100.0, "m", "Distance from one to the next.", 0.05, slider=(0.05, 10, 2))
    count: int = Field(default=0, ge=0, le=20_000, description="A number to set evenly instead; 0: by spacing.")
    offset: float = quantity(
        0.0, -100.0, 100.0, "m", "How far to the right of the line they stand.", 0.05, slider=(-5, 5, 1)
    )
    both_sides: bool = Field(default=False, description="On both sides of the line, at the offset.")
    jitter: float = quantity(
        0.1, 0.0, 1.0, "", "How far each strays from its place, as a share of the spacing.", 0.05, slider=(0, 1, 1)
    )
    face_along: bool = Field(default=False, description="They face along the line instead of any way.")
    seed: int = seed_field()
    order: float = Field(default=0.0, ge=0, le=1e12)


Identity = Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]


class EditPlan(Item):
    """A change to single instances of a drift, kept against their identities."""

    kind: Literal["edit"] = "edit"
    name: Name = "single changes"
    target: ItemId = Field(description="The drift they belong to.")
    identities: list[Identity] = Field(min_length=1, max_length=20_000, description="Which instances.")
    places: list[Point3] = Field(
        default_factory=list,
        max_length=20_000,
        description="Where each stood when it was changed, so that it is found again; in the same order.",
    )
    action: Literal["change", "remove", "pin"] = Field(
        default="change", description="Move, turn or resize them; take them away; or keep them whatever the rules say."
    )
    move: tuple[Coordinate, Coordinate, Coordinate] = Field(default=(0.0, 0.0, 0.0), description="Moved by, metres.")
    turn: float = quantity(0.0, -3600.0, 3600.0, "°", "Turned further by this.", 1)
    size: float = quantity(1.0, 0.01, 100.0, "×", "Enlarged by this factor.", 0.05)
    asset: ItemId | None = Field(default=None, description="Replaced by this asset of the drift's mix.")
    order: float = Field(default=0.0, ge=0, le=1e12)
