"""Measures: one file each, found by being here.

A file defines its function (closed form or kernel, with its source) and a class derived from `rule.Rule`: settings,
words and how values are had. Nothing else has to be told of it: plans, API, sheets, histograms and explanations take it
from `MEASURES`.
"""

from __future__ import annotations

import importlib
import pkgutil

from .rule import Rule
from .traced import TracedRule


def _found() -> dict[str, type[Rule]]:
    """Rules of all measures by name, in the order of the menu. Raises TypeError for two of one name, or half a one."""
    for module in pkgutil.iter_modules(__path__):
        importlib.import_module(f"{__name__}.{module.name}")
    found: dict[str, type[Rule]] = {}
    for rule in sorted(_rules(), key=lambda rule: rule.about.place):
        name = rule.model_fields["measure"].default
        if name in found:
            raise TypeError(f"two measures are called {name}")
        if rule.values is Rule.values:
            raise TypeError(f"the measure {name} does not say how its values are had")
        if issubclass(rule, TracedRule) and rule.traced is TracedRule.traced:
            raise TypeError(f"the measure {name} does not say what traces it")
        found[name] = rule
    return found


def _rules() -> list[type[Rule]]:
    return [rule for base in (Rule, TracedRule) for rule in base.__subclasses__() if rule is not TracedRule]


MEASURES = _found()
