"""Beads: droplets at rest on surfaces. Millimetres for sizes, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from ...base.fields import Item, PlanModel, Point3, quantity, seed_field
from ..rules import Rule
from .patina import PatinaUse


class Region(PlanModel):
    """A ball or a box, upright, that droplets stay inside of."""

    shape: Literal["ball", "box"] = "ball"
    centre: Point3 = Field(default=(0.0, 0.0, 0.0), description="Its middle, metres.")
    width: float = quantity(
        0.3, 0.005, 100.0, "m", "Across, east to west; of a ball across it.", 0.01, slider=(0.01, 3, 2)
    )
    height: float = quantity(0.3, 0.005, 100.0, "m", "Height of a box.", 0.01, slider=(0.01, 3, 2))
    depth: float = quantity(0.3, 0.005, 100.0, "m", "Across, north to south, of a box.", 0.01, slider=(0.01, 3, 2))
    soft: float = quantity(
        0.2, 0.0, 1.0, "", "Share of the way to its middle over which they become more.", 0.05, slider=(0, 1, 1)
    )


class BeadsPlan(Item):
    """Droplets that have formed on surfaces and stay where they are."""

    kind: Literal["beads"] = "beads"
    size: float = quantity(
        1.2, 0.05, 8.0, "mm", "Radius of the larger ones, where they touch the surface.", 0.05, slider=(0.1, 6, 2)
    )
    crowded: float = quantity(
        0.35, 0.02, 1.0, "", "How far they have grown together: 0 they stand apart, 1 each has been many.", 0.05,
        slider=(0.02, 1, 1),
    )  # fmt: skip
    between: float = quantity(0.5, 0.0, 1.0, "", "How many small young ones stand in the gaps.", 0.05, slider=(0, 1, 1))
    angle: float = quantity(
        0.0, 0.0, 160.0, "°", "Angle at which the water meets the surface: 30 flat on clean glass, 90 domes on paint, "
        "140 beads on wax; 0: as the material has it.", 1, "contact angle", (0, 150, 1),
    )  # fmt: skip
    uneven: float = quantity(0.5, 0.0, 1.0, "", "How far from round their edges are.", 0.05, slider=(0, 1, 1))
    runs: float = quantity(
        0.0, 0.0, 60.0, "s", "How long those too heavy for their slope have run: they take up what is in their way and "
        "leave a trail.", 0.5, "have run for", (0, 20, 1.5),
    )  # fmt: skip
    speed: float = quantity(25.0, 1.0, 400.0, "mm/s", "How fast they run down a wall.", 1, "running speed", (1, 150, 2))
    pull: float = quantity(
        1.0, 0.0, 4.0, "×", "The earth's pull on them: less on a small moon, none to let the wind alone drive them.", 0.05,
        "gravity", (0, 2, 1),
    )  # fmt: skip
    blown: float = quantity(
        0.0, 0.0, 60.0, "m/s", "Wind over the surface that pushes them, from where the weather's wind comes.", 0.5,
        "wind over them", (0, 40, 1.5),
    )  # fmt: skip
    trail: float = quantity(
        0.0, 0.0, 600.0, "s", "Seconds until their trail has dried; 0: it stays.", 0.5, "trail dries in", (0, 60, 2)
    )
    amount: float = quantity(1.0, 0.0, 1.0, "×", "How many there are of those that may be.", 0.05, slider=(0, 1, 1))
    rules: list[Rule] = Field(default_factory=list, max_length=24, description="Where they gather.")
    uses: list[PatinaUse] = Field(default_factory=list, max_length=200, description="The surfaces they form on.")
    regions: list[Region] = Field(
        default_factory=list, max_length=8, description="Only inside of any of these; none: wherever the rules say."
    )
    pool: float = quantity(
        0.0, 0.0, 500.0, "ml", "Water that has run down and stands round the foot of each thing, on what it stands on.", 1,
        "pool at its foot", (0, 60, 2),
    )  # fmt: skip
    drawn: bool = Field(
        default=False,
        description="Drawn into the surface as relief and gloss, without bodies: for what is not seen closely.",
    )
    seed: int = seed_field()
    order: float = Field(default=0.0, ge=-1e6, le=1e6, description="Order in the list.")

    @model_validator(mode="after")
    def _once_a_surface(self) -> BeadsPlan:
        refs = [use.surface for use in self.uses]
        if len(refs) != len(set(refs)):
            raise ValueError("A surface can carry the same beads only once.")
        return self
