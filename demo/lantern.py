"""Lantern: a still life for droplets, a glass lantern and a zinc bucket on a stone ledge after a cold night.

x runs east along the ledge, z south toward the eye, y up.
"""

from __future__ import annotations

from typing import Any

from cenote_core.measures.shelter import ShelterRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.plan import (
    BeadsPlan,
    Finish,
    GroundPlan,
    LightPlan,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    Region,
    SpellPlan,
    StationPlan,
    WeatherPlan,
    WeatherState,
)
from cenote_core.weatherings import WEATHERINGS

from .planting import gate

NAME = "Lantern"
NOTE = "A lantern and a bucket on a ledge after a cold night. For droplets, near enough to see into them."
TOP = 0.4
"""Metres of the ledge's top over the ground."""


def items() -> list[tuple[str, Any]]:
    """(key, plan) of everything on the site."""
    return [*_place(), *_patinas(), *_beads(), *_stations()]


def _place() -> list[tuple[str, Any]]:
    ground = GroundPlan(
        name="yard", width=10, depth=8, cell=0.1, amount=0.05, feature=2, detail=4, seed=3, material="gravel"
    )
    light = LightPlan(
        name="just after sunrise", azimuth=118, elevation=17, turbidity=2.6, cloud=0.25, exposure=0.2, haze=0.5, seed=9
    )
    weather = WeatherPlan(name="after a cold night", wind=0.3, season=9.4, wetness=0.25, spell="spell-1")
    now = weather.model_dump(include=set(WeatherState.model_fields))
    return [
        ("ground", ground),
        ("light", light),
        ("weather", weather),
        ("spell-1", SpellPlan(name="after a cold night", order=1, **now)),
        ("ledge", PiecePlan(name="stone ledge", asset="ledge", position=(0, 0, 0))),
        ("wall", PiecePlan(name="wall behind", asset="wall", position=(0, -0.2, -0.75))),
        ("lantern", PiecePlan(name="lantern", asset="lantern", position=(-0.2, TOP, 0.02), turn=18, foot_width=0.0)),
        (
            "bucket",
            PiecePlan(name="zinc bucket", asset="bucket", position=(0.24, TOP, -0.04), turn=-24, foot_width=0.0),
        ),
    ]


def _patinas() -> list[tuple[str, Any]]:
    moss = PatinaPlan(
        name="moss", order=1, amount=0.9,
        finish=Finish(material="moss", scale=0.7, variation=0.3, break_up=0.8, fill=0.8, thickness=9),
        rules=[
            SlopeRule(gate=gate(0, 0, 70, 100), strength=0.7),
            ShelterRule(gate=gate(0.12, 0.4, 0.95, 1), reach=0.5, strength=0.95),
        ],
        uses=[
            PatinaUse(surface="ledge/coping", amount=0.3),
            *(PatinaUse(surface=ref) for ref in ("ledge/stone", "wall/stone", "wall/coping")),
        ],
    )  # fmt: skip
    rust = WEATHERINGS["rust"].patina("rust", ["lantern/iron"], 5)
    grime = WEATHERINGS["recess_grime"].patina("grime", ["ledge/coping", "ledge/stone", "wall/stone"], 7)
    return [("p-moss", moss), ("p-rust", rust), ("p-grime", grime)]


def _beads() -> list[tuple[str, Any]]:
    def beads(name: str, order: int, surfaces: list[str], **more: Any) -> BeadsPlan:
        return BeadsPlan(name=name, order=order, uses=[PatinaUse(surface=s) for s in surfaces], **more)

    return [
        ("b-glass", beads("on the glass", 1, ["lantern/pane"], size=1.5, crowded=0.35, between=0.6, runs=0.8, seed=2)),
        ("b-iron", beads("on the lantern's iron", 2, ["lantern/iron"], size=1.1, pool=9.0, crowded=0.25, between=0.4, seed=3)),
        (
            "b-bucket",
            beads(
                "sweat of the bucket", 3, ["bucket/zinc"], size=2.4, pool=26.0, runs=1.2, crowded=0.4, between=0.7, seed=4,
                # Cold water stands in it up to two thirds.
                regions=[Region(shape="box", centre=(0.24, TOP + 0.08, -0.04), width=0.4, height=0.2, depth=0.4, soft=0.2)],
            ),
        ),
        ("b-stone", beads("on the slabs", 4, ["ledge/coping"], size=2.6, crowded=0.12, between=0.15, amount=0.55, angle=72, seed=5)),
    ]  # fmt: skip


def _stations() -> list[tuple[str, Any]]:
    def station(
        order: int, name: str, at: tuple[float, float, float], to: tuple[float, float, float], lens: float
    ) -> Any:
        return f"station-{order}", StationPlan(name=name, order=order, position=at, target=to, lens=lens)

    return [
        station(1, "the still life", (0.25, 0.78, 1.25), (0.03, 0.5, 0.0), 50),
        station(2, "glass, near", (-0.08, 0.58, 0.36), (-0.2, 0.545, 0.02), 60),
        station(3, "bucket, near", (0.42, 0.6, 0.42), (0.25, 0.5, 0.0), 60),
    ]
