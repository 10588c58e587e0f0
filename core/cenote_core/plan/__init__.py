"""The typed description of a site: what the artist authored, nothing computed."""

from .items import (
    AssetShare,
    Cut,
    DecalPlan,
    DriftPlan,
    Finish,
    GroundPlan,
    ItemPlan,
    LightPlan,
    Mound,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    StationPlan,
    Terrace,
    TouchPlan,
    Variety,
)
from .rules import Gate, HeightRule, NoiseRule, PaintedRule, Rule, ShelterRule, SlopeRule
from .site import GROUND, SitePlan

__all__ = [
    "GROUND", "AssetShare", "Cut", "DecalPlan", "DriftPlan", "Finish", "Gate", "GroundPlan", "HeightRule",
    "ItemPlan", "LightPlan", "Mound", "NoiseRule", "PaintedRule", "PatinaPlan", "PatinaUse", "PiecePlan",
    "Rule", "ShelterRule", "SitePlan", "SlopeRule", "StationPlan", "Terrace", "TouchPlan", "Variety",
]
