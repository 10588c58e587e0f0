"""Measure → gate → amount: what every rule has, and what a measure says of itself."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, GetJsonSchemaHandler, model_validator

from ..base.fields import PlanModel, quantity
from ..mesh.mesh import Points
from .ask import Ask

DEGREES, METRES, HOURS, SHARE = "°", "m", "h", ""
"""Units of measures; a share goes from 0 to 1."""


class Gate(PlanModel):
    """Trapezoid response to a measure: nothing below `rise_start`, full from `rise_end` to `fall_start`,
    nothing past `fall_end`."""

    rise_start: float = Field(ge=-10_000, le=10_000, description="Below this value nothing is let through.")
    rise_end: float = Field(ge=-10_000, le=10_000, description="From this value on everything is let through.")
    fall_start: float = Field(ge=-10_000, le=10_000, description="Up to this value everything is let through.")
    fall_end: float = Field(ge=-10_000, le=10_000, description="Past this value nothing is let through.")

    @model_validator(mode="after")
    def _ordered(self) -> Gate:
        if not self.rise_start <= self.rise_end <= self.fall_start <= self.fall_end:
            raise ValueError("A gate's four values must not decrease from left to right.")
        return self


@dataclass(frozen=True)
class About:
    """How a measure is named and shown; all of it reaches sheet, histogram and explanation from here.

    Attributes
    ----------
    title : in the menu and over the gate
    unit : one of the units above
    says : a sentence for the menu
    noun : what the read-out calls its values ("stands on slopes up to 28°")
    start : a gate for a new rule to start from
    place : its place in the menu, small numbers first
    span : the range a histogram shows; None: what occurs and the gate asks for, from 0 on for distances
    step : the ends of that range lie on whole multiples of this, where it hangs on the site
    distance : is it a distance, of which what is far off hardly matters?
    soft : width of a soft end that a gate with a hard one may be given
    cuts : may a hard gate of it draw a line over a site?
    badge : shown beside the title, with fields in braces: "within {reach} m"
    more : what its details hold beside the strength
    only : kinds of item that may ask for it; none named: all
    body : can it be told from a place and its normal alone, on anything, so also on what is scattered?
    """

    title: str
    unit: str
    says: str
    noun: str
    start: tuple[float, float, float, float]
    place: int
    span: tuple[float, float] | None = None
    step: float = 0.5
    distance: bool = False
    soft: float = 0.4
    cuts: bool = True
    badge: str = ""
    more: str = ""
    only: tuple[Literal["drift", "patina", "ground"], ...] = ()
    body: bool = False


class Rule(PlanModel):
    """A measure through a gate, with strength. Each measure's file derives its own.

    `kept` says whether its values at points may be kept under a hash of the points and of `depends`.
    """

    about: ClassVar[About]
    kept: ClassVar[bool] = True

    if TYPE_CHECKING:
        measure: str

    gate: Gate
    strength: float = quantity(
        1.0, 0.0, 1.0, "", "How far this rule counts: 0 is ignored, 1 is strict.", 0.05, slider=(0, 1, 1)
    )
    active: bool = Field(default=True, description="A rule that is switched off counts for nothing.")

    def depends(self, ask: Ask) -> object:
        """What its values hang on beside the points, the owner and its own settings: something that can be hashed."""
        return ""

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        """(N,) float32 values at points of the owner that is asked about."""
        raise NotImplementedError

    @classmethod
    def __get_pydantic_json_schema__(cls, core_schema: Any, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        schema = handler(core_schema)
        if "about" in vars(cls):
            handler.resolve_ref_schema(schema)["x-measure"] = asdict(cls.about)
        return schema


def choose(kind: str, none: str, most: int, help: str) -> Any:
    """A list of items of a kind, chosen in the sheet; `none` says what it means when none is named."""
    extra: dict[str, Any] = {"choose": kind, "none": none}
    return Field(default_factory=list, max_length=most, description=help, json_schema_extra=extra)
