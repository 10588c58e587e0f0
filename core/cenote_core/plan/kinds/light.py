"""Light: sun, sky and haze. Metres, degrees, right-handed, Y up."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...base.fields import Item, Name, quantity, seed_field


class LightPlan(Item):
    """Sun, sky and haze."""

    kind: Literal["light"] = "light"
    single: ClassVar[str] = "light"
    name: Name = "daylight"
    azimuth: float = quantity(
        230.0, 0.0, 360.0, "°", "Where the sun stands, clockwise from north.", 1, slider=(0, 360, 1)
    )
    elevation: float = quantity(
        32.0, 1.0, 90.0, "°", "How high the sun stands above the horizon.", 1, slider=(1, 90, 1)
    )
    turbidity: float = quantity(3.5, 1.8, 10.0, "", "Clear mountain air near 2, hazy near 8.", 0.1, slider=(1.8, 10, 1))
    cloud: float = quantity(
        0.35, 0.0, 1.0, "", "0 clear, 1 overcast; clouds take the edge off the sun.", 0.05, slider=(0, 1, 1)
    )
    exposure: float = quantity(0.0, -6.0, 6.0, "stops", "Brightness of the picture.", 0.1, slider=(-3, 3, 1))
    water_light: float = quantity(
        1.0,
        0.0,
        3.0,
        "×",
        "Light patterns of all water, besides what each says itself.",
        0.05,
        "light of water",
        (0, 2, 1),
    )
    haze: float = quantity(0.4, 0.0, 1.0, "", "How soon distance pales.", 0.05, slider=(0, 1, 1))
    seed: int = seed_field()
