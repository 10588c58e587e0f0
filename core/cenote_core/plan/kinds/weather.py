"""Weather: wind, wetness, time of the year and years gone by. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from ...base.fields import Item, Name, PlanModel, quantity


class WeatherState(PlanModel):
    """What the weather is like, and when: all that answers to it takes it from here."""

    wind_from: float = quantity(
        250.0, 0.0, 360.0, "°", "Where the wind comes from, clockwise from north.", 5, slider=(0, 360, 1)
    )
    wind: float = quantity(
        3.0, 0.0, 30.0, "m/s", "Speed of the wind: 3 a light breeze, 12 a strong one.", 0.5, slider=(0, 20, 1)
    )
    gusts: float = quantity(0.5, 0.0, 1.0, "", "How far gusts rise above the steady wind.", 0.05, slider=(0, 1, 1))
    gust_size: float = quantity(14.0, 0.5, 200.0, "m", "Width of a gust.", 1, slider=(1, 80, 2))
    moment: float = quantity(
        0.0, 0.0, 600.0, "s", "The moment of the wind that proofs and hand-overs hold.", 0.5, slider=(0, 20, 1)
    )
    wetness: float = quantity(
        0.0,
        0.0,
        1.0,
        "",
        "How wet everything is that lies open to the sky: 0 dry, 1 soaked by long rain.",
        0.05,
        slider=(0, 1, 1),
    )
    snow: float = quantity(
        0.0, 0.0, 200.0, "cm", "Depth of snow on open level ground.", 1, "snow on open ground", (0, 40, 1.5)
    )
    years: float = quantity(
        30.0, 0.0, 500.0, "years", "Years the place has stood: everything that grows or wears with time follows.", 1,
        "years it has stood", (0, 120, 1.5),
    )  # fmt: skip
    season: float = quantity(
        8.6,
        0.0,
        12.0,
        "month",
        "Time of the year: 0 is the first of January, 8.6 mid September.",
        0.1,
        slider=(0, 12, 1),
    )

    @property
    def falls(self) -> bool:
        """Does anything of it come from the sky, so that it matters how far a place lies open to it?"""
        return self.wetness > 0 or self.snow > 0

    @property
    def snow_depth(self) -> float:
        """Metres of snow on open level ground."""
        return self.snow / 100


class WeatherPlan(WeatherState, Item):
    """Wind, wetness, time of the year and years gone by, as they are shown."""

    kind: Literal["weather"] = "weather"
    single: ClassVar[str] = "weather"
    name: Name = "weather"
    spell: str = Field(default="", max_length=64, description="The spell this is; none: the weather is its own.")


class SpellPlan(WeatherState, Item):
    """A named state of the weather that a site can be shown in."""

    kind: Literal["spell"] = "spell"
    order: float = Field(default=0.0, ge=-1e6, le=1e6, description="Its place in the row of spells.")
