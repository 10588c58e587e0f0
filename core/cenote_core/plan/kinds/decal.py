"""A decal: a picture projected onto what it meets. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from ...base.fields import Colour, Coordinate, Item, ItemId, Point3, quantity
from ..response import Response


class DecalPlan(Response, Item):
    """A picture projected through a box onto what it meets."""

    kind: Literal["decal"] = "decal"
    picture: ItemId = Field(default="crack", description="Which decal picture is projected.")
    position: Point3 = Field(default=(0.0, 0.0, 0.0), description="Middle of the picture, metres.")
    facing: tuple[Coordinate, Coordinate, Coordinate] = Field(
        default=(0.0, 0.0, 1.0), description="Direction the picture faces, away from the surface."
    )
    turn: float = quantity(
        0.0, -3600.0, 3600.0, "°", "Rotation of the picture in its own plane.", 1, slider=(-180, 180, 1)
    )
    width: float = quantity(1.0, 0.01, 100.0, "m", "Width of the picture.", 0.05, slider=(0.05, 6, 2))
    height: float = quantity(1.0, 0.01, 100.0, "m", "Height of the picture.", 0.05, slider=(0.05, 6, 2))
    depth: float = quantity(
        0.3, 0.01, 100.0, "m", "How deep the picture reaches, half before and half behind.", 0.05, slider=(0.02, 3, 2)
    )
    angle: float = quantity(
        60.0, 5.0, 89.0, "°", "Surfaces turned away more than this receive nothing.", 1, slider=(5, 89, 1)
    )
    soft: float = quantity(15.0, 0.0, 60.0, "°", "Width of the soft edge before that angle.", 1, slider=(0, 60, 1))
    opacity: float = quantity(1.0, 0.0, 1.0, "×", "How opaque the picture is.", 0.05, slider=(0, 1, 1))
    tint: Colour = Field(default="#ffffff", description="Multiplied with the picture's own colour.")
    receivers: list[str] = Field(
        default_factory=list, max_length=500, description="The pieces (or 'ground') that receive it."
    )
    only: bool = Field(
        default=False, description="Nothing but what is named receives it, and nothing at all where nothing is named."
    )
    order: float = Field(default=0.0, ge=-1e6, le=1e6, description="Stacking order; higher lies on top.")

    def reaches(self, owner: str) -> bool:
        """May the ground or a piece receive it?"""
        return owner in self.receivers or not (self.only or self.receivers)

    @model_validator(mode="after")
    def _has_direction(self) -> DecalPlan:
        if sum(abs(v) for v in self.facing) < 1e-9:
            raise ValueError("The facing direction must not be zero.")
        return self
