"""Sign in, sign out, who am I."""

from typing import Any

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.utils import check_csrf
from pydantic import Field

from .throttle import guarded

router = Router(tags=["accounts"])


class SignIn(Schema):
    name: str = Field(min_length=1, max_length=150)
    password: str = Field(min_length=1, max_length=4096)


class Person(Schema):
    user: str = Field(description="The name that is signed in with.")
    name: str
    initials: str
    csrf: str


class MaybePerson(Schema):
    person: Person | None
    csrf: str


def _person(request: HttpRequest) -> Person:
    name = request.user.get_username()
    full = request.user.get_full_name() or name
    initials = "".join(part[0] for part in full.split()[:2]).upper()
    return Person(user=name, name=full, initials=initials, csrf=get_token(request))


@router.get("/me", response=MaybePerson, auth=None)
def me(request: HttpRequest) -> Any:
    """Who is signed in, and the token writes must carry."""
    return MaybePerson(person=_person(request) if request.user.is_authenticated else None, csrf=get_token(request))


@router.post("/sign-in", response=Person, auth=None)
def sign_in(request: HttpRequest, payload: SignIn) -> Any:
    """Start a session. After several wrong passwords the name rests for a while."""
    if check_csrf(request):
        raise HttpError(403, "The page has grown old. Load it again, then sign in.")
    with guarded(payload.name, request.META.get("REMOTE_ADDR", "")) as tried:
        user = authenticate(request, username=payload.name, password=payload.password)
        if user is None:
            raise HttpError(401, "Name and password do not belong together.")
        tried.succeeded = True
    # A session of its own, whoever was signed in here before.
    request.session.flush()
    login(request, user)
    return _person(request)


@router.post("/sign-out", response={204: None})
def sign_out(request: HttpRequest) -> Any:
    """End the session."""
    logout(request)
    return 204, None
