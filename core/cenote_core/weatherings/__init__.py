"""Kinds of weathering to start from: one file each, found by being here.

A file declares `WEATHERING`. What an artist does with the patina afterwards is their own affair: it keeps no tie to the
kind it came from.
"""

from __future__ import annotations

import importlib
import pkgutil

from .weathering import Weathering


def _found() -> dict[str, Weathering]:
    """All kinds by the name of their file, in the order of the list."""
    found: dict[str, Weathering] = {}
    for module in pkgutil.iter_modules(__path__):
        made = getattr(importlib.import_module(f"{__name__}.{module.name}"), "WEATHERING", None)
        if isinstance(made, Weathering):
            found[module.name] = made
    return dict(sorted(found.items(), key=lambda entry: entry[1].place))


WEATHERINGS = _found()
