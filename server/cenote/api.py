"""The API as a whole, and how errors are worded."""

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from ninja.security import SessionAuth
from pydantic import ValidationError as PlanError

from accounts.api import router as accounts
from cenote_core.errors import CenoteError
from kit.api import router as kit
from kit.imports_api import router as imports
from kit.pictures_api import router as pictures
from sites.api import router as sites
from sites.derived_api import router as derived
from sites.explain_api import router as explain
from work.api import router as work

from .parts import router as parts

api = NinjaAPI(title="Cenote", version="1", auth=SessionAuth(csrf=True), docs_url=None)
api.add_router("/accounts", accounts)
api.add_router("/sites", sites)
api.add_router("/sites", derived)
api.add_router("/sites", explain)
api.add_router("/kit", kit)
api.add_router("/kit", imports)
api.add_router("/kit", pictures)
api.add_router("/work", work)
api.add_router("/parts", parts)


def in_words(errors: list[dict]) -> str:
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


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404) -> HttpResponse:
    return api.create_response(request, {"detail": "There is nothing here, or it is not shared with you."}, status=404)


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    text = str(error)
    if error.status_code == 400 and "Cannot parse request body" in text:
        text = "The request is not valid JSON."
    return api.create_response(request, {"detail": text}, status=error.status_code)
