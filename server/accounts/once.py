"""Requests that are done once, however often they are sent: a lost answer must not be taken for a lost request.

The page gives each such request an id in the header `Idempotency-Key` (IETF draft of that name). What was answered is kept
with what was done, in one transaction; the same id again gets the same answer and does nothing.
"""

from collections.abc import Callable
from datetime import timedelta
from functools import wraps
from typing import Any
from uuid import UUID

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja.decorators import decorate_view

from cenote.middleware import answer

from .models import AnsweredOnce

HEADER = "Idempotency-Key"
KEPT = timedelta(days=14)
"""How long answers are kept: an edit may wait in a closed page for so long."""
_CONFLICT = 409


def _once(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        sent = request.headers.get(HEADER)
        if sent is None or not request.user.is_authenticated:
            return view(request, *args, **kwargs)
        try:
            name = UUID(sent)
        except ValueError:
            return answer(422, f"{HEADER}: not an id. Load the page again.")
        try:
            with transaction.atomic():
                return _done(request, name, lambda: view(request, *args, **kwargs))
        except IntegrityError:
            found = _again(request, name)
            if found is None:
                raise
            return found

    return guarded


once = decorate_view(_once)
"""Decorator of an operation, below its route. Without the header it is done as often as it is sent."""


def _done(request: HttpRequest, name: UUID, do: Callable[[], HttpResponse]) -> HttpResponse:
    # Of two at the same time the second waits here until the first is through, and then finds its answer.
    row = AnsweredOnce.objects.create(user_id=request.user.pk, request=name, path=request.path[:200])
    made = do()
    if made.status_code < 300 or made.status_code == _CONFLICT:
        row.status, row.content = made.status_code, made.content.decode()
        row.save()
    else:
        # It was refused and did nothing; sent again it may go well.
        transaction.set_rollback(True)
    return made


def _again(request: HttpRequest, name: UUID) -> HttpResponse | None:
    """The answer that was given, if there is one."""
    row = AnsweredOnce.objects.filter(user_id=request.user.pk, request=name).first()
    if row is None:
        return None
    if row.path != request.path[:200]:
        return answer(422, f"{HEADER}: the id of another request. Load the page again.")
    return HttpResponse(row.content, status=row.status, content_type="application/json; charset=utf-8")


def forget_old() -> None:
    """Drop answers nobody will ask for again."""
    AnsweredOnce.objects.filter(at__lt=timezone.now() - KEPT).delete()
