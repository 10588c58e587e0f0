"""What an artist authors on a site: one model an item. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .fields import (
    Colour,
    Coordinate,
    ItemId,
    Name,
    PlanModel,
    Point2,
    Point3,
    SurfaceRef,
    quantity,
    seed_field,
)
from .rules import Rule


class _Item(PlanModel):
    name: Name
    note: str = Field(default="", max_length=2000, description="Anything worth remembering about this item.")
    visible: bool = Field(default=True, description="Shown in the plate, in proofs and in hand-overs.")
    locked: bool = Field(default=False, description="Protected from changes in the plate.")


class Terrace(PlanModel):
    """A step of the ground across a straight line: the left side of the line is raised by `height`."""

    form: Literal["terrace"] = "terrace"
    start: Point2 = Field(description="One end of the line at the foot, x and z in metres.")
    end: Point2 = Field(description="The other end of the line, x and z in metres.")
    height: float = quantity(2.0, -50.0, 50.0, "m", "How far the ground is raised beyond the line.", 0.1)
    run: float = quantity(3.0, 0.05, 100.0, "m", "Horizontal length of the slope between foot and top.", 0.1)


class Cut(PlanModel):
    """A ditch, path or bed pressed into the ground along a line."""

    form: Literal["cut"] = "cut"
    line: list[Point2] = Field(min_length=2, max_length=500, description="The middle of the cut, x and z in metres.")
    width: float = quantity(3.0, 0.1, 100.0, "m", "Width of the floor.", 0.1)
    depth: float = quantity(0.4, -20.0, 20.0, "m", "How far the floor lies below the ground.", 0.05)
    bank: float = quantity(1.0, 0.05, 50.0, "m", "Horizontal width of each bank.", 0.1)
    level: float | None = Field(
        default=None, ge=-1000, le=1000, description="If given, the floor lies at this height instead."
    )


class Mound(PlanModel):
    """A rounded rise, or with a negative height a hollow."""

    form: Literal["mound"] = "mound"
    centre: Point2 = Field(description="Middle of the mound, x and z in metres.")
    radius: float = quantity(8.0, 0.2, 500.0, "m", "Distance from the middle to the foot.", 0.1)
    height: float = quantity(1.0, -100.0, 100.0, "m", "Height of the top above the foot.", 0.1)


GroundForm = Annotated[Terrace | Cut | Mound, Field(discriminator="form")]


class GroundPlan(_Item):
    """The ground of a site: a fractal sheet with forms laid over it in order."""

    kind: Literal["ground"] = "ground"
    name: Name = "ground"
    width: float = quantity(40.0, 2.0, 2000.0, "m", "Size from west to east.", 1)
    depth: float = quantity(40.0, 2.0, 2000.0, "m", "Size from north to south.", 1)
    cell: float = quantity(0.25, 0.02, 20.0, "m", "Distance between ground points; smaller is finer.", 0.05)
    amount: float = quantity(0.6, 0.0, 200.0, "m", "Height of the unevenness from lowest to highest.", 0.05)
    feature: float = quantity(14.0, 0.2, 1000.0, "m", "Width of the largest humps.", 0.5)
    detail: int = Field(default=5, ge=1, le=9, description="How many finer layers of unevenness are added.")
    seed: int = seed_field()
    forms: list[GroundForm] = Field(default_factory=list, max_length=64, description="Forms laid over the ground.")
    material: ItemId = Field(default="turf", description="Material of the ground.")

    @model_validator(mode="after")
    def _not_too_fine(self) -> GroundPlan:
        points = (self.width / self.cell + 1) * (self.depth / self.cell + 1)
        if points > 4_000_000:
            raise ValueError(
                f"The ground would have {points:,.0f} points; at most 4 000 000. "
                "Make the cell larger or the ground smaller."
            )
        return self


class PiecePlan(_Item):
    """One placed object from the kit."""

    kind: Literal["piece"] = "piece"
    asset: ItemId = Field(description="Which kit asset this is.")
    position: Point3 = Field(default=(0.0, 0.0, 0.0), description="Where its origin stands, metres.")
    turn: float = quantity(0.0, -3600.0, 3600.0, "°", "Rotation about the upright axis.", 1)
    tilt: float = quantity(0.0, -180.0, 180.0, "°", "Leaning forward about its own side axis.", 1)
    roll: float = quantity(0.0, -180.0, 180.0, "°", "Leaning sideways about its own front axis.", 1)
    size: float = quantity(1.0, 0.001, 1000.0, "×", "Enlargement against the asset's own size.", 0.05)
    group: str = Field(default="", max_length=80, description="Pieces of one group are listed together.")
    materials: dict[str, ItemId] = Field(
        default_factory=dict, description="Materials chosen for single slots instead of the asset's own."
    )


class AssetShare(PlanModel):
    """One asset of a mix and how often it is taken."""

    asset: ItemId
    weight: float = quantity(1.0, 0.0, 1000.0, "", "How often this asset is taken, against the others.", 0.1)


class Variety(PlanModel):
    """How the single plants or stones of a drift differ."""

    size_min: float = quantity(0.8, 0.01, 100.0, "×", "Smallest size against the asset's own.", 0.05)
    size_max: float = quantity(1.2, 0.01, 100.0, "×", "Largest size against the asset's own.", 0.05)
    size_bias: float = quantity(0.0, -1.0, 1.0, "", "Below 0 mostly small, above 0 mostly large.", 0.1)
    turn: float = quantity(360.0, 0.0, 360.0, "°", "Range of rotation about the upright axis.", 5)
    lean: float = quantity(4.0, 0.0, 90.0, "°", "Largest lean from its own axis.", 1)
    sink_min: float = quantity(0.0, -10.0, 10.0, "m", "Least depth below the surface.", 0.01)
    sink_max: float = quantity(0.02, -10.0, 10.0, "m", "Greatest depth below the surface.", 0.01)
    follow: float = quantity(0.2, 0.0, 1.0, "", "0 stands upright, 1 follows the surface.", 0.05)
    tint: float = quantity(0.12, 0.0, 1.0, "", "Difference in brightness and warmth from one to the next.", 0.02)

    @model_validator(mode="after")
    def _ordered(self) -> Variety:
        if self.size_min > self.size_max:
            raise ValueError("The smallest size must not be above the largest.")
        if self.sink_min > self.sink_max:
            raise ValueError("The least depth must not be above the greatest.")
        return self


Tier = Literal["canopy", "shrub", "cover", "litter"]


class DriftPlan(_Item):
    """One population: a weighted mix of assets, where it may stand, how dense, how varied."""

    kind: Literal["drift"] = "drift"
    tier: Tier = Field(default="cover", description="Size class, from canopy trees to litter.")
    assets: list[AssetShare] = Field(default_factory=list, max_length=32, description="The mix.")
    surfaces: list[SurfaceRef] = Field(default_factory=list, max_length=500, description="What it stands on.")
    density: float = quantity(2.0, 0.0, 10_000.0, "per m²", "How many stand on a square metre at most.", 0.1)
    spacing: float = quantity(0.3, 0.005, 100.0, "m", "No two stand closer than this.", 0.01)
    headroom: float = quantity(0.5, 0.0, 100.0, "m", "Free height it needs above; nothing stands under less.", 0.1)
    rules: list[Rule] = Field(default_factory=list, max_length=24, description="Where it may stand.")
    variety: Variety = Field(default_factory=Variety)
    seed: int = seed_field()

    @model_validator(mode="after")
    def _has_weight(self) -> DriftPlan:
        if self.assets and not any(share.weight > 0 for share in self.assets):
            raise ValueError("At least one asset of the mix needs a weight above 0.")
        return self


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
    stain: float = quantity(
        0.0, 0.0, 1.0, "", "0 lies on top and hides what is beneath, 1 only darkens it like a stain.", 0.05
    )


class PatinaUse(PlanModel):
    """A surface that carries a patina, and how far it is turned down there."""

    surface: SurfaceRef
    amount: float = quantity(1.0, 0.0, 1.0, "×", "Turned down on this surface alone.", 0.05)


class PatinaPlan(_Item):
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


class DecalPlan(_Item):
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


class StationPlan(_Item):
    """A saved camera."""

    kind: Literal["station"] = "station"
    position: Point3 = Field(default=(8.0, 1.7, 8.0), description="Where the eye is, metres.")
    target: Point3 = Field(default=(0.0, 1.0, 0.0), description="What it looks at, metres.")
    lens: float = quantity(35.0, 8.0, 400.0, "mm", "Focal length for a 36 mm wide picture.", 1)
    order: float = Field(default=0.0, ge=-1e6, le=1e6)


class LightPlan(_Item):
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


class TouchPlan(_Item):
    """One hand edit of a drift or a patina: a brush stroke kept as what it was, on what it was made."""

    kind: Literal["touch"] = "touch"
    name: Name = "stroke"
    target: ItemId = Field(description="The drift or patina that was touched.")
    action: Literal["more", "less"] = Field(default="more", description="Paint more, or thin.")
    owner: ItemId = Field(default="ground", description="The ground or the piece the stroke lies on.")
    points: list[Point3] = Field(
        min_length=1, max_length=4000, description="The stroke, in its owner's own coordinates, metres."
    )
    radius: float = quantity(1.0, 0.01, 100.0, "m", "Radius of the brush.", 0.05)
    strength: float = quantity(1.0, 0.0, 1.0, "×", "How much the stroke changes in its middle.", 0.05)
    falloff: float = quantity(0.5, 0.0, 1.0, "", "0 hard edge, 1 soft from the middle on.", 0.05)
    order: float = Field(default=0.0, ge=0, le=1e12)


ItemPlan = Annotated[
    GroundPlan | PiecePlan | DriftPlan | PatinaPlan | DecalPlan | StationPlan | LightPlan | TouchPlan,
    Field(discriminator="kind"),
]
