"""How a setting is declared: once, with unit, range, default and a sentence of help.

The same declaration becomes validation, the API's schema, the generated TypeScript types and the sheet's field.
"""

from __future__ import annotations

from typing import Annotated, Any, ClassVar

from pydantic import BaseModel, ConfigDict, Field


class PlanModel(BaseModel):
    """Base of all plan models: no unknown fields, no infinities, no NaN."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, validate_default=True)


def quantity(
    default: float,
    low: float,
    high: float,
    unit: str,
    help: str,
    step: float | None = None,
    label: str = "",
    slider: tuple[float, float, float] | None = None,
    bearing: bool = False,
    section: str = "",
    gauge: tuple[str, float, str] | None = None,
) -> Any:
    """A number with a unit, a range and a sentence of help.

    Parameters
    ----------
    label : what a sheet calls it, where it is not called by its field's name
    slider : the useful stretch for dragging, and how much finer its lower end is (1: even)
    bearing : is it a direction of the compass?
    section : under what a sheet lists it, where it is listed by itself
    gauge : as a column on a card: in a word, the value that fills it, and the field that is taken off (or none)
    """
    extra: dict[str, Any] = {"unit": unit}
    more = {
        "step": step,
        "label": label or None,
        "slider": slider,
        "bearing": bearing or None,
        "section": section or None,
        "gauge": gauge,
    }
    extra |= {name: value for name, value in more.items() if value is not None}
    return Field(default=default, ge=low, le=high, description=help, json_schema_extra=extra)


def seed_field() -> Any:
    """The seed of whatever is random in an item."""
    return Field(default=1, ge=0, le=999_999, description="Another number gives another arrangement.")


Name = Annotated[str, Field(min_length=1, max_length=80, description="What this item is called.")]
Coordinate = Annotated[float, Field(ge=-100_000, le=100_000)]
Point3 = tuple[Coordinate, Coordinate, Coordinate]
Point2 = tuple[Coordinate, Coordinate]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$", description="Colour as written on the web, sRGB.")]
ItemId = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9_.-]+$")]
SurfaceRef = Annotated[
    str,
    Field(
        pattern=r"^[A-Za-z0-9_.-]{1,64}/[A-Za-z0-9_. -]{1,64}$",
        description="A surface: the ground or a piece, and its material slot.",
    ),
]


class Item(PlanModel):
    """What every authored item has."""

    single: ClassVar[str] = ""
    """Of a kind of which a site always has one: its id."""
    name: Name
    note: str = Field(default="", max_length=2000, description="Anything worth remembering about this item.")
    visible: bool = Field(default=True, description="Shown in the plate, in proofs and in hand-overs.")
    locked: bool = Field(default=False, description="Protected from changes in the plate.")


PRESENTED: set[str] = set(Item.model_fields)
"""Settings that say how an item is listed and shown: nothing that is computed hangs on them."""


def in_sections(schema: dict[str, Any], model: type[BaseModel]) -> None:
    """For a model whose sheet is listed by itself: its schema says which numbers stand under what, in their order."""
    sections: dict[str, list[str]] = {}
    for name, field in model.model_fields.items():
        extra = field.json_schema_extra
        if isinstance(extra, dict) and isinstance(title := extra.get("section"), str):
            sections.setdefault(title, []).append(name)
    schema["sections"] = [[title, names] for title, names in sections.items()]
