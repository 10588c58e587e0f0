"""Kinds of items: their plans, found by being here. Metres, degrees, right-handed, Y up.

A file defines one or several plans derived from `Item` with a `kind` of their own. Sites, storage, API and schema take
them from `KINDS`; what else there is to a kind stands in `cenote_core.kinds`.
"""

from __future__ import annotations

import importlib
import pkgutil
from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from ...base.fields import Item


def _found() -> dict[str, type[Item]]:
    """Plans of all kinds by name. Raises TypeError for two of one name."""
    for module in pkgutil.iter_modules(__path__):
        importlib.import_module(f"{__name__}.{module.name}")
    found: dict[str, type[Item]] = {}
    for plan in Item.__subclasses__():
        name = plan.model_fields["kind"].default
        if name in found:
            raise TypeError(f"two kinds of items are called {name}")
        found[name] = plan
    return dict(sorted(found.items()))


KINDS = _found()
SINGLES = {plan.single: plan for plan in KINDS.values() if plan.single}
"""Kinds of which a site always has one, by its id."""

if TYPE_CHECKING:
    ItemPlan = Item
else:
    ItemPlan = Annotated[reduce(or_, KINDS.values()), Field(discriminator="kind")]
