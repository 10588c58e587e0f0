"""What a kind of weathering is: words for the sheet, and the patinas it starts from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..measures.rule import Rule
from ..plan import Finish, PatinaPlan, PatinaUse, rule_of


@dataclass(frozen=True)
class Weathering:
    """A kind of weathering to start from; afterwards it is an ordinary patina to be edited.

    Attributes
    ----------
    title : what it is called
    about : where it comes from and where it sits, in a sentence
    material : its picture in the sheet
    place : its place in the list
    make : the patina on some surfaces, from a seed
    """

    title: str
    about: str
    material: str
    place: int
    make: Callable[[list[str], int], PatinaPlan]


def rule(measure: str, gate: tuple[float, float, float, float], **settings: Any) -> Rule:
    """A rule by the name of its measure: nothing, rising, full, falling, nothing again."""
    names = ("rise_start", "rise_end", "fall_start", "fall_end")
    return rule_of(measure, gate=dict(zip(names, gate, strict=True)), **settings)


def patina(name: str, surfaces: list[str], finish: Finish, *rules: Rule, amount: float = 1.0) -> PatinaPlan:
    """A patina on some surfaces."""
    return PatinaPlan(
        name=name, finish=finish, rules=list(rules), amount=amount, uses=[PatinaUse(surface=ref) for ref in surfaces]
    )
