"""A whole site as one value: its items under their ids."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, TypeVar

from pydantic import Field, TypeAdapter

from ..base.fields import Item, ItemId, PlanModel
from ..base.names import GROUND
from .kinds import KINDS, SINGLES, ItemPlan
from .kinds.decal import DecalPlan
from .kinds.drift import DriftPlan
from .kinds.grass import GrassPlan
from .kinds.ground import GroundPlan
from .kinds.light import LightPlan
from .kinds.patina import PatinaPlan
from .kinds.piece import PiecePlan
from .kinds.station import StationPlan
from .kinds.touch import EditPlan, LinePlan, PlacedPlan, TouchPlan
from .kinds.weather import SpellPlan, WeatherPlan, WeatherState

__all__ = ["GROUND", "SitePlan", "item_adapter"]

P = TypeVar("P", bound=Item)
item_adapter: TypeAdapter[Any] = TypeAdapter(ItemPlan)


class SitePlan(PlanModel):
    """Everything authored on a site. Computation starts from this and nothing else.

    Attributes
    ----------
    items : all items by kind and id; of kinds that a site always has, there is one from the start
    """

    items: dict[str, dict[ItemId, ItemPlan]] = Field(default_factory=dict)

    def model_post_init(self, context: Any) -> None:
        """Make room for every kind."""
        for kind in KINDS:
            self.items.setdefault(kind, {})
        for item_id, plan in SINGLES.items():
            self.of(plan).setdefault(item_id, plan.model_validate({}))

    def of(self, plan: type[P]) -> dict[str, P]:
        """The items of a kind under their ids."""
        return self.items[plan.model_fields["kind"].default]  # type: ignore[return-value]

    def _single(self, plan: type[P]) -> P:
        return self.of(plan)[plan.single]

    @property
    def ground(self) -> GroundPlan:
        """Always there."""
        return self._single(GroundPlan)

    @ground.setter
    def ground(self, plan: GroundPlan) -> None:
        self.put(GroundPlan.single, plan)

    @property
    def light(self) -> LightPlan:
        """Always there."""
        return self._single(LightPlan)

    @light.setter
    def light(self, plan: LightPlan) -> None:
        self.put(LightPlan.single, plan)

    @property
    def weather(self) -> WeatherPlan:
        """Always there."""
        return self._single(WeatherPlan)

    @weather.setter
    def weather(self, plan: WeatherPlan) -> None:
        self.put(WeatherPlan.single, plan)

    @property
    def pieces(self) -> dict[str, PiecePlan]:
        return self.of(PiecePlan)

    @property
    def drifts(self) -> dict[str, DriftPlan]:
        return self.of(DriftPlan)

    @property
    def grasses(self) -> dict[str, GrassPlan]:
        return self.of(GrassPlan)

    @property
    def patinas(self) -> dict[str, PatinaPlan]:
        return self.of(PatinaPlan)

    @property
    def decals(self) -> dict[str, DecalPlan]:
        return self.of(DecalPlan)

    @property
    def spells(self) -> dict[str, SpellPlan]:
        return self.of(SpellPlan)

    @property
    def daylight(self) -> LightPlan:
        """The light as the weather leaves it: clouds closed, the distance paler, the picture exposed for it."""
        light, now = self.light, self.weather
        cloud, haze = max(light.cloud, now.overcast), max(light.haze, now.fog)
        exposure = light.exposure + now.exposure
        return light.model_copy(update={"cloud": cloud, "haze": haze, "exposure": exposure})

    @property
    def stations(self) -> dict[str, StationPlan]:
        return self.of(StationPlan)

    @property
    def touches(self) -> dict[str, TouchPlan]:
        return self.of(TouchPlan)

    @property
    def placed(self) -> dict[str, PlacedPlan]:
        return self.of(PlacedPlan)

    @property
    def lines(self) -> dict[str, LinePlan]:
        return self.of(LinePlan)

    @property
    def edits(self) -> dict[str, EditPlan]:
        return self.of(EditPlan)

    @classmethod
    def from_items(cls, items: Iterable[tuple[str, Any]]) -> SitePlan:
        """Gather (id, item plan) pairs into a site."""
        site = cls()
        for item_id, plan in items:
            site.put(item_id, plan)
        return site

    def put(self, item_id: str, plan: Any) -> None:
        """Add or replace one item."""
        self.items[plan.kind][item_id] = plan

    def with_item(self, item_id: str, plan: Any) -> SitePlan:
        """A copy of the site in which one item is another; the site itself is left as it was."""
        copy = SitePlan.model_construct(items={kind: dict(found) for kind, found in self.items.items()})
        copy.put(item_id, plan)
        return copy

    def plan_of(self, item_id: str) -> Any:
        """The plan of an item of whatever kind; None where there is none."""
        return next((found[item_id] for found in self.items.values() if item_id in found), None)

    def without(self, item_id: str) -> SitePlan:
        """A copy of the site without one item."""
        kept = {kind: {key: p for key, p in found.items() if key != item_id} for kind, found in self.items.items()}
        return SitePlan.model_construct(items=kept)

    def in_spell(self, spell: str) -> SitePlan:
        """The site in one of its spells; as it is where there is no such spell."""
        found = self.spells.get(spell)
        if found is None:
            return self
        state = found.model_dump(include=set(WeatherState.model_fields))
        return self.with_item(WeatherPlan.single, self.weather.model_copy(update={**state, "spell": spell}))

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
