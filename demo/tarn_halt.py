"""Tarn Halt: an invented, disused stop of a hill railway, as a plan.

x runs east along the track, z south, y up. The platform stands north of the track, the bank rises behind it.
"""

from __future__ import annotations

from typing import Any

from cenote_core.measures.line import LineRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.measures.shelter import ShelterRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.measures.water import WaterRule
from cenote_core.plan import (
    Cut,
    DecalPlan,
    Finish,
    GroundLayer,
    GroundPlan,
    LightPlan,
    Mound,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    SpellPlan,
    StationPlan,
    Terrace,
    TouchPlan,
    Water,
    WeatherPlan,
    WeatherState,
    rule_of,
)
from cenote_core.weatherings import WEATHERINGS

from .planting import POND, RUNNEL, drifts, gate

NAME = "Tarn Halt"
NOTE = "A disused stop of a hill railway, early autumn. Everything here is made by Cenote's own generators."


def items() -> list[tuple[str, Any]]:
    """(key, plan) of everything on the site."""
    return [*_ground(), *_pieces(), *drifts(), *_patinas(), *_decals(), *_stations(), *_touches()]


def _ground() -> list[tuple[str, Any]]:
    ground = GroundPlan(
        name="hillside",
        width=64,
        depth=52,
        cell=0.25,
        amount=0.9,
        feature=11,
        detail=6,
        seed=7,
        forms=[
            Terrace(start=(-40, -7.2), end=(40, -7.2), height=4.6, run=8.5),
            Terrace(start=(40, 5.5), end=(-40, 5.5), height=-1.5, run=9),
            Mound(centre=(-17, -13), radius=10, height=1.6),
            Mound(centre=(15, 12), radius=8, height=0.9),
            Mound(centre=POND, radius=7.5, height=-1.25),
            Cut(line=[(-34, -2.2), (34, -2.2)], width=7.0, depth=0, bank=2.2, level=0.0),
            Cut(line=RUNNEL, width=0.8, depth=0.5, bank=1.5, water=0.14, flow=70, murk=0.12),
            Water(centre=POND, level=-1.98, murk=0.3),
        ],
        layers=[
            GroundLayer(key="brook", material="pebbles", rules=[LineRule(gate=gate(0, 0, 0.45, 0.8), line=RUNNEL)]),
            GroundLayer(key="mud", material="soil", rules=[WaterRule(gate=gate(-50, -50, -0.1, 0.35))]),
        ],
    )
    light = LightPlan(
        name="late afternoon", azimuth=236, elevation=27, turbidity=3.6, cloud=0.42, exposure=0.35, haze=0.45, seed=4
    )
    weather = WeatherPlan(
        name="a breeze up the valley", wind_from=240, wind=3.5, gusts=0.6, season=8.7, spell="spell-3"
    )
    return [("ground", ground), ("light", light), ("weather", weather), *_spells(weather)]


def _spells(weather: WeatherPlan) -> list[tuple[str, Any]]:
    """The weather as it shows and as it is at other times."""
    now = weather.model_dump(include=set(WeatherState.model_fields))

    def spell(order: int, name: str, **more: Any) -> tuple[str, Any]:
        return f"spell-{order}", SpellPlan(name=name, order=order, **{**now, **more})

    return [
        spell(1, "dry summer", season=6.6, wind=2.0),
        spell(
            2,
            "after rain",
            season=7.4,
            wetness=0.85,
            standing=14.0,
            wind=4.5,
            wind_from=250,
            overcast=0.7,
            exposure=0.3,
        ),
        spell(3, "early autumn"),
        spell(4, "leaf fall", season=10.1, wetness=0.35, standing=3.0, wind=7.5, gusts=0.8),
        spell(5, "first snow", season=11.2, snow=9.0, wind=1.5, exposure=-0.75, icicles=14.0, frost=0.3),
        spell(
            6,
            "thaw",
            season=2.2,
            snow=11.0,
            melted=8.5,
            wetness=0.6,
            standing=6.0,
            wind=2.5,
            exposure=-0.5,
            icicles=26.0,
        ),
    ]


