"""The API as a whole, and how errors are worded."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import DataError
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI, security
from ninja.errors import AuthenticationError, HttpError, ValidationError
from pydantic import ValidationError as PlanError

from accounts.api import router as accounts
from cenote.text import UNWRITABLE, CheckedParser
from cenote_core.errors import CenoteError
from sites.api import router as sites
from sites.asking import Busy, GivenUp
from sites.derived_api import router as derived
from sites.explain_api import router as explain
from sites.imports.api import router as imports
from sites.imports.pictures_api import router as pictures
from sites.kit_api import router as kit
from work.api import router as work

from .parts import router as parts

_REFUSALS = {
    400: "The request cannot be read.",
    401: "Nobody is signed in.",
    403: "Not allowed in this part, or the page's token is missing.",
    404: "There is no such thing, or it is not shared with whoever asks.",
    409: "It does not go with how things are now; the sentence says what to do.",
    413: "Too large.",
    422: "Something in it is not as it should be; the sentence says what.",
    429: "Too much at once.",
    503: "The database or the computing is busy or out of reach; it may be asked again after `Retry-After` seconds.",
    507: "There is no room to write.",
}
"""What any address may answer besides its own: JSON with one sentence under `detail`."""


class _Documented(NinjaAPI):
    """Its schema names refusals as well."""

    def get_openapi_schema(self, *args: Any, **kwargs: Any) -> Any:
        schema = super().get_openapi_schema(*args, **kwargs)
        schema["components"]["schemas"]["Refusal"] = {
            "type": "object",
            "title": "Refusal",
            "required": ["detail"],
            "properties": {"detail": {"type": "string", "title": "Detail"}},
        }
        content = {"application/json": {"schema": {"$ref": "#/components/schemas/Refusal"}}}
        # Each told once, and referred to by every operation.
        schema["components"]["responses"] = {
            str(status): {"description": text, "content": content} for status, text in _REFUSALS.items()
        }
        for methods in schema["paths"].values():
            for operation in methods.values():
                for status in _REFUSALS:
                    operation["responses"].setdefault(status, {"$ref": f"#/components/responses/{status}"})
        return schema


UNSIGNED_WRITE = "This write did not come with the page's token. Load the page again and try once more."


class SessionAuth(security.SessionAuth):
    """Who is signed in; a write without the page's token is refused in words that say what to do."""

    def _get_key(self, request: HttpRequest) -> str | None:
        try:
            return super()._get_key(request)
        except HttpError as error:
            raise HttpError(error.status_code, UNSIGNED_WRITE) from None


api = _Documented(title="Cenote", version="1", auth=SessionAuth(csrf=True), docs_url=None, parser=CheckedParser())
api.add_router("/accounts", accounts)
api.add_router("/sites", sites)
api.add_router("/sites", derived)
api.add_router("/sites", explain)
api.add_router("/kit", kit)
api.add_router("/kit", imports)
api.add_router("/kit", pictures)
api.add_router("/work", work)
api.add_router("/parts", parts)


def in_words(errors: Sequence[Mapping[str, Any]]) -> str:
    """Validation errors as one sentence a field, with the place."""
    lines = []
    for error in errors[:5]:
        place = " › ".join(str(p) for p in error.get("loc", ()) if p not in ("body", "payload", "plan"))
        text = str(error.get("msg", "")).removeprefix("Value error, ")
        lines.append(f"{place}: {text}" if place else text)
    return "; ".join(lines) or "The request could not be read."


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    return api.create_response(request, {"detail": in_words(error.errors)}, status=422)


@api.exception_handler(PlanError)
def _invalid_plan(request: HttpRequest, error: PlanError) -> HttpResponse:
    return api.create_response(request, {"detail": in_words(error.errors(include_url=False))}, status=422)


@api.exception_handler(CenoteError)
def _refused(request: HttpRequest, error: CenoteError) -> HttpResponse:
    return api.create_response(request, {"detail": str(error)}, status=422)


@api.exception_handler(Busy)
def _busy(request: HttpRequest, error: Busy) -> HttpResponse:
    found = api.create_response(request, {"detail": str(error)}, status=503)
    found["Retry-After"] = "2"
    return found


@api.exception_handler(GivenUp)
def _given_up(request: HttpRequest, error: GivenUp) -> HttpResponse:
    return api.create_response(request, {"detail": str(error)}, status=409)


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404) -> HttpResponse:
    return api.create_response(request, {"detail": "There is nothing here, or it is not shared with you."}, status=404)


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    if isinstance(error.__cause__, HttpError):
        # What the parser said of the body.
        error = error.__cause__
    text = str(error)
    if error.status_code == 400 and "Cannot parse request body" in text:
        text = "The request is not valid JSON."
    return api.create_response(request, {"detail": text}, status=error.status_code)


@api.exception_handler(DataError)
def _unwritable(request: HttpRequest, error: DataError) -> HttpResponse:
    return api.create_response(request, {"detail": UNWRITABLE}, status=422)


@api.exception_handler(AuthenticationError)
def _nobody(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return api.create_response(request, {"detail": "Sign in first."}, status=401)
