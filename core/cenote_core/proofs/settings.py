"""What can be asked of a proof."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..plan.fields import ItemId, PlanModel


class ProofSettings(PlanModel):
    """A still from a station."""

    station: ItemId = Field(description="Which station it is seen from.")
    quality: Literal["rough", "good"] = Field(default="rough", description="Rough takes seconds, good minutes.")
    width: int = Field(default=1280, ge=64, le=8192, description="Width of the picture, pixels.")
    height: int = Field(default=800, ge=64, le=8192, description="Height of the picture, pixels.")
