"""Formats a site is handed over in, one module each, found by being here: `FORMAT` says what the file is called."""

from __future__ import annotations

import importlib
import pkgutil

from .format import Format


def _found() -> tuple[Format, ...]:
    modules = [importlib.import_module(f"{__name__}.{found.name}") for found in pkgutil.iter_modules(__path__)]
    return tuple(module.FORMAT for module in modules if hasattr(module, "FORMAT"))


FORMATS = _found()
