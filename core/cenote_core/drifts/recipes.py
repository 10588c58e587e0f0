"""Recipes: several drifts with sensible rules at once, each then an ordinary drift to be edited."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ..measures.aspect import AspectRule
from ..measures.edge import EdgeRule
from ..measures.hollow import HollowRule
from ..measures.near import NearRule
from ..measures.noise import NoiseRule
from ..measures.path import PathRule
from ..measures.shelter import ShelterRule
from ..measures.slope import SlopeRule
from ..measures.stems import StemsRule
from ..plan import AssetShare, DriftPlan, Gate, GroundPlan, KeepOut, Litter, Rule, Variety


@dataclass(frozen=True)
class Recipe:
    """What a recipe is called, what it is for, and how its drifts are made from surfaces, seed and ground."""

    title: str
    about: str
    make: Callable[[list[str], int, GroundPlan], list[DriftPlan]]


def _gate(a: float, b: float, c: float, d: float) -> Gate:
    return Gate(rise_start=a, rise_end=b, fall_start=c, fall_end=d)


def _mix(*shares: tuple[str, float]) -> list[AssetShare]:
    return [AssetShare(asset=a, weight=w) for a, w in shares]


def _slope(full: float, end: float) -> SlopeRule:
    return SlopeRule(gate=_gate(0, 0, full, end))


def _bank(full: float, end: float) -> SlopeRule:
    """A slope that is one: level ground faces nowhere, so that a rule for where it faces does not keep off it."""
    return SlopeRule(gate=_gate(4, 10, full, end))


def _patches(size: float, seed: int, start: float = 0.38, full: float = 0.58) -> NoiseRule:
    return NoiseRule(gate=_gate(start, full, 1, 1), size=size, detail=3, seed=seed)


_OFF_PIECES = KeepOut(of="pieces", clearance=0.03)
_OFF_PATHS = KeepOut(of="paths", clearance=0.0)


def _drift(
    name: str, tier: str, mix: list[AssetShare], surfaces: list[str], rules: Sequence[Rule], seed: int, **more: object
) -> DriftPlan:
    # Litter lies on paths too; what grows does not stand up to being walked on.
    clear = [_OFF_PIECES] if tier == "litter" else [_OFF_PIECES, _OFF_PATHS]
    settings = {"keep_outs": clear, "headroom": 0.4, **more}
    return DriftPlan.model_validate(
        {
            "name": name,
            "tier": tier,
            "assets": mix,
            "surfaces": surfaces,
            "rules": list(rules),
            "seed": seed,
            **settings,
        }
    )


def _north_bank(on: list[str], seed: int, ground: GroundPlan) -> list[DriftPlan]:
    shade = AspectRule(gate=_gate(0, 0, 70, 130), toward=0, strength=0.85)
    ferns = _mix(("fern_full", 4), ("fern_other", 3), ("fern_young", 3))
    fern_look = Variety(size_min=0.6, size_max=1.25, lean=10, follow=0.4, tint=0.25)
    low = Variety(size_min=0.7, size_max=1.3, lean=8, follow=0.6, tint=0.25)
    wet = HollowRule(gate=_gate(-50, -50, 0.0, 0.25), reach=2.5, strength=0.8)
    return [
        _drift("ferns in the shade", "cover", ferns, on, [shade, _patches(3, seed + 1), _bank(45, 58)], seed,
               density=2.6, spacing=0.42, variety=fern_look),
        _drift("sedge in hollows", "cover", _mix(("sedge", 4), ("rush", 1)), on, [shade, wet, _slope(30, 42)], seed + 2,
               density=6, spacing=0.24, variety=low),
        _drift("ivy and nettle", "cover", _mix(("ivy", 4), ("nettle", 2)), on,
               [shade, _patches(2, seed + 3, 0.5, 0.65), _bank(50, 65)], seed + 4, density=1.8, spacing=0.4, variety=low),
    ]  # fmt: skip


def _gravel_yard(on: list[str], seed: int, ground: GroundPlan) -> list[DriftPlan]:
    by_walls = NearRule(gate=_gate(-1, -1, 0.5, 1.6), strength=0.9)
    flat = _slope(20, 32)
    sparse = Variety(size_min=0.5, size_max=1.15, lean=14, follow=0.3, tint=0.3)
    stone = Variety(size_min=0.5, size_max=1.5, size_bias=-0.5, lean=35, sink_min=0.005, sink_max=0.03, follow=0.8)
    return [
        _drift("weeds by the walls", "cover", _mix(("dock", 2), ("nettle", 2), ("willowherb", 1)), on, [by_walls, flat],
               seed, density=1.6, spacing=0.35, variety=sparse),
        _drift("grass in the gravel", "cover", _mix(("grass_low", 5), ("dandelion", 2), ("clover", 1)), on,
               [_patches(1.4, seed + 1, 0.45, 0.68), flat], seed + 2, density=3, spacing=0.18, variety=sparse),
        _drift("loose stones", "litter", _mix(("stone_small", 8), ("stone_flat", 1), ("stone_broken", 1)), on,
               [_patches(2.5, seed + 3), flat], seed + 4, density=2.2, spacing=0.16, variety=stone),
    ]  # fmt: skip


def _path_edge(on: list[str], seed: int, ground: GroundPlan) -> list[DriftPlan]:
    """Along the paths of the ground, wherever they are moved, or along the edge of the surfaces where there is none."""
    kind = PathRule if ground.paths() else EdgeRule

    def beside(start: float, full: float, fall: float, end: float) -> Rule:
        return kind(gate=_gate(start, full, fall, end))

    look = Variety(size_min=0.6, size_max=1.25, lean=10, follow=0.35, tint=0.3)
    return [
        _drift("short grass by the path", "cover", _mix(("grass_low", 6), ("clover", 2), ("dandelion", 1)), on,
               [beside(-0.05, 0.15, 0.7, 1.3), _slope(35, 48)], seed, density=16, spacing=0.15, variety=look),
        _drift("flowers by the path", "cover", _mix(("oxeye", 4), ("foxglove", 1), ("dandelion", 2)), on,
               [beside(0.15, 0.5, 1.4, 2.4), _patches(1.5, seed + 1, 0.45, 0.62)], seed + 2, density=2.2, spacing=0.3,
               variety=look),
        _drift("tall grass behind", "cover", _mix(("grass_tall", 5), ("grass_mid", 4), ("tussock", 1)), on,
               [beside(0.7, 1.6, 5, 7), _patches(2.2, seed + 3, 0.25, 0.5), _slope(38, 52)], seed + 4, density=13,
               spacing=0.17, variety=look),
    ]  # fmt: skip


def _wood_margin(on: list[str], seed: int, ground: GroundPlan) -> list[DriftPlan]:
    trees = _mix(
        ("birch_tall", 3), ("birch_mid", 3), ("birch_young", 3), ("alder_tall", 2), ("alder_mid", 2), ("rowan_grown", 1)
    )
    stand = Variety(size_min=0.75, size_max=1.2, lean=4, sink_min=0.03, sink_max=0.1, follow=0.05, tint=0.2)
    low = Variety(size_min=0.6, size_max=1.25, lean=10, follow=0.4, tint=0.25)
    off = [StemsRule(gate=_gate(0.25, 0.6, 999, 999))]
    return [
        _drift("trees", "canopy", trees, on, [_patches(10, seed, 0.4, 0.55), _slope(34, 46)], seed, density=0.1,
               spacing=2.2, headroom=8, variety=stand, keep_outs=[KeepOut(of="pieces", clearance=0.3), KeepOut(of="paths", clearance=0.4)]),
        _drift("hazel and bramble", "shrub", _mix(("hazel_grown", 2), ("hazel_young", 3), ("bramble", 4)), on,
               [_patches(5, seed + 1, 0.46, 0.6), _slope(40, 54), *off], seed + 2, density=0.25, spacing=1.1, headroom=2,
               variety=low),
        _drift("bracken", "cover", _mix(("bracken", 4), ("bracken_low", 2), ("fern_other", 1)), on,
               [_patches(4, seed + 3, 0.45, 0.6), _slope(42, 55), *off], seed + 4, density=1.4, spacing=0.5, variety=low),
        _drift("woodland grass", "cover", _mix(("grass_mid", 5), ("grass_tall", 2), ("sedge", 1)), on,
               [_patches(2.5, seed + 5, 0.3, 0.55), _slope(40, 55)], seed + 6, density=12, spacing=0.17, variety=low),
        _drift("fallen leaves and twigs", "litter", _mix(("leaves", 3), ("leaves_two", 3), ("leaves_alder", 3), ("leaves_rowan", 1), ("twigs", 1)),
               on, [_slope(40, 58)], seed + 7, density=9, spacing=0.16, headroom=0.05, litter=Litter(on=True),
               variety=Variety(size_min=0.8, size_max=1.3, lean=12, follow=1.0, tint=0.4, sink_min=-0.004, sink_max=0.0)),
    ]  # fmt: skip


def _meadow(on: list[str], seed: int, ground: GroundPlan) -> list[DriftPlan]:
    look = Variety(size_min=0.65, size_max=1.3, lean=10, follow=0.35, tint=0.35)
    return [
        _drift("meadow grass", "cover", _mix(("grass_tall", 4), ("grass_mid", 5), ("grass_low", 2)), on,
               [_slope(38, 52), _patches(2.2, seed, 0.18, 0.5)], seed, density=16, spacing=0.15, variety=look),
        _drift("meadow flowers", "cover", _mix(("oxeye", 4), ("clover", 3), ("dandelion", 2)), on,
               [_slope(32, 45), _patches(3, seed + 1, 0.5, 0.66)], seed + 2, density=2.5, spacing=0.25, variety=look),
        _drift("stones in the meadow", "litter", _mix(("stone_round", 2), ("stone_flat", 2), ("stone_broken", 2)), on,
               [_patches(6, seed + 3, 0.55, 0.75), ShelterRule(gate=_gate(0, 0, 1, 1), strength=0.0)], seed + 4,
               density=0.12, spacing=0.6,
               variety=Variety(size_min=0.5, size_max=1.8, size_bias=-0.6, lean=35, sink_min=0.02, sink_max=0.07, follow=0.7)),
    ]  # fmt: skip


RECIPES: dict[str, Recipe] = {
    "north_bank": Recipe("Damp north bank", "Ferns, sedge, ivy and nettle where it faces north.", _north_bank),
    "gravel_yard": Recipe("Gravel yard", "Weeds at the walls, grass in the gravel, loose stones.", _gravel_yard),
    "path_edge": Recipe("Path edge", "Short grass, flowers and tall grass in bands along a path.", _path_edge),
    "wood_margin": Recipe("Wood margin", "Trees, hazel, bracken, grass, and the leaves they shed.", _wood_margin),
    "meadow": Recipe("Rough meadow", "Mixed grass with flowers and a few stones.", _meadow),
}
