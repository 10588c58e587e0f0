"""A lamp that shines all around. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...base.fields import Item, Point3, quantity


class LampPlan(Item):
    """A lamp: how much light it gives, of which colour, and how large what shines is."""

    kind: Literal["lamp"] = "lamp"
    position: Point3 = Field(default=(0.0, 2.0, 0.0), description="The middle of what shines, metres.")
    lumens: float = quantity(
        800.0, 0.0, 200_000.0, "lm", "All the light it gives: a candle 12, a bulb 800, a street lamp 8000.", 10,
        "light", (0, 10_000, 3),
    )  # fmt: skip
    temperature: float = quantity(
        2700.0, 1700.0, 12_000.0, "K", "Its colour: candle 1900, bulb 2700, midday 5500, shade 8000.", 50,
        "colour temperature", (1700, 9000, 2),
    )  # fmt: skip
    radius: float = quantity(
        0.04, 0.0, 1.0, "m", "Half the width of what shines: the larger, the softer the shadows.", 0.01, "size",
        (0, 0.5, 2),
    )  # fmt: skip
