"""A station: a saved camera. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...base.fields import Item, Point3, quantity


class StationPlan(Item):
    """A saved camera."""

    kind: Literal["station"] = "station"
    position: Point3 = Field(default=(8.0, 1.7, 8.0), description="Where the eye is, metres.")
    target: Point3 = Field(default=(0.0, 1.0, 0.0), description="What it looks at, metres.")
    lens: float = quantity(35.0, 8.0, 400.0, "mm", "Focal length for a 36 mm wide picture.", 1, slider=(12, 135, 2))
    order: float = Field(default=0.0, ge=-1e6, le=1e6)
