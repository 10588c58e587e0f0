"""Turns what goes wrong outside a view into a sentence."""

import json
import logging

from django.core.exceptions import RequestDataTooBig
from django.db import InterfaceError, OperationalError, close_old_connections
from django.http import HttpRequest, HttpResponse

log = logging.getLogger("cenote")


def _answer(status: int, text: str) -> HttpResponse:
    return HttpResponse(json.dumps({"detail": text}), status=status, content_type="application/json")


class PlainErrors:
    """A lost database or an oversized request answers with a clear message instead of a bare error."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            return self.get_response(request)
        except (OperationalError, InterfaceError):
            return self._database_gone()

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if isinstance(error, OperationalError | InterfaceError):
            return self._database_gone()
        if isinstance(error, RequestDataTooBig):
            return _answer(413, "That is too large to be sent in one piece. Nothing was changed.")
        return None

    def _database_gone(self) -> HttpResponse:
        log.warning("The database cannot be reached.")
        # The broken connection is let go, so that the next request gets a new one.
        close_old_connections()
        answer = _answer(503, "The database cannot be reached just now. Your change is kept here and sent again.")
        answer["Retry-After"] = "2"
        return answer