def _pieces() -> list[tuple[str, Any]]:
    def piece(
        name: str, asset: str, at: tuple[float, float, float], turn: float = 0, group: str = "", **more: Any
    ) -> PiecePlan:
        return PiecePlan(name=name, asset=asset, position=at, turn=turn, group=group, **more)

    return [
        ("platform", piece("platform", "platform", (-1, 0, -3.7), group="halt")),
        ("shelter", piece("shelter", "shelter", (-3.4, 0.85, -4.25), group="halt")),
        ("steps", piece("platform steps", "steps", (7.8, 0, -3.9), -90, group="halt")),
        ("track", piece("track bed", "track", (-7, -0.02, 0.0), group="line")),
        ("track-east", piece("track bed, east", "track", (17, -0.02, 0.0), group="line")),
        ("wall", piece("retaining wall, west", "wall", (-14.2, -0.05, -5.6), 2, group="line")),
        ("wall-east", piece("retaining wall, east", "wall", (17.4, -0.05, -6.3), -3, group="line")),
        ("tank", piece("water tank", "tank", (11.2, 0, -4.4), 0, group="line")),
        ("lamp", piece("lamp post", "lamp", (2.6, 0.85, -2.9), 20, group="halt")),
        ("seat", piece("bench", "seat", (0.6, 0.85, -4.7), 2, group="halt")),
        ("crate-1", piece("crate", "crate", (4.3, 0.85, -4.5), 12, group="goods")),
        ("crate-2", piece("crate, upper", "crate", (4.36, 1.27, -4.46), -17, group="goods")),
        ("crate-3", piece("crate, small", "crate", (4.95, 0.85, -4.05), 48, group="goods", size=0.85)),
        ("churn-1", piece("milk churn", "churn", (5.55, 0.85, -4.75), 30, group="goods")),
        ("churn-2", piece("milk churn, second", "churn", (5.98, 0.85, -4.6), 110, group="goods")),
        ("pole-1", piece("telegraph pole", "pole", (-9.5, 0.1, 3.6), 86, group="line", roll=2)),
        ("pole-2", piece("telegraph pole, east", "pole", (16.5, 0.1, 3.9), 92, group="line", roll=-1)),
        ("boulder", piece("boulder by the runnel", "boulder", (3.2, -0.75, 8.6), 40, group="stones", size=1.3)),
    ]


def _patinas() -> list[tuple[str, Any]]:
    moss = PatinaPlan(
        name="moss",
        order=2,
        amount=0.95,
        finish=Finish(
            material="moss", scale=0.8, variation=0.35, variation_size=0.7, break_up=0.8, fill=0.8, thickness=16
        ),
        rules=[
            SlopeRule(gate=gate(0, 0, 62, 100), strength=0.85),
            ShelterRule(gate=gate(0.06, 0.34, 0.9, 0.98), reach=0.9, strength=0.9),
            NoiseRule(gate=gate(0.40, 0.62, 1, 1), size=0.9, detail=5, seed=41),
        ],
        uses=[
            PatinaUse(surface="platform/stone"),
            PatinaUse(surface="platform/coping", amount=0.9),
            PatinaUse(surface="platform/concrete", amount=0.75),
            PatinaUse(surface="steps/stone"),
            PatinaUse(surface="steps/coping"),
            PatinaUse(surface="wall/stone"),
            PatinaUse(surface="wall/coping"),
            PatinaUse(surface="wall-east/stone"),
            PatinaUse(surface="wall-east/coping"),
            PatinaUse(surface="track/sleeper", amount=0.7),
            PatinaUse(surface="boulder/stone"),
            PatinaUse(surface="drift-stones/stone"),
            PatinaUse(surface="shelter/timber", amount=0.35),
        ],
    )
    grime = PatinaPlan(
        name="grime",
        order=1,
        amount=0.85,
        finish=Finish(material="grime", scale=1.0, variation=0.3, variation_size=1.2, break_up=0.25, stain=0.75),
        rules=[
            ShelterRule(gate=gate(0.12, 0.62, 1, 1), reach=0.6, strength=0.85),
            NoiseRule(gate=gate(0.25, 0.6, 1, 1), size=1.1, detail=4, seed=51, strength=0.7),
        ],
        uses=[
            PatinaUse(surface=ref)
            for ref in (
                "platform/stone",
                "platform/concrete",
                "platform/coping",
                "steps/stone",
                "wall/stone",
                "wall-east/stone",
                "shelter/boards",
                "shelter/timber",
                "shelter/tin",
                "tank/iron",
                "crate-1/timber",
                "crate-2/timber",
                "crate-3/timber",
                "churn-1/zinc",
                "churn-2/zinc",
                "seat/timber",
            )
        ],
    )
    return [("patina-moss", moss), ("patina-grime", grime), *_years()]


