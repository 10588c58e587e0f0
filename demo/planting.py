"""What grows at Tarn Halt: trees, ferns, herbs, grass and litter, and where."""

from __future__ import annotations

from typing import Any

from cenote_core.kit.site_grasses import tuft_ids
from cenote_core.measures.height import HeightRule
from cenote_core.measures.line import LineRule
from cenote_core.measures.near import NearRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.measures.water import WaterRule
from cenote_core.plan import AssetShare, DriftPlan, Gate, GrassPlan, KeepOut, Litter, Variety

RUNNEL = [(-32.0, 10.5), (-12.0, 9.2), (0.0, 11.5), (12.0, 9.8), (32.0, 13.5)]
"""The middle of the little water south of the line, x and z."""
POND = (-9.0, 17.0)
"""The middle of the pond beside it."""
_FAR = 1000.0


def gate(a: float, b: float, c: float, d: float) -> Gate:
    """A gate that rises from a to b and falls from c to d."""
    return Gate(rise_start=a, rise_end=b, fall_start=c, fall_end=d)


def _ashore(plan: DriftPlan) -> DriftPlan:
    """A drift that keeps out of the pond and of the runnel."""
    dry = [
        WaterRule(gate=gate(-0.05, 0.15, _FAR, _FAR)),
        LineRule(gate=gate(0.45, 0.75, _FAR, _FAR), line=RUNNEL),
    ]
    return plan.model_copy(update={"rules": [*plan.rules, *dry]})


def _reeds() -> DriftPlan:
    """Rushes that stand in the shallow water of the pond."""
    return DriftPlan(
        name="rushes in the pond",
        tier="cover",
        assets=[AssetShare(asset="rush", weight=3), AssetShare(asset="sedge", weight=1)],
        surfaces=["ground/ground"],
        density=14,
        spacing=0.14,
        headroom=0.4,
        seed=31,
        rules=[
            WaterRule(gate=gate(-1.1, -0.5, 0.1, 0.5)),
            NoiseRule(gate=gate(0.46, 0.58, 1, 1), size=2.2, detail=3, seed=33),
        ],
        variety=Variety(size_min=0.8, size_max=1.5, lean=6, follow=0.0, tint=0.25),
    )


def drifts() -> list[tuple[str, Any]]:
    """All that grows and lies on the site, by key."""
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
        assets=mix(
            *((tuft, 4 / 3) for tuft in tuft_ids("grass-halt")), ("grass_mid", 5), ("grass_low", 2), ("tussock", 0.4)
        ),
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
        ("grass-halt", _halt_grass()),
        ("drift-birch", birch),
        ("drift-alder", _ashore(alder)),
        ("drift-bramble", _ashore(bramble)),
        ("drift-fern", _ashore(fern)),
        ("drift-reeds", _reeds()),
        ("drift-wet", _ashore(wet)),
        ("drift-herbs", _ashore(herbs)),
        ("drift-grass", _ashore(grass)),
        ("drift-pioneers", pioneers),
        ("drift-stones", _ashore(stones)),
        ("drift-leaves", _ashore(leaves)),
    ]


def _halt_grass() -> GrassPlan:
    """The tall grass of the banks: going to seed, straw among the green."""
    return GrassPlan(
        name="halt grass",
        length=0.6,
        blades=46,
        foot=0.2,
        bend=58,
        curl=30,
        dry=0.32,
        flower=0.14,
        head_width=6.5,
        tip_colour="#66743a",
        dry_colour="#a3925c",
        head_colour="#96805c",
        seed=5,
    )
