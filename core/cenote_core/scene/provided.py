"""What measures ask for that is worked out by packages above the scene: openings here, filled there on import.

A measure of stems needs drifts, and drifts need measures; a drift keeps off the stems of another, which keeps off others
in turn. So the scene declares what it asks for, and the package that answers fills the opening when it is imported.
`cenote_core.kinds`, which knows all packages, sees to it that none stays open: what is missing is found when the program
starts and not when somebody draws a rule.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from ..graph.derived import Ref

F = TypeVar("F", bound=Callable[..., Any])


class Opening:
    """Something asked for below the package that works it out."""

    def __init__(self, what: str) -> None:
        self.what = what
        self._function: Any = None
        _OPENINGS.append(self)

    def fills(self, function: F) -> F:
        """Marks the function that answers; TypeError where there is one already."""
        if self._function is not None:
            raise TypeError(f"two functions answer for {self.what}")
        self._function = function
        return function

    @property
    def filled(self) -> bool:
        """Has somebody been imported who answers?"""
        return self._function is not None

    @property
    def answering(self) -> Any:
        """The function that answers; LookupError where nobody does."""
        if self._function is None:
            raise LookupError(f"nobody answers for {self.what}: import cenote_core.kinds first")
        return self._function

    def ref(self, *needs: Any) -> Ref[Any]:
        """The answer as a derived value, without making it."""
        found: Ref[Any] = self.answering.ref(*needs)
        return found


_OPENINGS: list[Opening] = []

STANDING_BODIES = Opening("the bodies of what stands of drifts")
RUNNING_SHORES = Opening("the shores of running water")
PATINA_COVER = Opening("the cover of a patina")
INSTANCES = Opening("the instances of a drift")
DAMP = Opening("how wet places are")


def check_filled() -> None:
    """TypeError where something is asked for that nobody works out."""
    missing = [opening.what for opening in _OPENINGS if not opening.filled]
    if missing:
        raise TypeError(f"nobody works out {', '.join(missing)}")
