"""A patina: one weathering shared by many surfaces. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from ...base.fields import Colour, Item, ItemId, PlanModel, SurfaceRef, quantity
from ..response import Response
from ..rules import Rule


class Finish(Response):
    """How a patina looks where it lies, and how it answers to the weather."""

    material: ItemId = Field(default="moss", description="The tiling material the patina is made of.")
    tint: Colour = Field(default="#ffffff", description="Multiplied with the material's own colour.")
    scale: float = quantity(1.0, 0.05, 20.0, "×", "Enlargement of the material's pattern.", 0.05, slider=(0.1, 4, 1.5))
    variation: float = quantity(
        0.25, 0.0, 1.0, "", "How much its brightness drifts from place to place.", 0.05, slider=(0, 1, 1)
    )
    variation_size: float = quantity(
        0.8, 0.02, 50.0, "m", "Width of a lighter or darker patch.", 0.1, slider=(0.05, 5, 2)
    )
    roughness: float = quantity(1.0, 0.0, 2.0, "×", "Against the material's own roughness.", 0.05, slider=(0, 2, 1))
    relief: float = quantity(1.0, 0.0, 4.0, "×", "Strength of its fine relief.", 0.05, slider=(0, 4, 1))
    break_up: float = quantity(
        0.5, 0.0, 1.0, "", "How far the material's own relief decides where the edge runs.", 0.05, slider=(0, 1, 1)
    )
    fill: float = quantity(
        0.0,
        -1.0,
        1.0,
        "",
        "Above 0 it comes to the joints and hollows of what lies beneath first and to what stands out last; below 0 to what stands out first.",
        0.05,
        slider=(-1, 1, 1),
    )
    thickness: float = quantity(
        0.0, 0.0, 200.0, "mm", "How thick it lies where it covers wholly.", 1, slider=(0, 40, 2)
    )
    body: float = quantity(
        1.0, 0.0, 1.0, "×", "How much of it stands up in proofs where it is near: shoots of moss, curled flakes of paint.",
        0.05, slider=(0, 1, 1),
    )  # fmt: skip
    stain: float = quantity(
        0.0,
        0.0,
        1.0,
        "",
        "0 lies on top and hides what is beneath, 1 only darkens it like a stain.",
        0.05,
        slider=(0, 1, 1),
    )
    film: bool = Field(
        default=False,
        description="A clear film or drops: what is under it shows its colour through, but not its roughness.",
    )


class PatinaUse(PlanModel):
    """A surface that carries a patina, and how far it is turned down there."""

    surface: SurfaceRef
    amount: float = quantity(1.0, 0.0, 1.0, "×", "Turned down on this surface alone.", 0.05)
    rules: list[Rule] = Field(
        default_factory=list, max_length=4, description="Where it gathers there, on top of its own."
    )


class PatinaPlan(Item):
    """One weathering shared by many surfaces."""

    kind: Literal["patina"] = "patina"
    finish: Finish = Field(default_factory=Finish)
    amount: float = quantity(1.0, 0.0, 1.0, "×", "How much of it there is, everywhere.", 0.05, slider=(0, 1, 1))
    pace: float = quantity(
        0.0, 0.0, 500.0, "years", "Years until it covers two thirds of where it gathers best; 0: it is as it is, whatever the years.",
        1, "spreads within", (0, 60, 1.5),
    )  # fmt: skip
    ahead: float = quantity(
        0.0, -500.0, 500.0, "years", "Years it has had more than the site, or fewer.", 1, "older than the site by", (-60, 60, 1)
    )  # fmt: skip
    weathering: str = Field(default="", max_length=40, description="The kind of weathering it was begun as.")
    rules: list[Rule] = Field(default_factory=list, max_length=24, description="Where it gathers.")
    uses: list[PatinaUse] = Field(default_factory=list, max_length=500, description="The surfaces it lies on.")
    order: float = Field(default=0.0, ge=-1e6, le=1e6, description="Stacking order; higher lies on top.")

    @model_validator(mode="after")
    def _once_a_surface(self) -> PatinaPlan:
        refs = [use.surface for use in self.uses]
        if len(refs) != len(set(refs)):
            raise ValueError("A surface can carry a patina only once.")
        return self
