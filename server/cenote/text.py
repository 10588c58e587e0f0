"""Text that a database can hold: what cannot be written is refused in words before anything is asked of it."""

import json
from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser

UNWRITABLE = "Text must not hold NUL signs or halves of characters. Take them out and send it again."
_DEEPEST = 64


def writable(text: str) -> bool:
    """Can a text be stored: no NUL, and none of the surrogates that are but half a character?"""
    return "\x00" not in text and not any("\ud800" <= sign <= "\udfff" for sign in text)


def _check(value: Any, depth: int = 0) -> None:
    if depth > _DEEPEST:
        raise HttpError(422, "The request is nested too deeply to be one of ours.")
    if isinstance(value, str):
        if not writable(value):
            raise HttpError(422, UNWRITABLE)
    elif isinstance(value, dict):
        for name, inner in value.items():
            _check(name, depth + 1)
            _check(inner, depth + 1)
    elif isinstance(value, list):
        for inner in value:
            _check(inner, depth + 1)


class CheckedParser(Parser):
    """Reads bodies of requests; the one place where their text is looked at."""

    def parse_body(self, request: HttpRequest) -> Any:
        try:
            value = json.loads(request.body)
        except RecursionError as error:
            raise HttpError(422, "The request is nested too deeply to be one of ours.") from error
        _check(value)
        return value

    def parse_querydict(self, data, list_fields, request):  # noqa: ANN001
        """Texts of an address or a form are looked at as well."""
        found = super().parse_querydict(data, list_fields, request)
        _check(found)
        return found
