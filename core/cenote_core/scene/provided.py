"""What measures ask for that is worked out by packages above the scene: they say so when they are imported.

A measure of stems needs drifts, and drifts need measures; a drift keeps off the stems of another, which keeps off others
in turn. So a scene, and one drift that asks for another, know functions by name and not the modules they are in; `drifts`
provides them.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

F = TypeVar("F", bound=Callable[..., Any])
_functions: dict[str, Any] = {}


def provides(name: str) -> Callable[[F], F]:
    """Marks the function that answers for a name."""

    def keep(function: F) -> F:
        _functions[name] = function
        return function

    return keep


def provided(name: str) -> Any:
    """The function that answers for a name; LookupError where nobody has been imported who does."""
    if name not in _functions:
        raise LookupError(f"nobody provides {name}: import cenote_core.drifts first")
    return _functions[name]
