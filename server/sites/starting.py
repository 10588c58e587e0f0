"""What a new site holds."""

from typing import Any

from cenote_core.plan import GroundPlan, LightPlan, StationPlan
from cenote_core.plan.stored import written


def starting_items() -> list[tuple[str, dict[str, Any]]]:
    """Ground, light and a first station at eye height."""
    plans = {
        "ground": GroundPlan(amount=0.5),
        "light": LightPlan(),
        "station-1": StationPlan(name="first look", position=(7.0, 2.2, 11.0), target=(0.0, 0.8, 0.0)),
    }
    return [(key, written(plan)) for key, plan in plans.items()]
