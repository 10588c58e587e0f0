"""The API under /api, the front end everywhere else."""

from typing import Any

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.urls import path, re_path

from cenote.middleware import UNFORESEEN, answer

from .api import UNSIGNED_WRITE, api


def front_end(request: HttpRequest, rest: str = "") -> HttpResponse | FileResponse:
    """The single page; it reads the path itself."""
    page = settings.WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse("The front end is not built yet. Run bin/start.", status=503, content_type="text/plain")
    answer = FileResponse(page.open("rb"), content_type="text/html")
    answer["Cache-Control"] = "no-cache"
    return answer


def no_such_address(request: HttpRequest, rest: str = "") -> HttpResponse:
    """An address under /api that leads nowhere."""
    return answer(404, "There is no such address.")


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/(?P<rest>.*)$", no_such_address),
    re_path(r"^(?P<rest>.*)$", front_end),
]


def _refused(status: int, text: str) -> Any:
    """What Django would answer with a page of its own."""
    return lambda request, exception=None: answer(status, text)


handler400 = _refused(400, "The request cannot be read. Send it again.")
handler403 = _refused(403, "That is not allowed. Load the page again and try once more.")
handler404 = _refused(404, "There is no such address.")
handler500 = lambda request: answer(500, UNFORESEEN)  # noqa: E731


def csrf_failed(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A write without the token of its session."""
    return answer(403, UNSIGNED_WRITE)
