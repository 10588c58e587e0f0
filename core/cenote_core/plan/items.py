"""What an artist authors on a site: one model an item. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..base.fields import (
    Colour,
    Coordinate,
    Item,
    ItemId,
    Name,
    PlanModel,
    Point3,
    SurfaceRef,
    quantity,
    seed_field,
)
from .drift import DriftPlan
from .grass import GrassPlan
from .ground import GroundPlan
from .rules import Rule
from .touches import EditPlan, LinePlan, PlacedPlan, TouchPlan


class PiecePlan(Item):
    """One placed object from the kit."""

    kind: Literal["piece"] = "piece"
    asset: ItemId = Field(description="Which kit asset this is.")
    position: Point3 = Field(default=(0.0, 0.0, 0.0), description="Where its origin stands, metres.")
    turn: float = quantity(0.0, -3600.0, 3600.0, "°", "Rotation about the upright axis.", 1)
    tilt: float = quantity(0.0, -180.0, 180.0, "°", "Leaning forward about its own side axis.", 1)
    roll: float = quantity(0.0, -180.0, 180.0, "°", "Leaning sideways about its own front axis.", 1)
    size: float = quantity(1.0, 0.001, 1000.0, "×", "Enlargement against the asset's own size.", 0.05)
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


class Finish(PlanModel):
    """How a patina looks where it lies."""

    material: ItemId = Field(default="moss", description="The tiling material the patina is made of.")
    tint: Colour = Field(default="#ffffff", description="Multiplied with the material's own colour.")
    scale: float = quantity(1.0, 0.05, 20.0, "×", "Enlargement of the material's pattern.", 0.05)
    variation: float = quantity(0.25, 0.0, 1.0, "", "How much its brightness drifts from place to place.", 0.05)
    variation_size: float = quantity(0.8, 0.02, 50.0, "m", "Width of a lighter or darker patch.", 0.1)
    roughness: float = quantity(1.0, 0.0, 2.0, "×", "Against the material's own roughness.", 0.05)
    relief: float = quantity(1.0, 0.0, 4.0, "×", "Strength of its fine relief.", 0.05)
    break_up: float = quantity(
        0.5, 0.0, 1.0, "", "How far the material's own relief decides where the edge runs.", 0.05
    )
    fill: float = quantity(
        0.0, 0.0, 1.0, "", "How far it comes to the joints and hollows first and to what stands out last.", 0.05
    )
    thickness: float = quantity(0.0, 0.0, 200.0, "mm", "How thick it lies where it covers wholly.", 1)
    stain: float = quantity(
        0.0, 0.0, 1.0, "", "0 lies on top and hides what is beneath, 1 only darkens it like a stain.", 0.05
    )


class PatinaUse(PlanModel):
    """A surface that carries a patina, and how far it is turned down there."""

    surface: SurfaceRef
    amount: float = quantity(1.0, 0.0, 1.0, "×", "Turned down on this surface alone.", 0.05)


class PatinaPlan(Item):
    """One weathering shared by many surfaces."""

    kind: Literal["patina"] = "patina"
    finish: Finish = Field(default_factory=Finish)
    amount: float = quantity(1.0, 0.0, 1.0, "×", "How much of it there is, everywhere.", 0.05)
    rules: list[Rule] = Field(default_factory=list, max_length=24, description="Where it gathers.")
    uses: list[PatinaUse] = Field(default_factory=list, max_length=500, description="The surfaces it lies on.")
    order: float = Field(default=0.0, ge=-1e6, le=1e6, description="Stacking order; higher lies on top.")

    @model_validator(mode="after")
    def _once_a_surface(self) -> PatinaPlan:
        refs = [use.surface for use in self.uses]
        if len(refs) != len(set(refs)):
            raise ValueError("A surface can carry a patina only once.")
        return self


class DecalPlan(Item):
    """A picture projected through a box onto what it meets."""

    kind: Literal["decal"] = "decal"
    picture: ItemId = Field(default="crack", description="Which decal picture is projected.")
    position: Point3 = Field(default=(0.0, 0.0, 0.0), description="Middle of the picture, metres.")
    facing: tuple[Coordinate, Coordinate, Coordinate] = Field(
        default=(0.0, 0.0, 1.0), description="Direction the picture faces, away from the surface."
    )
    turn: float = quantity(0.0, -3600.0, 3600.0, "°", "Rotation of the picture in its own plane.", 1)
    width: float = quantity(1.0, 0.01, 100.0, "m", "Width of the picture.", 0.05)
    height: float = quantity(1.0, 0.01, 100.0, "m", "Height of the picture.", 0.05)
    depth: float = quantity(0.3, 0.01, 100.0, "m", "How deep the picture reaches, half before and half behind.", 0.05)
    angle: float = quantity(60.0, 5.0, 89.0, "°", "Surfaces turned away more than this receive nothing.", 1)
    soft: float = quantity(15.0, 0.0, 60.0, "°", "Width of the soft edge before that angle.", 1)
    opacity: float = quantity(1.0, 0.0, 1.0, "×", "How opaque the picture is.", 0.05)
    tint: Colour = Field(default="#ffffff", description="Multiplied with the picture's own colour.")
    receivers: list[str] = Field(
        default_factory=list, max_length=500, description="The pieces (or 'ground') that receive it; none named: all."
    )
    order: float = Field(default=0.0, ge=-1e6, le=1e6, description="Stacking order; higher lies on top.")

    @model_validator(mode="after")
    def _has_direction(self) -> DecalPlan:
        if sum(abs(v) for v in self.facing) < 1e-9:
            raise ValueError("The facing direction must not be zero.")
        return self


class StationPlan(Item):
    """A saved camera."""

    kind: Literal["station"] = "station"
    position: Point3 = Field(default=(8.0, 1.7, 8.0), description="Where the eye is, metres.")
    target: Point3 = Field(default=(0.0, 1.0, 0.0), description="What it looks at, metres.")
    lens: float = quantity(35.0, 8.0, 400.0, "mm", "Focal length for a 36 mm wide picture.", 1)
    order: float = Field(default=0.0, ge=-1e6, le=1e6)


class LightPlan(Item):
    """Sun, sky and haze."""

    kind: Literal["light"] = "light"
    name: Name = "daylight"
    azimuth: float = quantity(230.0, 0.0, 360.0, "°", "Where the sun stands, clockwise from north.", 1)
    elevation: float = quantity(32.0, 1.0, 90.0, "°", "How high the sun stands above the horizon.", 1)
    turbidity: float = quantity(3.5, 1.8, 10.0, "", "Clear mountain air near 2, hazy near 8.", 0.1)
    cloud: float = quantity(0.35, 0.0, 1.0, "", "0 clear, 1 overcast; clouds take the edge off the sun.", 0.05)
    exposure: float = quantity(0.0, -6.0, 6.0, "stops", "Brightness of the picture.", 0.1)
    haze: float = quantity(0.4, 0.0, 1.0, "", "How soon distance pales.", 0.05)
    seed: int = seed_field()


class WeatherPlan(Item):
    """Wind and time of the year."""

    kind: Literal["weather"] = "weather"
    name: Name = "weather"
    wind_from: float = quantity(250.0, 0.0, 360.0, "°", "Where the wind comes from, clockwise from north.", 5)
    wind: float = quantity(3.0, 0.0, 30.0, "m/s", "Speed of the wind: 3 a light breeze, 12 a strong one.", 0.5)
    gusts: float = quantity(0.5, 0.0, 1.0, "", "How far gusts rise above the steady wind.", 0.05)
    gust_size: float = quantity(14.0, 0.5, 200.0, "m", "Width of a gust.", 1)
    moment: float = quantity(0.0, 0.0, 600.0, "s", "The moment of the wind that proofs and hand-overs hold.", 0.5)
    wetness: float = quantity(
        0.0, 0.0, 1.0, "", "How wet everything is that lies open to the sky: 0 dry, 1 soaked by long rain.", 0.05
    )
    season: float = quantity(
        8.6, 0.0, 12.0, "month", "Time of the year: 0 is the first of January, 8.6 mid September.", 0.1
    )


ItemPlan = Annotated[
    GroundPlan
    | PiecePlan
    | DriftPlan
    | GrassPlan
    | PatinaPlan
    | DecalPlan
    | StationPlan
    | LightPlan
    | WeatherPlan
    | TouchPlan
    | PlacedPlan
    | LinePlan
    | EditPlan,
    Field(discriminator="kind"),
]
