"""What can be asked of a proof."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..base.fields import ItemId, PlanModel

PICTURE, PASSES, GROWING, FILM = "picture.png", "passes.exr", "growing.jpg", "film.npz"
"""Files of a proof: the picture, its layers, what there is to see while it is being made, and its samples, kept so that
a good one can be gone on with."""
Share = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]
LEAST_FRAME = 16
"""Pixels across the narrowest frame that may be asked for."""


class ProofSettings(PlanModel):
    """A still from a station."""

    station: ItemId = Field(description="Which station it is seen from.")
    quality: Literal["rough", "good"] = Field(default="rough", description="Rough takes seconds, good minutes.")
    width: int = Field(default=1280, ge=64, le=8192, description="Width of the picture, pixels.")
    height: int = Field(default=800, ge=64, le=8192, description="Height of the picture, pixels.")
    frame: tuple[Share, Share, Share, Share] | None = Field(
        default=None,
        description="Part of the picture to be made: left, top, right and bottom, 0 to 1. All of it without.",
    )

    @model_validator(mode="after")
    def _frame_has_room(self) -> ProofSettings:
        left, top, right, bottom = self.box()
        if right - left < LEAST_FRAME or bottom - top < LEAST_FRAME:
            raise ValueError(f"The frame is narrower than {LEAST_FRAME} pixels. Draw a larger one.")
        return self

    def box(self, step: int = 1) -> tuple[int, int, int, int]:
        """Left, top, right and bottom of what is made, pixels; left and top whole multiples of `step`."""
        left, top, right, bottom = self.frame or (0.0, 0.0, 1.0, 1.0)
        return (
            int(left * self.width) // step * step, int(top * self.height) // step * step,
            round(right * self.width), round(bottom * self.height),
        )  # fmt: skip
