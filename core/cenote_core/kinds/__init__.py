"""Kinds of items, one module each, found by being here. See `kind.py`."""

from __future__ import annotations

import importlib
import pkgutil

from ..plan.kinds import KINDS as PLANS
from ..scene.provided import check_filled
from .kind import Kind, Part


def _found() -> dict[str, Kind]:
    """All kinds by name, in their order. Raises TypeError for one twice, or for a plan that no module speaks of."""
    found: dict[str, Kind] = {}
    for module in pkgutil.iter_modules(__path__):
        for kind in getattr(importlib.import_module(f"{__name__}.{module.name}"), "KINDS_HERE", ()):
            if kind.name in found:
                raise TypeError(f"two modules speak of the kind {kind.name}")
            found[kind.name] = kind
    if set(found) != set(PLANS):
        raise TypeError(f"kinds without a module, or without a plan: {sorted(set(found) ^ set(PLANS))}")
    return dict(sorted(found.items(), key=lambda entry: entry[1].place))


def _parts() -> dict[str, Part]:
    found: dict[str, Part] = {}
    for kind in KINDS.values():
        for name, part in kind.parts.items():
            if name in found:
                raise TypeError(f"two parts are called {name}")
            found[name] = part
    return found


KINDS = _found()
check_filled()
PARTS = _parts()
"""Parts of all kinds by the name they have in addresses."""
