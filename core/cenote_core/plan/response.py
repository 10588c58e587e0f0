"""How a thing answers to the weather: by what it is made of, unless it says otherwise itself."""

from __future__ import annotations

from pydantic import Field

from ..base.fields import PlanModel


class Response(PlanModel):
    """What water, snow and frost do to something."""

    soaks: float | None = Field(
        default=None,
        ge=0.0,
        le=1.0,
        description="How far it takes water up: 0 only shines in the wet, 1 darkens like a sponge. Nothing: as its material does.",
        json_schema_extra={"unit": "", "step": 0.05, "slider": [0, 1, 1]},
    )
    takes_snow: bool = Field(default=True, description="Snow lies on it; not on what is warm or swept.")
    takes_frost: bool = Field(default=True, description="Frost forms on it; not on what is warm.")


RESPONSE: set[str] = set(Response.model_fields)
"""Settings on which nothing hangs but how the weather shows: neither where a thing lies nor its shape."""
