"""Measure → gate → amount: the one way in Cenote to say where."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .fields import ItemId, PlanModel, Point2, quantity, seed_field


class Gate(PlanModel):
    """Trapezoid response to a measure: nothing below `rise_start`, full from `rise_end` to `fall_start`,
    nothing past `fall_end`."""

    rise_start: float = Field(ge=-10_000, le=10_000, description="Below this value nothing is let through.")
    rise_end: float = Field(ge=-10_000, le=10_000, description="From this value on everything is let through.")
    fall_start: float = Field(ge=-10_000, le=10_000, description="Up to this value everything is let through.")
    fall_end: float = Field(ge=-10_000, le=10_000, description="Past this value nothing is let through.")

    @model_validator(mode="after")
    def _ordered(self) -> Gate:
        if not self.rise_start <= self.rise_end <= self.fall_start <= self.fall_end:
            raise ValueError("A gate's four values must not decrease from left to right.")
        return self


class _Rule(PlanModel):
    gate: Gate
    strength: float = quantity(1.0, 0.0, 1.0, "", "How far this rule counts: 0 is ignored, 1 is strict.", 0.05)
    active: bool = Field(default=True, description="A rule that is switched off counts for nothing.")


class SlopeRule(_Rule):
    """How steep the surface is: 0° level, 90° upright, 180° facing down."""

    measure: Literal["slope"] = "slope"


class HeightRule(_Rule):
    """How high a point lies, above the site's zero or above the foot of its own piece."""

    measure: Literal["height"] = "height"
    above: Literal["site", "foot"] = Field(
        default="site", description="Height above the site's zero, or above the foot of the piece itself."
    )


class ShelterRule(_Rule):
    """How much of the sky is closed off by what stands near, 0 open to 1 closed."""

    measure: Literal["shelter"] = "shelter"
    reach: float = quantity(2.0, 0.05, 50.0, "m", "Only what stands within this distance gives shelter.", 0.1)


class NoiseRule(_Rule):
    """Seeded fractal unevenness, for patches; 0 to 1 with its middle at 0.5."""

    measure: Literal["noise"] = "noise"
    size: float = quantity(1.5, 0.02, 100.0, "m", "Width of a typical patch.", 0.1)
    detail: int = Field(default=3, ge=1, le=8, description="How many finer layers are added.")
    seed: int = seed_field()


class PaintedRule(_Rule):
    """Where the item has been painted by hand, 0 to 1."""

    measure: Literal["painted"] = "painted"


class AspectRule(_Rule):
    """How far the surface faces away from a compass direction: 0° faces it, 180° faces the other way."""

    measure: Literal["aspect"] = "aspect"
    toward: float = quantity(0.0, 0.0, 360.0, "°", "The compass direction, clockwise from north.", 5)


class SkyRule(_Rule):
    """How much of the sky can be seen: 0 under a roof, 1 in the open."""

    measure: Literal["sky"] = "sky"


class HollowRule(_Rule):
    """How high a place lies against the ground around it: below 0 hollows, above 0 ridges. Metres."""

    measure: Literal["hollow"] = "hollow"
    reach: float = quantity(2.0, 0.1, 100.0, "m", "How wide the surroundings are that count.", 0.1)


class EdgeRule(_Rule):
    """Distance from the edge of the surfaces the item lies on, metres."""

    measure: Literal["edge"] = "edge"


class NearRule(_Rule):
    """Distance from pieces, metres."""

    measure: Literal["near"] = "near"
    pieces: list[ItemId] = Field(default_factory=list, max_length=200, description="Which pieces; none named: any.")


class LineRule(_Rule):
    """Distance from a drawn line as seen from above, metres."""

    measure: Literal["line"] = "line"
    line: list[Point2] = Field(
        default=[(-5.0, 0.0), (5.0, 0.0)], min_length=2, max_length=500, description="The line, x and z in metres."
    )


class PathRule(_Rule):
    """Distance from the edge of the nearest path or ditch of the ground as seen from above; below 0 on it. Metres."""

    measure: Literal["path"] = "path"


class WaterRule(_Rule):
    """Distance from the nearest water line as seen from above, metres; below 0 under water."""

    measure: Literal["water"] = "water"


class StemsRule(_Rule):
    """Distance from the stems of other drifts, metres."""

    measure: Literal["stems"] = "stems"
    drifts: list[ItemId] = Field(
        default_factory=list, max_length=32, description="Which drifts; none named: larger tiers."
    )


class CrownRule(_Rule):
    """How far under the crowns of other drifts: 0 in the open, 1 at a stem."""

    measure: Literal["crown"] = "crown"
    drifts: list[ItemId] = Field(
        default_factory=list, max_length=32, description="Which drifts; none named: larger tiers."
    )


class ImageRule(_Rule):
    """Brightness of an image laid over the ground from above, 0 to 1."""

    measure: Literal["image"] = "image"
    image: ItemId = Field(default="none", description="Which of the site's images.")


class CameraRule(_Rule):
    """Distance from the nearest station that has the place in its picture, metres; far beyond what none sees."""

    measure: Literal["camera"] = "camera"
    stations: list[ItemId] = Field(default_factory=list, max_length=32, description="Which stations; none named: all.")


Rule = Annotated[
    SlopeRule
    | HeightRule
    | ShelterRule
    | NoiseRule
    | PaintedRule
    | AspectRule
    | SkyRule
    | HollowRule
    | EdgeRule
    | NearRule
    | LineRule
    | PathRule
    | WaterRule
    | StemsRule
    | CrownRule
    | ImageRule
    | CameraRule,
    Field(discriminator="measure"),
]
