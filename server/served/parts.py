"""Many small answers in one: opening a site takes some hundred pictures, meshes and buffers."""

import copy
import struct
from urllib.parse import unquote, urlsplit

from django.http import FileResponse, Http404, HttpRequest, QueryDict, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.urls import Resolver404, resolve
from ninja import Router
from ninja.errors import HttpError

from cenote.text import writable
from sites.access import keep_sites

router = Router(tags=["parts"])
MOST = 64
MOST_BYTES = 96 * 1024 * 1024
"""Bytes that travel together; what would be more is to be asked for by itself."""
_ALONE = 413
ROOT = "/api/"
HERE = "/api/parts"


@router.get("", include_in_schema=False)
def parts(request: HttpRequest) -> StreamingHttpResponse:
    """The answers to several addresses, each as its status and length (uint32, little endian) and its bytes.

    It may be kept by the browser for as long as each of its parts may. What is too much to travel with the others comes
    as status 413 without bytes, and is asked for by itself.
    """
    addresses = request.GET.getlist("of")
    if not 0 < len(addresses) <= MOST:
        raise HttpError(422, f"Ask for 1 to {MOST} parts at a time.")
    if len(set(addresses)) < len(addresses):
        raise HttpError(422, "Ask for each part once.")
    keep_sites(request)
    out: list[bytes] = []
    left, kept = MOST_BYTES, set()
    for address in addresses:
        answer = _answer(request, address)
        status, content = answer.status_code, _bytes(answer, left)
        if content is None:
            status, content = _ALONE, b""
        left -= len(content)
        out += [struct.pack("<II", status, len(content)), content]
        kept.add(answer.get("Cache-Control", "no-store") if status == 200 else "no-store")
    whole = StreamingHttpResponse(out, content_type="application/octet-stream")
    whole["Content-Length"] = str(sum(map(len, out)))
    whole["Cache-Control"] = kept.pop() if len(kept) == 1 else "no-store"
    return whole


def _bytes(answer: HttpResponseBase, most: int) -> bytes | None:
    """All of an answer, a file's as well; None if it is more than `most`."""
    if not isinstance(answer, FileResponse):
        return answer.content if len(answer.content) <= most else None
    try:
        if int(answer["Content-Length"]) > most:
            return None
        return b"".join(answer.streaming_content)
    finally:
        answer.file_to_stream.close()


def _answer(request: HttpRequest, address: str) -> HttpResponseBase:
    """What the address alone would answer to the same person."""
    try:
        split = urlsplit(address)
    except ValueError as error:
        raise HttpError(422, "Parts are addresses under /api.") from error
    if not writable(unquote(address)) or split.netloc or not split.path.startswith(ROOT) or split.path.startswith(HERE):
        raise HttpError(422, "Parts are addresses under /api.")
    try:
        found = resolve(unquote(split.path))
    except Resolver404 as error:
        raise Http404 from error
    part = copy.copy(request)
    part.path = part.path_info = unquote(split.path)
    part.GET = QueryDict(split.query)
    part.META = {**request.META, "PATH_INFO": split.path, "QUERY_STRING": split.query}
    return found.func(part, *found.args, **found.kwargs)
