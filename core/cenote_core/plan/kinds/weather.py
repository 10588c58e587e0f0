"""Weather: wind, wetness, time of the year and years gone by. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import ConfigDict, Field

from ...base.compass import compass
from ...base.fields import Item, Name, PlanModel, in_sections, quantity
from ...surfaces.formulas import DUSTING_MELTS, RIME_WIND
from ...surfaces.weather_inputs import Fallen


class WeatherState(PlanModel):
    """What the weather is like, and when: all that answers to it takes it from here.

    A number more is a field here: sheets, cards and spells take it from its declaration.
    """

    model_config = ConfigDict(json_schema_extra=in_sections)

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
        "wetness in the open",
        (0, 1, 1),
        section="Water",
        gauge=("wet", 1, ""),
    )
    dried: float = quantity(
        0.0, 0.0, 1.0, "", "How far it has dried since: what lies open to sun and wind first, hollows and lee last.", 0.05,
        "drying since then", (0, 1, 1), section="Water",
    )  # fmt: skip
    standing: float = quantity(
        0.0, 0.0, 200.0, "mm", "Water that has come down and not yet soaked away: it stands where it cannot run off.", 1,
        "standing water", (0, 60, 1.5), section="Water", gauge=("standing water", 60, ""),
    )  # fmt: skip
    rain: float = quantity(
        0.0, 0.0, 100.0, "mm/h", "Rain that falls: 2 a drizzle, 8 steady rain, 40 a cloudburst.", 0.5, "rain falling",
        (0, 40, 2), section="Water",
    )  # fmt: skip
    snow: float = quantity(
        0.0,
        0.0,
        200.0,
        "cm",
        "Depth of snow on open level ground.",
        1,
        "snow on open ground",
        (0, 40, 1.5),
        section="Snow and frost",
        gauge=("snow", 40, "melted"),
    )
    melted: float = quantity(
        0.0, 0.0, 200.0, "cm", "Depth of snow the sun has melted in the open: steep and dark places are bare first.", 0.5,
        "of it melted", (0, 40, 1.5), section="Snow and frost",
    )  # fmt: skip
    snowfall: float = quantity(
        0.0,
        0.0,
        20.0,
        "cm/h",
        "Snow that falls: 0.5 a few flakes, 2 steady, 5 thick.",
        0.5,
        "snow falling",
        (0, 8, 2),
        section="Snow and frost",
    )
    frost: float = quantity(
        0.0,
        0.0,
        1.0,
        "",
        "Hoar frost on what lies open to a clear night's sky.",
        0.05,
        slider=(0, 1, 1),
        section="Snow and frost",
        gauge=("frost", 1, ""),
    )
    icicles: float = quantity(
        0.0, 0.0, 200.0, "cm", "Length of the longest icicle, at a lower edge that much water comes to; others are shorter.",
        1, "longest icicle", (0, 60, 1.5), section="Snow and frost",
    )  # fmt: skip
    fog: float = quantity(
        0.0, 0.0, 1.0, "", "Fog: at 1 things are lost at sixty metres.", 0.05, slider=(0, 1, 1), section="In the air"
    )
    dust: float = quantity(
        0.0,
        0.0,
        1.0,
        "",
        "Dust of a long dry spell on all that is level.",
        0.05,
        "dust that has settled",
        (0, 1, 1),
        section="In the air",
        gauge=("dust", 1, ""),
    )
    overcast: float = quantity(
        0.0,
        0.0,
        1.0,
        "",
        "How far clouds have closed at least, whatever Air says.",
        0.05,
        "clouds closed",
        (0, 1, 1),
        section="In the air",
    )
    exposure: float = quantity(
        0.0, -4.0, 4.0, "stops", "Brightness of the picture while this shows, besides that of Air: snow and fog are bright.",
        0.1, "exposure", (-2, 2, 1), section="In the air",
    )  # fmt: skip
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
    def drips(self) -> float:
        """How fast lower edges drip, against steady rain of 8 mm/h: while it rains, after it, and from melting snow."""
        after = 0.12 * max(0.0, self.wetness - self.dried)
        thawing = 0.35 * min(1.0, max(0.0, min(self.melted, self.snow)) / 3) if self.snow > 0 else 0.0
        return max(self.rain / 8.0, after, thawing)

    @property
    def wets(self) -> bool:
        """Does water stand or run, so that places are wet besides what falls on them?"""
        return max(self.standing, self.wetness - self.dried) > 0

    @property
    def falls(self) -> bool:
        """Does anything of it lie on surfaces, so that it matters how far a place lies open to the sky?"""
        return max(self.wetness, self.standing, self.snow, self.frost, self.dust) > 0

    @property
    def fallen(self) -> Fallen:
        """What it lays on surfaces. Of snow that melts a dusting goes first, and twigs and blades are soon bare."""
        dusting = max(0.0, self.snow - DUSTING_MELTS * self.melted) / 100
        x, z = (float(v) for v in compass(self.wind_from))
        rime = self.rime
        return Fallen(self.wetness, self.dried, dusting, self.frost, self.dust, (rime * x, 0.0, rime * z))

    @property
    def rime(self) -> float:
        """How far rime grows on what is thin, 0..1: of frost in the wind, and all of it from a fresh breeze on."""
        return self.frost * min(1.0, self.wind / RIME_WIND)

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
