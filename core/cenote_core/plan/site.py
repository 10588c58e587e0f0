"""A whole site as one value: its items under their ids."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import Field, TypeAdapter

from .fields import ItemId, PlanModel
from .items import (
    DecalPlan,
    DriftPlan,
    GroundPlan,
    ItemPlan,
    LightPlan,
    PatinaPlan,
    PiecePlan,
    StationPlan,
    TouchPlan,
)

GROUND = "ground"
"""The owner id of the ground's surfaces; pieces are owners under their own ids."""

item_adapter: TypeAdapter[Any] = TypeAdapter(ItemPlan)


class SitePlan(PlanModel):
    """Everything authored on a site. Computation starts from this and nothing else."""

    ground: GroundPlan = Field(default_factory=GroundPlan)
    light: LightPlan = Field(default_factory=LightPlan)
    pieces: dict[ItemId, PiecePlan] = Field(default_factory=dict)
    drifts: dict[ItemId, DriftPlan] = Field(default_factory=dict)
    patinas: dict[ItemId, PatinaPlan] = Field(default_factory=dict)
    decals: dict[ItemId, DecalPlan] = Field(default_factory=dict)
    stations: dict[ItemId, StationPlan] = Field(default_factory=dict)
    touches: dict[ItemId, TouchPlan] = Field(default_factory=dict)

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
        else:
            getattr(self, _PLACES[plan.kind])[item_id] = plan

    def with_item(self, item_id: str, plan: Any) -> SitePlan:
        """A copy of the site in which one item is another; the site itself is left as it was."""
        places = {name: dict(getattr(self, name)) for name in _PLACES.values()}
        copy = self.model_copy(update=places)
        copy.put(item_id, plan)
        return copy

    def touches_of(self, target: str) -> list[TouchPlan]:
        """The hand edits of one item, in the order they were made."""
        found = [(touch.order, key, touch) for key, touch in self.touches.items()]
        return [touch for _, _, touch in sorted(found, key=lambda f: f[:2]) if touch.target == target]


_PLACES = {
    "piece": "pieces",
    "drift": "drifts",
    "patina": "patinas",
    "decal": "decals",
    "station": "stations",
    "touch": "touches",
}
