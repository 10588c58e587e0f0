"""Items that ask for each other in a ring, told from their plans alone."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..errors import CenoteError

ASKING = ("drift", "patina")
"""Kinds whose rules and keep-outs may name one another."""


def _named(value: Any, keys: set[str]) -> Iterator[str]:
    """Keys of items that a part of a plan names; what is switched off names none."""
    if isinstance(value, dict):
        if value.get("active") is False:
            return
        for part in value.values():
            yield from _named(part, keys)
    elif isinstance(value, list):
        for part in value:
            yield from _named(part, keys)
    elif isinstance(value, str) and value in keys:
        yield value


def refuse_rings(plans: dict[str, dict[str, Any]], changed: set[str]) -> None:
    """Raises CenoteError where one of the changed items asks for itself by way of others.

    Parameters
    ----------
    plans : all items of the site as they would be, as JSON
    changed : keys of those that are new or other than before; rings of others are not theirs
    """
    asking = {key: plan for key, plan in plans.items() if plan["kind"] in ASKING}
    keys = set(asking)
    asked = {
        key: sorted(set(_named({k: v for k, v in plan.items() if k != "name"}, keys))) for key, plan in asking.items()
    }
    for start in sorted(changed & keys):
        ring = _back_to(start, asked)
        if ring:
            said = " → ".join(asking[key]["name"] for key in ring)
            raise CenoteError(f"These would ask for each other in a ring: {said}. Take one of those rules out.")


def _back_to(start: str, asked: dict[str, list[str]]) -> list[str]:
    """A way from an item back to itself, itself first and last; empty where there is none."""
    ways, seen = [[start]], set()
    while ways:
        way = ways.pop()
        for other in asked[way[-1]]:
            if other == start:
                return [*way, start]
            if other not in seen:
                seen.add(other)
                ways.append([*way, other])
    return []
