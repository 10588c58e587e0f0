"""Requests as askers of derived values: bounded in number and time, given up when nobody listens any more."""

import asyncio
import os
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.conf import settings
from django.db import connection
from django.http import HttpRequest

from cenote.recent import Recent
from cenote_core.errors import AskingEnded, CenoteError
from cenote_core.graph.asking import LOOKS_EVERY, asking

TAB = "X-Cenote-Tab"
"""Header that tells one open page from another."""


class Busy(AskingEnded, CenoteError):
    """Asked for again a little later it may go well."""


class GivenUp(AskingEnded, CenoteError):
    """Nobody wants the answer any more."""


_newest: Recent[Any] = Recent(2000)
"""The newest request of each page, by what it asks for."""
_slots = threading.BoundedSemaphore(settings.COMPUTING or max(2, os.cpu_count() or 2))


class RequestAsker:
    """One request. Its database connection goes back to the others before anything is computed."""

    def __init__(self) -> None:
        self.abandoned = threading.Event()
        self._until = time.monotonic() + settings.COMPUTING_SECONDS
        self._name: Any = None

    def be_newest(self, name: Any) -> None:
        """From now on only the newest request of this name goes on."""
        self._name = name
        _newest.set(name, self)

    def check(self) -> None:
        if self.abandoned.is_set():
            raise GivenUp("Whoever asked for this has gone.")
        if self._name is not None and _newest.get(self._name, self) is not self:
            raise GivenUp("A newer one was asked for.")
        if time.monotonic() > self._until:
            raise Busy(
                f"This takes longer than {settings.COMPUTING_SECONDS} seconds. What is done so far is kept: it is asked for "
                "again, or ask for less at once."
            )

    @contextmanager
    def slot(self) -> Iterator[None]:
        let_go()
        until = time.monotonic() + settings.COMPUTING_WAIT_SECONDS
        while not _slots.acquire(timeout=LOOKS_EVERY):
            self.check()
            if time.monotonic() > until:
                raise Busy("The server is computing for others just now. It is asked again in a moment.")
        try:
            self.check()
            yield
        finally:
            _slots.release()


def let_go() -> None:
    """Give the database connection back, so that computing keeps nobody from reading and writing."""
    if not connection.in_atomic_block:
        connection.close()


class Bounded:
    """Middleware: every request asks as itself, and stops when whoever asked has gone."""

    sync_capable = async_capable = True

    def __init__(self, get_response):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest):
        request.asker = RequestAsker()
        if iscoroutinefunction(self):
            return self._until_gone(request)
        return self.get_response(request)

    async def _until_gone(self, request: HttpRequest):
        going = asyncio.ensure_future(self.get_response(request))
        try:
            return await asyncio.shield(going)
        except asyncio.CancelledError:
            # The thread it computes in cannot be ended from outside; it looks here between two steps.
            request.asker.abandoned.set()
            await going
            raise


class Asking:
    """Middleware within the thread of a request: what it asks for, it asks for as that request."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request: HttpRequest):
        with asking(request.asker):
            return self.get_response(request)
