"""Text that a database can hold: what cannot be written is refused in words before anything is asked of it."""

from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser
from pydantic_core import from_json

UNWRITABLE = "Text must not hold NUL signs or halves of characters. Take them out and send it again."
TOO_DEEP = "The request is nested too deeply to be one of ours."
MOST_VALUES = 400_000
"""Values in one body: 20 000 instances that are touched at once take a quarter of it."""
TOO_MANY = f"The request holds more than {MOST_VALUES} values. Send less at once."
_BETWEEN = (b",", b"[", b"{")
"""What stands between values or begins several: no text holds more values than of these, and one."""
_DEEPEST = 64


def writable(text: str) -> bool:
    """Can a text be stored: no NUL, and none of the surrogates that are but half a character?"""
    return "\x00" not in text and not any("\ud800" <= sign <= "\udfff" for sign in text)


def _check(value: Any) -> None:
    """Raises HttpError for what is nested too deeply or holds text that cannot be stored."""
    level = [value]
    for _ in range(_DEEPEST):
        deeper: list[Any] = []
        for found in level:
            if isinstance(found, str):
                if not writable(found):
                    raise HttpError(422, UNWRITABLE)
            elif isinstance(found, dict):
                deeper += found.keys()
                deeper += found.values()
            elif isinstance(found, list):
                deeper += found
        if not deeper:
            return
        level = deeper
    raise HttpError(422, TOO_DEEP)


def parsed(body: bytes) -> Any:
    """A body in JSON. It is counted before it is read, so that nobody is held up by one that would be refused anyway.

    Raises HttpError with a sentence, ValueError where it is no JSON.
    """
    if sum(map(body.count, _BETWEEN)) > MOST_VALUES:
        raise HttpError(422, TOO_MANY)
    try:
        value = from_json(body)
    except ValueError as error:
        told = str(error)
        if "recursion" in told:
            raise HttpError(422, TOO_DEEP) from error
        if "hex escape" in told:
            raise HttpError(422, UNWRITABLE) from error
        raise
    _check(value)
    return value


class CheckedParser(Parser):
    """Reads bodies of requests; the one place where their text is looked at."""

    def parse_body(self, request: HttpRequest) -> Any:
        return parsed(request.body)

    def parse_querydict(self, data: Any, list_fields: Any, request: HttpRequest) -> Any:
        """Texts of an address or a form are looked at as well."""
        found = super().parse_querydict(data, list_fields, request)
        _check(found)
        return found
