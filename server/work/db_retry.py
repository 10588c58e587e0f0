"""Going on when the database was restarted: a connection that has died is let go, and what was asked is asked again."""

import time
from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from django.db import InterfaceError, OperationalError, connection

P = ParamSpec("P")
T = TypeVar("T")
PATIENCE = 60.0
"""Seconds that a database which cannot be reached is waited for."""
_PAUSE = 0.5


def steady(ask: Callable[P, T]) -> Callable[P, T]:
    """A function of long work that reads or writes a few rows, and may be called again if that went wrong.

    Within a transaction nothing is tried again: that is for whoever began it.
    """

    @wraps(ask)
    def again(*args: P.args, **kwargs: P.kwargs) -> T:
        until = time.monotonic() + PATIENCE
        while True:
            try:
                return ask(*args, **kwargs)
            except (OperationalError, InterfaceError):
                if connection.in_atomic_block or time.monotonic() > until:
                    raise
                connection.close()
                time.sleep(_PAUSE)

    return again
