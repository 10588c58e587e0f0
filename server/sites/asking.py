"""Requests as askers of derived values: bounded in number and time, given up when nobody listens any more."""

import asyncio
import os
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import Any

from django.conf import settings
from django.core.handlers.asgi import ASGIHandler, ASGIRequest
from django.db import connection
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from cenote.recent import Recent
from cenote.streams import in_blocks
from cenote_core.errors import AskingEnded, CenoteError
from cenote_core.graph.cancellation import LOOKS_EVERY, asking

from .slots import Slots

TAB = "X-Cenote-Tab"
"""Header that tells one open page from another."""


class Busy(AskingEnded, CenoteError):
    """Asked for again a little later it may go well."""


class GivenUp(AskingEnded, CenoteError):
    """Nobody wants the answer any more."""


_newest: Recent[Any] = Recent(2000)
"""The newest request of each page, by what it asks for."""
_slots = Slots(settings.COMPUTING or 2 * max(2, os.cpu_count() or 2))


class RequestAsker:
    """One request. Its database connection goes back to the others before anything is computed."""

    def __init__(self) -> None:
        self.abandoned = threading.Event()
        self._until = time.monotonic() + settings.COMPUTING_SECONDS
        self._name: Any = None
        # Known by a sign of its own: what is kept of the newest requests must not keep the requests themselves.
        self._sign = object()
        self.person: Callable[[], Any] = lambda: None

    def be_newest(self, name: Any) -> None:
        """From now on only the newest request of this name goes on."""
        self._name = name
        _newest.set(name, self._sign)

    def check(self) -> None:
        if self.abandoned.is_set():
            raise GivenUp("Whoever asked for this has gone.")
        if self._name is not None and _newest.get(self._name, self._sign) is not self._sign:
            raise GivenUp("A newer one was asked for.")
        if time.monotonic() > self._until:
            raise Busy(
                f"This takes longer than {settings.COMPUTING_SECONDS} seconds. What is done so far is kept: it is asked for "
                "again, or ask for less at once."
            )

    @contextmanager
    def slot(self) -> Iterator[None]:
        person = self.person()
        let_go()
        until = time.monotonic() + settings.COMPUTING_WAIT_SECONDS
        while not _slots.acquire(person, LOOKS_EVERY):
            self.check()
            if time.monotonic() > until:
                raise Busy("The server is computing other things just now. It is asked again in a moment.")
        try:
            self.check()
            _note_use()
            yield
        finally:
            _note_use()
            _slots.release(person)


def _note_use() -> None:
    """Something is computed for somebody now: what is made ahead, in another process, makes way."""
    with suppress(OSError):
        settings.IN_USE.touch()


def idle_for() -> float:
    """Seconds since something was computed for somebody."""
    return time.time() - settings.IN_USE.stat().st_mtime if settings.IN_USE.exists() else float("inf")


def let_go() -> None:
    """Give the database connection back, so that computing keeps nobody from reading and writing."""
    if not connection.in_atomic_block:
        connection.close()


class AskingHandler(ASGIHandler):
    """Serves requests as ASGI does, each as an asker, which hears it when the page that asked has gone.

    No middleware could: django runs one that may run either way as its neighbours run, and ours are synchronous.
    """

    async def get_response_async(self, request: ASGIRequest) -> HttpResponseBase:
        """The answer to a request; what it computes stops at the next step once nobody waits for it any more."""
        request.asker = RequestAsker()
        going = asyncio.ensure_future(super().get_response_async(request))
        try:
            return in_blocks(await asyncio.shield(going))
        except asyncio.CancelledError:
            # The thread it computes in cannot be ended from outside; it looks here between two steps.
            request.asker.abandoned.set()
            await going
            raise


class Asking:
    """Middleware within the thread of a request: what it asks for, it asks for as that request."""

    def __init__(self, get_response: Callable[[HttpRequest], Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> Any:
        if not hasattr(request, "asker"):
            # Not served by ASGI: nobody tells when whoever asked has gone.
            request.asker = RequestAsker()
        request.asker.person = lambda: request.user.pk
        with asking(request.asker):
            return self.get_response(request)
