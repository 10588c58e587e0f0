"""Bounds on who asks for derived values: whether an answer is still wanted, and how many are computed at once.

Nothing is bounded unless an asker is set. Between two values, and while waiting for one that somebody else is making, the
asker is asked whether to go on; around everything that has to be computed it lends a slot.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from contextvars import ContextVar
from typing import Protocol

LOOKS_EVERY = 0.1
"""Seconds between two looks whether to go on waiting."""


class Asker(Protocol):
    """Whoever wants values, and may cease to."""

    def check(self) -> None:
        """Raises whatever ends the asking, if the answer is not wanted any more or took too long."""

    def slot(self) -> AbstractContextManager[None]:
        """Around computing: waits until there is room for one more."""


_asker: ContextVar[Asker | None] = ContextVar("asker", default=None)
_inside: ContextVar[bool] = ContextVar("inside", default=False)


@contextmanager
def asking(asker: Asker) -> Iterator[None]:
    """Everything asked for within is asked for by `asker`."""
    before, inside = _asker.set(asker), _inside.set(False)
    try:
        yield
    finally:
        _inside.reset(inside)
        _asker.reset(before)


def check() -> None:
    """Go on only if the answer is still wanted."""
    asker = _asker.get()
    if asker is not None:
        asker.check()


@contextmanager
def computing() -> Iterator[None]:
    """Around what has to be computed. What is computed on the way to something else needs no further slot.

    A slot is taken before any lock: whoever holds a lock has one, so that those who wait with a slot are never all there is.
    """
    asker = _asker.get()
    if asker is None or _inside.get():
        check()
        yield
        return
    with asker.slot():
        inside = _inside.set(True)
        try:
            yield
        finally:
            _inside.reset(inside)


@contextmanager
def held(lock: threading.Lock) -> Iterator[None]:
    """A lock held; while it is waited for it is looked whether to go on."""
    while not lock.acquire(timeout=LOOKS_EVERY):
        check()
    try:
        yield
    finally:
        lock.release()
