"""Bounds on what is sent, before it is read: nobody fills the disk or keeps a processor busy by sending."""

from collections.abc import Awaitable, Callable, MutableMapping
from http.cookies import CookieError, SimpleCookie
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.db import Error, connection
from django.http import HttpResponse

from .middleware import answer, database_gone

UNSIGNED = 64 * 1024
"""Bytes that somebody who is not signed in may send: names and passwords are shorter."""
_FORM = 1024 * 1024
"""What a form may hold around its file."""
_DIGITS = 15
"""Digits of a length that are looked at: with so many it is too long anyway."""
UPLOADS = ("/api/kit/imports", "/api/kit/pictures")
"""Addresses that take files."""

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[Message, Receive, Send], Awaitable[None]]


class _Refused(Exception):
    def __init__(self, answer: HttpResponse) -> None:
        super().__init__()
        self.answer = answer


class BoundedBodies:
    """ASGI application around another one, which reads no more of a body than it may be long."""

    def __init__(self, inner: Application) -> None:
        self.inner = inner

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return await self.inner(scope, receive, send)
        body = _Body(scope, receive)
        try:
            await body.allow(_declared(scope))
            await self.inner(scope, body.receive, send)
        except _Refused as refused:
            # Django reads the body before it answers anything.
            await _say(send, refused.answer)


class _Body:
    """What comes in of one request's body."""

    def __init__(self, scope: Message, receive: Receive) -> None:
        self._scope = scope
        self._receive = receive
        self._came = 0
        self._allowed = UNSIGNED
        self._most = most_at(scope["path"])

    async def receive(self) -> Message:
        message = await self._receive()
        self._came += len(message.get("body", b""))
        await self.allow(self._came)
        return message

    async def allow(self, size: int) -> None:
        """Raises unless so many bytes may be sent by whoever sends them."""
        if size <= self._allowed:
            return
        if size > self._most:
            raise _Refused(too_large(size, self._most))
        try:
            known = await sync_to_async(_signed_in, thread_sensitive=False)(self._scope)
        except Error:
            raise _Refused(database_gone()) from None
        if not known:
            raise _Refused(answer(413, f"More than {UNSIGNED // 1024} kB are taken only from who is signed in."))
        self._allowed = self._most


def most_at(path: str) -> int:
    """Bytes that an address takes from who is signed in."""
    return settings.UPLOAD_LIMIT + _FORM if path in UPLOADS else settings.DATA_UPLOAD_MAX_MEMORY_SIZE


def too_large(size: int, most: int) -> HttpResponse:
    """The refusal of a body that is too long."""
    return answer(
        413, f"{size / 1e6:.0f} MB are too much to be sent at once; at most {most / 1e6:.0f} MB are taken here."
    )


def _declared(scope: Message) -> int:
    """The length that is told before; 0 where none is."""
    told = _header(scope, b"content-length")
    return int(told[:_DIGITS]) if told.isascii() and told.isdigit() else 0


def _header(scope: Message, name: bytes) -> str:
    return next((value for key, value in scope["headers"] if key == name), b"").decode("latin1")


def _signed_in(scope: Message) -> bool:
    try:
        cookie = SimpleCookie(_header(scope, b"cookie")).get(settings.SESSION_COOKIE_NAME)
    except CookieError:
        return False
    if cookie is None:
        return False
    try:
        return SESSION_KEY in SessionStore(cookie.value).load()
    finally:
        connection.close()


async def _say(send: Send, said: HttpResponse) -> None:
    headers = [(name.lower().encode("latin1"), value.encode("latin1")) for name, value in said.items()]
    headers += [(b"content-length", str(len(said.content)).encode()), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": said.status_code, "headers": headers})
    await send({"type": "http.response.body", "body": said.content})
