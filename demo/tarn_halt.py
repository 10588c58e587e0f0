"""Tarn Halt: an invented, disused stop of a hill railway, as a plan.

x runs east along the track, z south, y up. The platform stands north of the track, the bank rises behind it.
"""

from __future__ import annotations

from typing import Any

from cenote_core.plan import (
    AssetShare,
    Cut,
    DecalPlan,
    DriftPlan,
    Finish,
    Gate,
    GroundPlan,
    HeightRule,
    KeepOut,
    LightPlan,
    LineRule,
    Litter,
    Mound,
    NearRule,
    NoiseRule,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    ShelterRule,
    SlopeRule,
    StationPlan,
    Terrace,
    TouchPlan,
    Variety,
    WeatherPlan,
)

NAME = "Tarn Halt"
NOTE = "A disused stop of a hill railway, early autumn. Everything here is made by Cenote's own generators."


RUNNEL = [(-32.0, 10.5), (-12.0, 9.2), (0.0, 11.5), (12.0, 9.8), (32.0, 13.5)]
"""The middle of the little water south of the line, x and z."""


def gate(a: float, b: float, c: float, d: float) -> Gate:
    return Gate(rise_start=a, rise_end=b, fall_start=c, fall_end=d)


def items() -> list[tuple[str, Any]]:
    """(key, plan) of everything on the site."""
    return [*_ground(), *_pieces(), *_drifts(), *_patinas(), *_decals(), *_stations(), *_touches()]


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
            Cut(line=[(-34, -2.2), (34, -2.2)], width=7.0, depth=0, bank=2.2, level=0.0),
            Cut(line=RUNNEL, width=0.7, depth=0.55, bank=1.5),
        ],
    )
    light = LightPlan(
        name="late afternoon", azimuth=236, elevation=27, turbidity=3.6, cloud=0.42, exposure=0.35, haze=0.45, seed=4
    )
    weather = WeatherPlan(name="a breeze up the valley", wind_from=240, wind=3.5, gusts=0.6, season=8.7)
    return [("ground", ground), ("light", light), ("weather", weather)]


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


