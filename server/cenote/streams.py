"""Streamed answers under ASGI: in blocks, so that no more than one is in memory, and the event loop is not held up."""

from collections.abc import AsyncIterator, Iterator

from asgiref.sync import sync_to_async
from django.http import StreamingHttpResponse
from django.http.response import HttpResponseBase

BLOCK = 256 * 1024


def in_blocks(answer: HttpResponseBase) -> HttpResponseBase:
    """The answer, read from its file or function outside of the event loop; django would read all of it first."""
    if isinstance(answer, StreamingHttpResponse) and not answer.is_async:
        answer.streaming_content = _blocks(iter(answer.streaming_content))
    return answer


async def _blocks(pieces: Iterator[bytes]) -> AsyncIterator[bytes]:
    while block := await sync_to_async(_next_block)(pieces):
        yield block


def _next_block(pieces: Iterator[bytes]) -> bytes:
    """A few pieces together, for each hop from thread to thread costs time; nothing at the end."""
    out, size = [], 0
    for piece in pieces:
        out.append(piece)
        size += len(piece)
        if size >= BLOCK:
            break
    return out[0] if len(out) == 1 else b"".join(out)
