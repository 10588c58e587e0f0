"""The typed description of a site: what the artist authored, nothing computed."""

from .drift import Arrangement, AssetShare, Border, DriftPlan, KeepOut, Litter, Match, Tier, Variety
from .grass import GrassPlan
from .ground import Basin, Cut, GroundLayer, GroundPlan, Mound, Pad, Terrace, Water
from .items import (
    DecalPlan,
    Finish,
    ItemPlan,
    LightPlan,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    StationPlan,
    WeatherPlan,
)
from .rules import Gate, Rule, rule_of
from .site import GROUND, SitePlan
from .touches import EditPlan, LinePlan, PlacedPlan, PlacedThing, TouchPlan

__all__ = [
    "GROUND",
    "Arrangement",
    "AssetShare",
    "Basin",
    "Border",
    "Cut",
    "DecalPlan",
    "DriftPlan",
    "EditPlan",
    "Finish",
    "Gate",
    "GrassPlan",
    "GroundLayer",
    "GroundPlan",
    "ItemPlan",
    "KeepOut",
    "LightPlan",
    "LinePlan",
    "Litter",
    "Match",
    "Mound",
    "Pad",
    "PatinaPlan",
    "PatinaUse",
    "PiecePlan",
    "PlacedPlan",
    "PlacedThing",
    "Rule",
    "SitePlan",
    "StationPlan",
    "Terrace",
    "Tier",
    "TouchPlan",
    "Variety",
    "Water",
    "WeatherPlan",
    "rule_of",
]
