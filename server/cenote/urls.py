"""The API under /api, the front end everywhere else."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, JsonResponse
from django.urls import path, re_path

from .api import api


def front_end(request: HttpRequest, rest: str = "") -> HttpResponse | FileResponse:
    """The single page; it reads the path itself."""
    page = settings.WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse("The front end is not built yet. Run bin/start.", status=503, content_type="text/plain")
    answer = FileResponse(page.open("rb"), content_type="text/html")
    answer["Cache-Control"] = "no-cache"
    return answer


def no_such_address(request: HttpRequest, rest: str = "") -> JsonResponse:
    """An address under /api that leads nowhere."""
    return JsonResponse({"detail": "There is no such address."}, status=404)


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/(?P<rest>.*)$", no_such_address),
    re_path(r"^(?P<rest>.*)$", front_end),
]
