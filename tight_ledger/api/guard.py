"""What is refused before anything of a request is worked on: its address, where it comes from, its size, its characters."""

import asyncio
import json
import re
from collections.abc import Collection
from urllib.parse import urlsplit

from starlette.requests import ClientDisconnect, Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from tight_ledger.api.problems import GONE, answer
from tight_ledger.core.base.errors import Fault, Invalid, NotAllowed
from tight_ledger.core.base.texts import require_plain_value

MOST_PATH = 1_000
MOST_BYTES: tuple[tuple[re.Pattern[str], int], ...] = (
    (re.compile(r"/api/spec-files/imports/[^/]+$"), 200_000_000),
    (re.compile(r"/api/attachments/[^/]+$"), 12_000_000),
    (re.compile(r"/api/specs(/rows|/preview)?$"), 4_000_000),
    (re.compile(r"/api/sessions$"), 2_000),
    (re.compile(r""), 256_000),
)
"""Largest body by address; the first that fits counts. Files are read piece by piece by their routes."""
READS = frozenset({"GET", "HEAD", "OPTIONS"})


class TurnedAway(Exception):
    """What is answered instead of working on a request."""

    def __init__(self, status: int, kind: str, fault: Fault) -> None:
        super().__init__(str(fault))
        self.status, self.kind, self.fault = status, kind, fault


ELSEWHERE = TurnedAway(
    421, "not-this-host", Invalid("host", "This server does not go by that name.", "Name it when it is started: ./tight up --host NAME.")
)
"""Somebody else's name that leads here is how another site reads what is served on this machine."""

BODY_S, SLOWEST_BYTES_S = 20.0, 10_000.0
"""A body may take this long, and longer by what has come of it already at this rate [bytes/s]."""
TOO_SLOW = TurnedAway(408, "too-slow", Invalid("body", "This came too slowly.", "Send it again where the network is better."))


def most_bytes(path: str) -> int:
    """The largest body that an address takes."""
    return next(most for pattern, most in MOST_BYTES if pattern.match(path))


def _header(scope: Scope, name: bytes) -> str:
    return next((value.decode("latin-1") for key, value in scope["headers"] if key == name), "")


class Guard:
    """Refuses what no route should see."""

    def __init__(self, app: ASGIApp, hosts: Collection[str]) -> None:
        self._app, self._hosts = app, frozenset(hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        is_ours = urlsplit(f"//{_header(scope, b'host')}").hostname in self._hosts
        if scope["type"] == "websocket":
            if not is_ours or not _from_here(scope):
                await receive()
                await send({"type": "websocket.close", "code": 4403})
                return
            await self._app(scope, receive, send)
            return
        try:
            if not is_ours:
                raise ELSEWHERE
            await self._app(scope, await _looked_at(scope, receive), send)
        except TurnedAway as refused:
            fault = refused.fault
            await answer(refused.status, refused.kind, fault.field, fault.fault, fault.remedy)(scope, receive, send)


async def _looked_at(scope: Scope, receive: Receive) -> Receive:
    """The request's body, as the application gets it.

    Raises:
        TurnedAway: the request is not worked on.
    """
    path = scope["path"]
    if "\0" in path or len(path) > MOST_PATH:
        raise TurnedAway(404, "not-here", Invalid("address", "There is nothing at this address.", "Look at the address once more."))
    if scope["method"] in READS:
        return receive
    if not _from_here(scope):
        raise TurnedAway(403, "not-allowed", NotAllowed("origin", "This comes from another site.", "Open Tight Ledger itself."))
    most, stated = most_bytes(path), _header(scope, b"content-length")
    if stated.isdigit() and int(stated) > most:
        raise _too_large(most)
    counted = _counted(receive, most)
    if "json" not in _header(scope, b"content-type"):
        return counted
    try:
        body = await Request(scope, counted).body()
    except ClientDisconnect as left:
        raise TurnedAway(400, "gone", GONE) from left
    try:
        if body:
            require_plain_value(json.loads(body))
    except Invalid as fault:
        raise TurnedAway(422, "invalid", fault) from fault
    except (ValueError, RecursionError) as error:
        raise TurnedAway(422, "invalid", Invalid("body", "This is not JSON.", "Send what the description of the API says.")) from error
    return _again(body, receive)


def _too_large(most: int) -> TurnedAway:
    return TurnedAway(413, "too-large", Invalid("body", "This is too large.", f"At most {most // 1_000} kB."))


def _from_here(scope: Scope) -> bool:
    """Whether a request that changes something comes from our own pages, or from no page at all."""
    origin = _header(scope, b"origin")
    return not origin or urlsplit(origin).netloc == _header(scope, b"host")


def _counted(receive: Receive, most: int) -> Receive:
    """The body as it comes, as far as it may go, and no slower than any network of a workshop."""
    received, whole, began = 0, False, asyncio.get_running_loop().time()

    async def counted() -> Message:
        nonlocal received, whole
        if whole:
            return await receive()
        try:
            async with asyncio.timeout_at(began + BODY_S + received / SLOWEST_BYTES_S):
                message = await receive()
        except TimeoutError as error:
            raise TOO_SLOW from error
        received, whole = received + len(message.get("body", b"")), not message.get("more_body", False)
        if received > most:
            raise _too_large(most)
        return message

    return counted


def _again(body: bytes, receive: Receive) -> Receive:
    """The body once more, then whatever comes."""
    told = False

    async def again() -> Message:
        nonlocal told
        if told:
            return await receive()
        told = True
        return {"type": "http.request", "body": body, "more_body": False}

    return again
