"""A whole site as one value: its items under their ids."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import Field, TypeAdapter

from ..base.fields import ItemId, PlanModel
from ..base.names import GROUND
from .drift import DriftPlan
from .grass import GrassPlan
from .ground import GroundPlan
from .items import DecalPlan, ItemPlan, LightPlan, PatinaPlan, PiecePlan, StationPlan, WeatherPlan
from .touches import EditPlan, LinePlan, PlacedPlan, TouchPlan

__all__ = ["GROUND", "SitePlan", "item_adapter"]

item_adapter: TypeAdapter[Any] = TypeAdapter(ItemPlan)


class SitePlan(PlanModel):
    """Everything authored on a site. Computation starts from this and nothing else."""

    ground: GroundPlan = Field(default_factory=GroundPlan)
    light: LightPlan = Field(default_factory=LightPlan)
    weather: WeatherPlan = Field(default_factory=WeatherPlan)
    pieces: dict[ItemId, PiecePlan] = Field(default_factory=dict)
    drifts: dict[ItemId, DriftPlan] = Field(default_factory=dict)
    grasses: dict[ItemId, GrassPlan] = Field(default_factory=dict)
    patinas: dict[ItemId, PatinaPlan] = Field(default_factory=dict)
    decals: dict[ItemId, DecalPlan] = Field(default_factory=dict)
    stations: dict[ItemId, StationPlan] = Field(default_factory=dict)
    touches: dict[ItemId, TouchPlan] = Field(default_factory=dict)
    placed: dict[ItemId, PlacedPlan] = Field(default_factory=dict)
    lines: dict[ItemId, LinePlan] = Field(default_factory=dict)
    edits: dict[ItemId, EditPlan] = Field(default_factory=dict)

    @classmethod
    def from_items(cls, items: Iterable[tuple[str, Any]]) -> SitePlan:
        """Gather (id, item plan) pairs into a site."""
        site = cls()
        for item_id, plan in items:
            site.put(item_id, plan)
        return site

    def put(self, item_id: str, plan: Any) -> None:
        """Add or replace one item."""
        if isinstance(plan, GroundPlan):
            self.ground = plan
        elif isinstance(plan, LightPlan):
            self.light = plan
        elif isinstance(plan, WeatherPlan):
            self.weather = plan
        else:
            getattr(self, _PLACES[plan.kind])[item_id] = plan

    def with_item(self, item_id: str, plan: Any) -> SitePlan:
        """A copy of the site in which one item is another; the site itself is left as it was."""
        places = {name: dict(getattr(self, name)) for name in _PLACES.values()}
        copy = self.model_copy(update=places)
        copy.put(item_id, plan)
        return copy

    def touches_of(self, target: str) -> list[TouchPlan]:
        """The strokes on one item, in the order they were made."""
        return _of(self.touches, target)

    def placed_of(self, target: str) -> list[tuple[str, PlacedPlan]]:
        """What was set down by hand for a drift, in order, with its keys."""
        return _keyed(self.placed, target)

    def lines_of(self, target: str) -> list[tuple[str, LinePlan]]:
        """The lines a drift is set along, in order, with their keys."""
        return _keyed(self.lines, target)

    def edits_of(self, target: str) -> list[EditPlan]:
        """The changes to single instances of a drift, in order."""
        return _of(self.edits, target)


def _keyed(items: dict[str, Any], target: str) -> list[tuple[str, Any]]:
    found = [(item.order, key, item) for key, item in items.items() if item.target == target and item.visible]
    return [(key, item) for _, key, item in sorted(found, key=lambda f: f[:2])]


def _of(items: dict[str, Any], target: str) -> list[Any]:
    return [item for _, item in _keyed(items, target)]


_PLACES = {
    "piece": "pieces",
    "drift": "drifts",
    "grass": "grasses",
    "patina": "patinas",
    "decal": "decals",
    "station": "stations",
    "touch": "touches",
    "placed": "placed",
    "line": "lines",
    "edit": "edits",
}
