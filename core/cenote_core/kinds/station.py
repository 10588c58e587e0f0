"""Stations: the plate looks from them by itself."""

from __future__ import annotations

from ..delivery.views import add_stations
from ..plan import StationPlan
from .kind import Kind

KINDS_HERE = (Kind(plan=StationPlan, place=90, hand_over=add_stations),)
