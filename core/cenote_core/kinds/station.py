"""Stations: the plate looks from them by itself."""

from __future__ import annotations

from ..plan import StationPlan
from .kind import Kind

KINDS_HERE = (Kind(plan=StationPlan, place=90),)