def _years() -> list[tuple[str, Any]]:
    """What the years have added, each from a kind of weathering."""
    copings = [f"{piece}/coping" for piece in ("platform", "steps", "wall", "wall-east")]
    walls = [f"{piece}/stone" for piece in ("platform", "steps", "wall", "wall-east")]
    garden = ["wall/stone", "wall-east/stone"]
    crates = [f"crate-{number}/timber" for number in (1, 2, 3)]
    lie = {
        "rust": (0.5, 31, ["shelter/tin", "lamp/iron", "seat/iron", "tank/iron", "pole-1/iron", "pole-2/iron"]),
        "silvered": (0.6, 11, ["seat/timber", "shelter/timber", *crates]),
        "odd_ones": (0.65, 3, ["shelter/boards", "seat/timber", *crates]),
        "flaking_paint": (0.7, 19, ["shelter/boards"]),
        "salts": (1.2, 29, ["platform/stone"]),
        "drip_streaks": (1.4, 37, [*walls, *copings, "tank/iron"]),
        "rust_stain": (1.5, 5, ["platform/concrete", "shelter/boards", "shelter/timber", "tank/iron", "lamp/iron"]),
        "leaf_stain": (1.6, 47, ["platform/concrete", "steps/stone"]),
        "algae": (1.7, 53, [*garden, "shelter/boards", "tank/iron", "drift-birch/trunk", "drift-alder/trunk"]),
        "algae_streaks": (1.8, 59, ["platform/stone", *garden]),
        "lichen": (3, 17, [*copings, "wall/stone", "boulder/stone", "drift-stones/stone"]),
        "mud_splash": (4, 23, [*walls, "shelter/boards", "shelter/timber"]),
        "soot": (5, 61, ["lamp/iron"]),
    }
    made = []
    for kind, (order, seed, surfaces) in lie.items():
        plan = WEATHERINGS[kind].patina(kind, surfaces, seed)
        if kind == "rust_stain":
            washed = plan.rules[0].model_copy(update={"patinas": ["patina-rust"]})
            plan = plan.model_copy(update={"rules": [washed, *plan.rules[1:]]})
        made.append((f"patina-{kind.replace('_', '-')}", plan.model_copy(update={"order": float(order)})))
    foot = rule_of("height", above="foot", gate=gate(0, 0, 0.12, 0.7))
    film = WEATHERINGS["moss_film"].patina("moss_film", ["drift-birch/trunk", "drift-alder/trunk"], 67)
    rules = [foot, *(rule for rule in film.rules if rule.measure == "noise")]
    finish = film.finish.model_copy(update={"material": "moss", "tint": "#e8ecd8", "stain": 0.0, "thickness": 8.0})
    trunks = film.model_copy(update={"name": "moss on trunks", "rules": rules, "finish": finish, "order": 2.5})
    return [*made, ("patina-trunks", trunks)]


def _decals() -> list[tuple[str, Any]]:
    crack = DecalPlan(
        name="crack in the platform face",
        picture="crack",
        position=(1.2, 0.40, -1.9),
        facing=(0, 0, 1),
        width=0.9,
        height=0.8,
        depth=0.4,
        receivers=["platform"],
        order=1,
    )
    leak = DecalPlan(
        name="leak below the tank plates",
        picture="leak",
        position=(10.9, 4.15, -3.6),
        facing=(0, 0, 1),
        width=1.3,
        height=1.2,
        depth=0.5,
        receivers=["tank"],
        order=2,
        opacity=0.9,
    )
    stain = DecalPlan(
        name="run-off on the west wall",
        picture="leak",
        position=(-11.4, 1.0, -5.35),
        facing=(0, 0.08, 1),
        turn=0,
        width=1.4,
        height=1.5,
        depth=0.7,
        receivers=["wall"],
        order=3,
        opacity=0.8,
    )
    return [("decal-crack", crack), ("decal-leak", leak), ("decal-stain", stain)]


def _stations() -> list[tuple[str, Any]]:
    return [
        (
            "station-1",
            StationPlan(name="platform end", position=(9.6, 1.75, 3.6), target=(-1.2, 1.35, -4.2), lens=30, order=1),
        ),
        (
            "station-2",
            StationPlan(name="from the bank", position=(-10.5, 4.6, -10.0), target=(1.5, 0.9, -2.6), lens=32, order=2),
        ),
        ("station-3", StationPlan(name="tank", position=(5.6, 1.65, 0.6), target=(11.6, 2.5, -5.2), lens=28, order=3)),
        (
            "station-4",
            StationPlan(name="pond", position=(-2.2, 0.05, 20.6), target=(-12.0, -2.0, 14.2), lens=28, order=4),
        ),
    ]


def _touches() -> list[tuple[str, Any]]:
    thin = TouchPlan(
        name="thinned where the camera stands",
        target="drift-grass",
        action="less",
        radius=1.1,
        strength=0.9,
        falloff=0.7,
        points=[(10.4, 0, 4.4), (9.6, 0, 3.6), (8.6, 0, 2.9)],
        order=1,
    )
    clear = TouchPlan(
        name="no birch before the shelter",
        target="drift-birch",
        action="less",
        radius=3.0,
        strength=1,
        falloff=0.2,
        points=[(-5, 0, -7.5), (4, 0, -7.5)],
        order=2,
    )
    walk = TouchPlan(
        name="somebody waited here",
        target="weather",
        action="more",
        owner="platform",
        radius=0.2,
        points=[(8.0, 0.9, 0.1), (5.2, 0.9, -0.35), (2.4, 0.9, 0.2), (1.5, 0.9, 0.35), (0.7, 0.9, -0.3)],
        order=3,
    )
    return [("touch-1", thin), ("touch-2", clear), ("touch-3", walk)]
