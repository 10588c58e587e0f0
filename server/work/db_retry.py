"""Going on when the database was restarted: a connection that has died is let go, and what was asked is asked again."""

from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from django.db import InterfaceError, OperationalError, connection
from tenacity import RetryCallState, Retrying, retry_if_exception, stop_after_delay, wait_fixed

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
        tries = Retrying(
            retry=retry_if_exception(_may_pass),
            stop=stop_after_delay(PATIENCE),
            wait=wait_fixed(_PAUSE),
            before_sleep=_let_go,
            reraise=True,
        )
        return tries(ask, *args, **kwargs)

    return again


def _may_pass(error: BaseException) -> bool:
    return isinstance(error, OperationalError | InterfaceError) and not connection.in_atomic_block


def _let_go(_: RetryCallState) -> None:
    connection.close()
