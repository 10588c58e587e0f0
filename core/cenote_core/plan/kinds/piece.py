"""A piece: one placed object. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...base.fields import Item, ItemId, Point3, quantity
from ..response import Response


class PiecePlan(Response, Item):
    """One placed object from the kit."""

    kind: Literal["piece"] = "piece"
    asset: ItemId = Field(description="Which kit asset this is.")
    position: Point3 = Field(default=(0.0, 0.0, 0.0), description="Where its origin stands, metres.")
    turn: float = quantity(0.0, -3600.0, 3600.0, "°", "Rotation about the upright axis.", 1, slider=(-180, 180, 1))
    tilt: float = quantity(0.0, -180.0, 180.0, "°", "Leaning forward about its own side axis.", 1, slider=(-90, 90, 1))
    roll: float = quantity(
        0.0, -180.0, 180.0, "°", "Leaning sideways about its own front axis.", 1, slider=(-90, 90, 1)
    )
    size: float = quantity(
        1.0, 0.001, 1000.0, "×", "Enlargement against the asset's own size.", 0.05, slider=(0.1, 5, 1.8)
    )
    ground_at: float | None = Field(
        default=None,
        ge=-10_000,
        le=10_000,
        description="Height of the ground when it was set down; it rises and falls with the ground from there. "
        "Nothing: it stays at its height.",
    )
    foot: ItemId = Field(default="soil", description="What gathers along its foot, where it stands or leans on others.")
    foot_width: float = quantity(
        0.07, 0.0, 1.0, "m", "How far up that reaches; 0 for a clean foot.", 0.01, "gathered at its foot", (0, 0.3, 1.5)
    )
    group: str = Field(default="", max_length=80, description="Pieces of one group are listed together.")
    materials: dict[str, ItemId] = Field(
        default_factory=dict, description="Materials chosen for single slots instead of the asset's own."
    )
