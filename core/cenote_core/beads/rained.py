"""Drops and runs that rain leaves on panes by itself, without anybody laying them there."""

from __future__ import annotations

from ..measures.rain import RainRule
from ..plan import BeadsPlan, Gate, PatinaUse, WeatherState

KEY = "rain-on-panes"
"""What these beads are called where beads go by keys."""
PANES = ("glass", "clear_glass")
"""Materials on which rain stands in drops that are seen, and runs."""
_REACHED = Gate(rise_start=0.0, rise_end=0.12, fall_start=2.0, fall_end=3.0)
_SIZE = 1.9
"""Millimetres of the larger drops."""
_SECONDS, _EACH = 2.0, 0.25
"""Seconds that drops have run for in a drizzle, and what each mm/h adds."""
_LONGEST = 8.0


def on_panes(now: WeatherState, surfaces: list[str]) -> BeadsPlan | None:
    """The beads that rain lays on some surfaces of glass; None while it does not rain, or where there are none."""
    if now.rain <= 0 or not surfaces:
        return None
    rule = RainRule(toward=now.wind_from, wind=now.wind, gusts=now.gusts, gate=_REACHED)
    runs = min(_LONGEST, _SECONDS + _EACH * now.rain)
    uses = [PatinaUse(surface=ref) for ref in surfaces]
    return BeadsPlan(name="rain on panes", size=_SIZE, crowded=0.45, between=0.4, runs=runs, rules=[rule], uses=uses)
