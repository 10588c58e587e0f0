"""A brake on guessing passwords: by name, by address, and for many names from one address.

A try is written down before the password is looked at and counted after that, so that of many at once no more than are
allowed get through. Addresses are those the connection comes from; what headers say of them is not asked.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta

from django.utils import timezone
from ninja.errors import HttpError

from .models import FailedSignIn

TRIES, PAUSE = 6, timedelta(minutes=2)
"""Wrong passwords for one name from one address, and how long they count."""
TRIES_FROM_ONE, TRIES_FOR_ONE = 30, 60
"""Wrong passwords from one address for any names, and for one name from anywhere; more than a person errs."""
LONG_PAUSE = timedelta(minutes=15)
"""How long those count, and after which no row is of use."""


@dataclass
class Try:
    """One try to sign in; whoever guards it hears how it went."""

    succeeded: bool = False


def _too_many(name: str, address: str) -> bool:
    now = timezone.now()
    for limit, since, which in (
        (TRIES, PAUSE, {"name": name, "address": address}),
        (TRIES_FROM_ONE, LONG_PAUSE, {"address": address}),
        (TRIES_FOR_ONE, LONG_PAUSE, {"name": name}),
    ):
        if FailedSignIn.objects.filter(at__gt=now - since, **which).count() > limit:
            return True
    return False


@contextmanager
def guarded(name: str, address: str) -> Iterator[Try]:
    """Around the look at a password. HttpError 429 where there were too many wrong ones."""
    FailedSignIn.objects.filter(at__lt=timezone.now() - LONG_PAUSE).delete()
    row = FailedSignIn.objects.create(name=name, address=address)
    if _too_many(name, address):
        # It was not looked at, so it does not count: who waits gets in.
        row.delete()
        raise HttpError(429, "Too many wrong passwords. Wait a few minutes and try again.")
    tried = Try()
    try:
        yield tried
    finally:
        if tried.succeeded:
            FailedSignIn.objects.filter(name=name, address=address).delete()
