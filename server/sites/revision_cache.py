"""Answers that follow from a site as it is: made once for everybody, and known again by whoever has them already."""

import hashlib
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseNotModified

from cenote_core.hashing import content_hash

from .computing import cache
from .models import Site


@lru_cache(maxsize=1)
def _code() -> str:
    """Hash of all code of ours: after an update nothing is answered as it was before."""
    digest = hashlib.blake2b(digest_size=16)
    for path in sorted(path for part in ("core", "server") for path in (settings.ROOT / part).rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()


def kept_answer(
    request: HttpRequest, site: Site, name: str, make: Callable[[], bytes], *more: Any
) -> HttpResponse | HttpResponseNotModified:
    """An answer in JSON to everybody who asks for the same of a site that has not changed.

    `make` is called once a revision; `more` is what the answer hangs on besides. Whoever may ask has been looked at before.
    """
    key = content_hash("answer", _code(), name, str(site.pk), site.revision, site.kit, list(more))
    tag = f'"{key}"'
    if request.headers.get("If-None-Match") == tag:
        answer: HttpResponse | HttpResponseNotModified = HttpResponseNotModified()
    else:
        answer = HttpResponse(cache().get(key, make), content_type="application/json")
    answer["ETag"] = tag
    # Kept by the browser, and asked for again each time whether it still holds.
    answer["Cache-Control"] = "private, no-cache"
    return answer
