"""Turns what goes wrong outside a view into a sentence."""

import errno
import json
import logging
from collections.abc import Callable

from django.core.exceptions import BadRequest, DisallowedHost, RequestDataTooBig, SuspiciousOperation
from django.db import InterfaceError, OperationalError, close_old_connections
from django.http import HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError

from .text import writable

log = logging.getLogger("cenote")
UNFORESEEN = "Something unforeseen went wrong here; nothing was changed. Try again; the server's log has the details."


_NO_ROOM = "53100"
"""PostgreSQL's code for a full disk."""
DISK_FULL = "The disk of the server is full; nothing was changed. Make room on it and try again."


def disk_full(error: BaseException) -> bool:
    """Did something fail because there is no room to write?"""
    return isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)


def answer(status: int, text: str) -> HttpResponse:
    """A refusal: JSON with one sentence."""
    return HttpResponse(json.dumps({"detail": text}), status=status, content_type="application/json")


def _in_json(request: HttpRequest, found: HttpResponse) -> HttpResponse:
    """A refusal of the API that a library has worded in a page of its own."""
    if not request.path.startswith("/api/") or found.status_code != 405:
        return found
    said = answer(405, f"This address cannot be asked by {request.method}.")
    if "Allow" in found:
        said["Allow"] = found["Allow"]
    return said


def database_gone() -> HttpResponse:
    """What is answered while the database cannot be reached; the page says itself what it keeps and sends again."""
    log.warning("The database cannot be reached.")
    gone = answer(503, "The database cannot be reached just now; nothing was changed. It is asked again in a moment.")
    gone["Retry-After"] = "2"
    return gone


class PlainErrors:
    """A lost database or an oversized request answers with a clear message instead of a bare error."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            request.get_host()
        except DisallowedHost:
            return answer(
                400, "This server does not go by that name. Ask whoever runs it to add the name to its hosts."
            )
        if not writable(request.path):
            return answer(404, "There is no such address.")
        try:
            return _in_json(request, self.get_response(request))
        except (OperationalError, InterfaceError) as error:
            return self._database_gone(error)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if isinstance(error, OperationalError | InterfaceError):
            return self._database_gone(error)
        if isinstance(error, RequestDataTooBig):
            return answer(413, "That is too large to be sent in one piece. Nothing was changed.")
        if isinstance(error, SuspiciousOperation | MultiPartParserError | BadRequest):
            return answer(400, "The request cannot be read. Send it again.")
        if disk_full(error):
            return answer(507, DISK_FULL)
        log.error("Unforeseen at %s", request.path, exc_info=error)
        return answer(500, UNFORESEEN)

    def _database_gone(self, error: Exception) -> HttpResponse:
        if getattr(error.__cause__, "sqlstate", "") == _NO_ROOM:
            return answer(507, DISK_FULL)
        # The broken connection is let go, so that the next request gets a new one.
        close_old_connections()
        return database_gone()
