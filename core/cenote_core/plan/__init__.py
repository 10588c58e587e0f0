"""The typed description of a site: what the artist authored, nothing computed."""

from .kinds import ItemPlan
from .kinds.beads import BeadsPlan, Region
from .kinds.decal import DecalPlan
from .kinds.drift import Arrangement, AssetShare, Border, DriftPlan, KeepOut, Litter, Match, Tier, Variety
from .kinds.grass import GrassPlan
from .kinds.ground import LIQUID, Basin, Cut, GroundLayer, GroundPlan, Mound, Pad, Terrace, Water
from .kinds.light import LightPlan
from .kinds.patina import Finish, PatinaPlan, PatinaUse
from .kinds.piece import PiecePlan
from .kinds.station import StationPlan
from .kinds.touch import EditPlan, LinePlan, PlacedPlan, PlacedThing, TouchPlan
from .kinds.weather import SpellPlan, WeatherPlan, WeatherState
from .response import RESPONSE, Response
from .rules import Gate, Rule, rule_of
from .site import GROUND, SitePlan

__all__ = [
    "GROUND",
    "LIQUID",
    "RESPONSE",
    "Arrangement",
    "AssetShare",
    "Basin",
    "BeadsPlan",
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
    "Region",
    "Response",
    "Rule",
    "SitePlan",
    "SpellPlan",
    "StationPlan",
    "Terrace",
    "Tier",
    "TouchPlan",
    "Variety",
    "Water",
    "WeatherPlan",
    "WeatherState",
    "rule_of",
]
