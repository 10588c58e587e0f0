"""Plans as they are stored: with the number of the schema they were written under, and brought up to date when read.

Whoever renames or removes a field, or changes what one means, raises `SCHEMA` and adds the step from the number before
to `STEPS`: a pure function from the stored dict to the next one's. Steps are never changed afterwards, for plans of every
age lie in databases and in their histories. `core_tests/fixtures` keeps plans of every schema, and a test reads them all.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from ..errors import CenoteError
from .site import item_adapter

Stored = dict[str, Any]


def _with_fewer_ground_points(plan: Stored) -> Stored:
    """From 1 to 2: a ground holds a quarter of the points it did; a larger one gets a coarser cell."""
    if plan.get("kind") != "ground":
        return plan
    width, depth, cell = (
        float(plan.get(name, usual)) for name, usual in (("width", 40), ("depth", 40), ("cell", 0.25))
    )
    if (width / cell + 1) * (depth / cell + 1) <= 2048 * 2048:
        return plan
    return {**plan, "cell": math.ceil(100 * math.sqrt(width * depth) / 2040) / 100}


STEPS: tuple[Callable[[Stored], Stored], ...] = (_with_fewer_ground_points,)
"""From schema n to n + 1, the first from 1 to 2; each is given a plan of any kind, without its schema number."""
SCHEMA = len(STEPS) + 1
_MARK = "schema"


def written(plan: Any) -> Stored:
    """An item's plan as it is stored."""
    return {_MARK: SCHEMA, **plan.model_dump(mode="json")}


def upgraded(stored: Stored) -> Stored:
    """A stored plan under today's schema, without its number; one that is of today is given back as it is.

    Raises
    ------
    CenoteError for a plan of a later schema than this program knows
    """
    number = stored.get(_MARK, 1)
    if not isinstance(number, int) or not 1 <= number <= SCHEMA:
        raise CenoteError("This site was saved by a newer version of Cenote. Open it with that one.")
    plan = {name: value for name, value in stored.items() if name != _MARK}
    for step in STEPS[number - 1 :]:
        plan = step(plan)
    return plan


def read(stored: Stored) -> Any:
    """The item's plan, brought up to date and checked.

    Raises
    ------
    CenoteError for what no step can bring up to date
    """
    try:
        return item_adapter.validate_python(upgraded(stored))
    except ValidationError as error:
        name = str(stored.get("name", "an item"))[:80]
        raise CenoteError(
            f"‘{name}’ is stored in a way this version of Cenote cannot read. Undo its last change, or take it out."
        ) from error
