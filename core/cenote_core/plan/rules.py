"""Rules in plans: any of the measures, told apart by its name."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from ..measures import MEASURES
from ..measures.rule import Gate
from ..measures.rule import Rule as AnyRule

if TYPE_CHECKING:
    Rule = AnyRule
else:
    Rule = Annotated[reduce(or_, MEASURES.values()), Field(discriminator="measure")]

__all__ = ["Gate", "Rule", "rule_of"]


def rule_of(measure: str, **settings: Any) -> AnyRule:
    """A rule by the name of its measure; without a gate it has the one new rules start from."""
    rule = MEASURES[measure]
    start = dict(zip(Gate.model_fields, rule.about.start, strict=True))
    return rule.model_validate({"gate": start, **settings})
