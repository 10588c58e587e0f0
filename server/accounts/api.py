"""Sign in, sign out, who am I."""

from datetime import timedelta

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from django.utils import timezone
from ninja import Router, Schema
from ninja.errors import HttpError

from .models import FailedSignIn

router = Router(tags=["accounts"])
TRIES = 6
PAUSE = timedelta(minutes=2)


class SignIn(Schema):
    name: str
    password: str


class Person(Schema):
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
    return Person(name=full, initials=initials, csrf=get_token(request))


@router.get("/me", response=MaybePerson, auth=None)
def me(request: HttpRequest):
    """Who is signed in, and the token writes must carry."""
    return MaybePerson(person=_person(request) if request.user.is_authenticated else None, csrf=get_token(request))


@router.post("/sign-in", response=Person, auth=None)
def sign_in(request: HttpRequest, payload: SignIn):
    """Start a session. After several wrong passwords the name rests for a while."""
    address = request.META.get("REMOTE_ADDR", "")
    recent = FailedSignIn.objects.filter(name=payload.name[:150], address=address, at__gt=timezone.now() - PAUSE)
    if recent.count() >= TRIES:
        raise HttpError(429, "Too many wrong passwords. Wait two minutes and try again.")
    user = authenticate(request, username=payload.name, password=payload.password)
    if user is None:
        FailedSignIn.objects.create(name=payload.name[:150], address=address)
        raise HttpError(401, "Name and password do not belong together.")
    recent.delete()
    login(request, user)
    return _person(request)


@router.post("/sign-out", response={204: None})
def sign_out(request: HttpRequest):
    """End the session."""
    logout(request)
    return 204, None
