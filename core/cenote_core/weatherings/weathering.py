"""What a kind of weathering is: words for the sheet, the patina it starts from, and the dials that mean something for it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..measures.rule import Rule
from ..plan import Finish, PatinaPlan, PatinaUse, rule_of


@dataclass(frozen=True)
class Sets:
    """A number of a patina that a dial turns: `times` the dial's value, `plus` something.

    Attributes
    ----------
    at : where it stands, by names with dots; what is a rule's own stands behind its measure: "rain:gate.rise_end"
    """

    at: str
    times: float = 1.0
    plus: float = 0.0


@dataclass(frozen=True)
class Dial:
    """One number that means something for a kind, and all numbers of the patina it turns; the first tells its value."""

    title: str
    says: str
    unit: str
    low: float
    high: float
    sets: tuple[Sets, ...]


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
    pace : years until it covers two thirds of where it gathers best
    dials : beside amount and years
    """

    title: str
    about: str
    material: str
    place: int
    make: Callable[[list[str], int], PatinaPlan]
    pace: float
    dials: tuple[Dial, ...]

    @property
    def tint(self) -> str:
        """The tint of its picture in the list."""
        return self.make([], 0).finish.tint

    def patina(self, key: str, surfaces: list[str], seed: int) -> PatinaPlan:
        """The patina it starts as, at its own pace."""
        return self.make(surfaces, seed).model_copy(update={"pace": self.pace, "weathering": key})


def rule(measure: str, gate: tuple[float, float, float, float], **settings: Any) -> Rule:
    """A rule by the name of its measure: nothing, rising, full, falling, nothing again."""
    names = ("rise_start", "rise_end", "fall_start", "fall_end")
    return rule_of(measure, gate=dict(zip(names, gate, strict=True)), **settings)


def patina(name: str, surfaces: list[str], finish: Finish, *rules: Rule, amount: float = 1.0) -> PatinaPlan:
    """A patina on some surfaces."""
    return PatinaPlan(
        name=name, finish=finish, rules=list(rules), amount=amount, uses=[PatinaUse(surface=ref) for ref in surfaces]
    )


def thick(high: float) -> Dial:
    """How thick it lies."""
    return Dial("thickness", "How thick it lies where it covers wholly.", "mm", 0, high, (Sets("finish.thickness"),))


def patches(low: float, high: float) -> Dial:
    """Width of a patch."""
    return Dial("patches", "Width of a patch of it.", "m", low, high, (Sets("noise:size"),))


def share(most: float = 0.8) -> Dial:
    """How much of the noise it takes: the lower the more."""
    sets = (Sets("noise:gate.rise_start"), Sets("noise:gate.rise_end", 1.0, 0.28))
    return Dial("sparseness", "From close to scattered.", "", 0.0, most - 0.1, sets)


RAGGED = Dial(
    "ragged edge", "How far its own relief decides where its edge runs.", "", 0, 1, (Sets("finish.break_up"),)
)
HOLLOWS = Dial(
    "hollows first", "How far it comes to joints and hollows before faces.", "", 0, 1, (Sets("finish.fill"),)
)
TOPS = Dial(
    "tops – hollows first", "Below 0 it takes what stands out of the relief first, above 0 its hollows.", "", -1, 1,
    (Sets("finish.fill"),),
)  # fmt: skip
STAINS = Dial(
    "lies on – stains", "0 lies on top and hides, 1 only colours what is beneath.", "", 0, 1, (Sets("finish.stain"),)
)