def _drifts() -> list[tuple[str, Any]]:
    ground = ["ground/ground"]
    mix = lambda *shares: [AssetShare(asset=a, weight=w) for a, w in shares]  # noqa: E731
    birch = DriftPlan(
        name="birch",
        tier="canopy",
        assets=mix(("birch_tall", 3), ("birch_tall_b", 2), ("birch_mid", 4), ("birch_young", 3)),
        surfaces=ground,
        density=0.16,
        spacing=1.5,
        headroom=8,
        seed=3,
        keep_outs=[KeepOut(of="pieces", clearance=0.3)],
        rules=[
            HeightRule(gate=gate(0.9, 2.2, 50, 50)),
            NoiseRule(gate=gate(0.44, 0.58, 1, 1), size=9, detail=2, seed=5),
            SlopeRule(gate=gate(0, 0, 38, 50)),
        ],
        variety=Variety(size_min=0.75, size_max=1.15, lean=5, sink_min=0.04, sink_max=0.1, follow=0.05, tint=0.2),
    )
    bramble = DriftPlan(
        name="bramble",
        tier="shrub",
        assets=mix(("bramble", 3), ("bramble_low", 2)),
        surfaces=ground,
        density=1.0,
        spacing=0.6,
        headroom=1.0,
        seed=8,
        keep_outs=[KeepOut(of="pieces", clearance=0.02)],
        rules=[
            SlopeRule(gate=gate(5, 14, 50, 60)),
            NoiseRule(gate=gate(0.52, 0.62, 1, 1), size=4.5, detail=3, seed=12),
            HeightRule(gate=gate(-0.6, 0.2, 50, 50)),
        ],
        variety=Variety(size_min=0.6, size_max=1.2, lean=8, follow=0.5, tint=0.25),
    )
    fern = DriftPlan(
        name="lady fern",
        tier="cover",
        assets=mix(("fern_full", 4), ("fern_other", 3), ("fern_young", 4)),
        surfaces=ground,
        density=3.0,
        spacing=0.4,
        headroom=0.6,
        seed=9,
        keep_outs=[KeepOut(of="pieces", clearance=0.02), KeepOut(of="drift-birch", clearance=0.05)],
        rules=[
            SlopeRule(gate=gate(4, 12, 38, 52)),
            NoiseRule(gate=gate(0.42, 0.56, 1, 1), size=3.0, detail=3, seed=31),
            HeightRule(gate=gate(0.05, 0.5, 50, 50)),
        ],
        variety=Variety(size_min=0.6, size_max=1.25, lean=10, follow=0.45, tint=0.3),
    )
    grass = DriftPlan(
        name="bank grass",
        tier="cover",
        assets=mix(("grass_tall", 4), ("grass_mid", 5), ("grass_low", 2), ("tussock", 0.4)),
        surfaces=ground,
        density=20,
        spacing=0.13,
        headroom=0.3,
        seed=10,
        keep_outs=[KeepOut(of="pieces", clearance=0.03)],
        rules=[
            SlopeRule(gate=gate(0, 0, 38, 54)),
            NoiseRule(gate=gate(0.22, 0.52, 1, 1), size=2.2, detail=4, seed=2),
        ],
        variety=Variety(size_min=0.65, size_max=1.35, lean=10, follow=0.4, tint=0.35, sink_max=0.03),
    )
    pioneers = DriftPlan(
        name="grass in the ballast",
        tier="cover",
        assets=mix(("grass_low", 5), ("grass_mid", 2), ("dandelion", 0.5), ("fern_young", 0.25)),
        surfaces=["track/ballast", "track-east/ballast"],
        density=2.4,
        spacing=0.16,
        headroom=0.15,
        seed=14,
        rules=[NoiseRule(gate=gate(0.42, 0.66, 1, 1), size=1.3, detail=3, seed=6)],
        variety=Variety(size_min=0.5, size_max=1.1, lean=14, follow=0.3, tint=0.3),
    )
    stones = DriftPlan(
        name="loose stones",
        tier="litter",
        assets=mix(("stone_round", 3), ("stone_flat", 3), ("stone_small", 8)),
        surfaces=ground,
        density=0.7,
        spacing=0.3,
        headroom=0.1,
        seed=15,
        rules=[NoiseRule(gate=gate(0.45, 0.7, 1, 1), size=3, detail=3, seed=19)],
        variety=Variety(
            size_min=0.4, size_max=1.5, size_bias=-0.5, lean=35, sink_min=0.02, sink_max=0.07, follow=0.7, tint=0.2
        ),
    )
    alder = DriftPlan(
        name="alder by the runnel",
        tier="canopy",
        assets=mix(("alder_tall", 2), ("alder_mid", 3), ("alder_young", 2)),
        surfaces=ground,
        density=0.12,
        spacing=2.0,
        headroom=8,
        seed=21,
        keep_outs=[KeepOut(of="pieces", clearance=0.3)],
        rules=[
            LineRule(gate=gate(0, 0.6, 2.5, 4.5), line=RUNNEL),
            NoiseRule(gate=gate(0.46, 0.58, 1, 1), size=8, detail=2, seed=8),
        ],
        variety=Variety(size_min=0.7, size_max=1.15, lean=5, sink_min=0.03, sink_max=0.1, follow=0.05, tint=0.18),
    )
    wet = DriftPlan(
        name="rush and sedge",
        tier="cover",
        assets=mix(("rush", 3), ("sedge", 3), ("tussock", 1)),
        surfaces=ground,
        density=5,
        spacing=0.22,
        headroom=0.4,
        seed=22,
        rules=[
            LineRule(gate=gate(0.15, 0.4, 1.2, 2.2), line=RUNNEL),
            NoiseRule(gate=gate(0.3, 0.52, 1, 1), size=1.6, detail=3, seed=12),
        ],
        variety=Variety(size_min=0.6, size_max=1.25, lean=8, follow=0.2, tint=0.25),
    )
    herbs = DriftPlan(
        name="willowherb and foxglove",
        tier="cover",
        assets=mix(("willowherb", 4), ("foxglove", 2), ("nettle", 3), ("dock", 2)),
        surfaces=ground,
        density=0.9,
        spacing=0.35,
        headroom=1.0,
        seed=23,
        keep_outs=[KeepOut(of="pieces", clearance=0.02)],
        rules=[
            NoiseRule(gate=gate(0.5, 0.62, 1, 1), size=2.4, detail=3, seed=44),
            SlopeRule(gate=gate(0, 0, 30, 42)),
            NearRule(gate=gate(0, 0, 5, 9), strength=0.8),
        ],
        variety=Variety(size_min=0.75, size_max=1.2, lean=9, follow=0.2, tint=0.25),
    )
    leaves = DriftPlan(
        name="fallen leaves",
        tier="litter",
        assets=mix(("leaves", 3), ("leaves_two", 3), ("leaves_alder", 3), ("twigs", 0.8)),
        surfaces=[*ground, "platform/concrete", "platform/coping", "steps/stone", "track/ballast", "track/sleeper"],
        density=11.0,
        spacing=0.13,
        headroom=0.05,
        seed=16,
        litter=Litter(on=True, carry=1.4, gather=0.9),
        rules=[SlopeRule(gate=gate(0, 0, 40, 58))],
        variety=Variety(size_min=0.8, size_max=1.3, lean=12, follow=1.0, tint=0.4, sink_min=-0.004, sink_max=0.0),
    )
    return [
        ("drift-birch", birch),
        ("drift-alder", alder),
        ("drift-bramble", bramble),
        ("drift-fern", fern),
        ("drift-wet", wet),
        ("drift-herbs", herbs),
        ("drift-grass", grass),
        ("drift-pioneers", pioneers),
        ("drift-stones", stones),
        ("drift-leaves", leaves),
    ]


def _patinas() -> list[tuple[str, Any]]:
    moss = PatinaPlan(
        name="moss",
        order=2,
        amount=0.95,
        finish=Finish(material="moss", scale=0.8, variation=0.35, variation_size=0.7, break_up=0.6),
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
    return [("patina-moss", moss), ("patina-grime", grime)]


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
    return [("touch-1", thin), ("touch-2", clear)]
