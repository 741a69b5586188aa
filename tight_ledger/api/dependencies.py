"""What a router gets: the context, and who is signed in."""

import asyncio
from collections.abc import Coroutine
from dataclasses import replace
from datetime import timedelta
from typing import Annotated, Any, TypeVar

import structlog
from cachetools import TTLCache
from fastapi import Depends, Header, Request, Response
from starlette.requests import ClientDisconnect

from tight_ledger.core.base.errors import Invalid, NotAllowed, NotSignedIn
from tight_ledger.core.base.people import require_right, rights_of
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.people import who
from tight_ledger.services.pressing import presser, read_mark

_T = TypeVar("_T")
COOKIE = "tight_session"
TABLET_COOKIE = "tight_tablet"
PRESSED_IN = "pressed-in"
"""The header by which a tablet shows in whose session something was pressed."""
MOST_WAITED_MS = 10 * 366 * 86_400_000
"""The longest that something may say that it waited on its tablet [ms]."""
TABLET_KEPT_S = 400 * 86_400
"""The longest that a browser keeps a cookie."""
CACHED_S = 1.0
"""How long a session is cached: after signing out, another process refuses it within this time."""

_sessions: TTLCache[str, Actor] = TTLCache(1_000, CACHED_S)


async def context(request: Request) -> Context:
    """The process's context. A coroutine, because a plain function would go through a thread for every request."""
    found: Context = request.app.state.context
    return found


TheContext = Annotated[Context, Depends(context)]


async def _in_session(request: Request) -> Actor:
    """In whose session a request comes.

    Raises:
        NotSignedIn: nobody's.
    """
    token = request.cookies.get(COOKIE)
    if token is None:
        raise NotSignedIn("session", "Nobody is signed in here.", "Pick your name and type your PIN.")
    actor = _sessions.get(token)
    if actor is None:
        actor = _sessions[token] = await who(await context(request), token)
    here = await context(request)
    here.answering.answers(actor.device, here.now())
    request.scope["tablet"] = str(actor.device)  # its connection is counted as this tablet's
    structlog.contextvars.bind_contextvars(person=str(actor.person.id))
    return actor


async def _presser(request: Request, mark: str, deliverer: Actor) -> Actor:
    """Who pressed what somebody's session delivers now, by the mark that its tablet made at the press."""
    text = f"{request.method} {request.url.path}\n".encode() + await request.body()
    waited = request.headers.get("waited-ms", "")
    waited_ms = min(int(waited), MOST_WAITED_MS) if waited.isascii() and waited.isdigit() else 0
    return await presser(await context(request), deliverer, read_mark(mark, text), timedelta(milliseconds=waited_ms))


async def signed_in_at_all(request: Request) -> Actor:
    """Who acts: whose session it is, or who pressed it in an earlier one; perhaps somebody who has to choose a new PIN first.

    Each of these takes the request alone: what hangs on one another is looked through by the framework for every request.

    Raises:
        NotSignedIn: nobody is signed in.
        NotAllowed: it was pressed in another session, and whose that was cannot be shown.
    """
    actor, mark = await _in_session(request), request.headers.get(PRESSED_IN)
    if mark is not None and (actor := await _presser(request, mark, actor)).unproven:
        raise NotAllowed("session", "It cannot be shown who pressed this.", "Whoever meant it signs in and presses again.")
    return actor


async def signed_in(request: Request) -> Actor:
    """Who is signed in, and may work.

    Raises:
        NotAllowed: a new PIN is to be chosen first.
    """
    actor = await signed_in_at_all(request)
    if actor.must_change:
        raise NotAllowed("pin", "Your PIN was reset.", "Choose a new one first.")
    return actor


async def working(request: Request) -> Actor:
    """Who is signed in, and may record.

    Raises:
        NotAllowed: an auditor, or somebody who keeps the shop only.
    """
    actor = await signed_in(request)
    require_right(actor.person.roles, "work", "person")
    return actor


async def recording(request: Request) -> Actor:
    """Who records what happened; who cannot be shown to have pressed it is marked so, because what happened is never refused for that.

    Raises:
        NotAllowed: a new PIN is to be chosen first; an auditor, or somebody who keeps the shop only.
    """
    deliverer, mark = await _in_session(request), request.headers.get(PRESSED_IN)
    actor = await _presser(request, mark, deliverer) if mark is not None else replace(deliverer, unproven=deliverer.key is not None)
    if actor.must_change or "work" not in rights_of(actor.person.roles):
        actor = replace(deliverer, unproven=True)
    if actor.must_change:
        raise NotAllowed("pin", "Your PIN was reset.", "Choose a new one first.")
    require_right(actor.person.roles, "work", "person")
    return actor


SignedInAtAll = Annotated[Actor, Depends(signed_in_at_all)]
SignedIn = Annotated[Actor, Depends(signed_in)]
Working = Annotated[Actor, Depends(working)]
Recording = Annotated[Actor, Depends(recording)]
WaitedMs = Annotated[int, Header(ge=0, le=MOST_WAITED_MS)]
"""How long something was kept on its tablet before it was sent [ms]; 0, if nothing is said."""


FILE_BODY = {"requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}}
"""In the description of the API: the body is a file."""


async def whole_body(request: Request, most_bytes: int) -> bytes:
    """What is sent as it comes, read only as far as it may go.

    Raises:
        Invalid: it is larger.
    """
    content = bytearray()
    async for part in request.stream():
        content += part
        if len(content) > most_bytes:
            raise Invalid("file", "The file is too large.", f"At most {most_bytes // 1_000_000} MB.")
    return bytes(content)


async def while_connected(request: Request, work: Coroutine[Any, Any, _T]) -> _T:
    """Do the work for a request whose body was read, and stop it when its client leaves: what its transaction wrote is taken back.

    Raises:
        ClientDisconnect: the client has left.
    """
    doing, leaving = asyncio.create_task(work), asyncio.create_task(_has_left(request))
    try:
        await asyncio.wait((doing, leaving), return_when=asyncio.FIRST_COMPLETED)
        if not doing.done():
            raise ClientDisconnect
        return doing.result()
    finally:
        for task in (doing, leaving):
            task.cancel()
        await asyncio.gather(doing, leaving, return_exceptions=True)


async def _has_left(request: Request) -> None:
    while (await request.receive())["type"] != "http.disconnect":
        pass


def forget_all() -> None:
    """Empty the cache: somebody's PIN was changed, or they left."""
    _sessions.clear()


def forget(token: str) -> None:
    """Remove a session from the cache."""
    _sessions.pop(token, None)


def keep_cookie(http: Request, response: Response, name: str, value: str, kept_s: int) -> None:
    """Give a cookie that no script reads, no other site sends, and that never goes over plain HTTP where there is HTTPS."""
    secure = http.url.scheme == "https"
    response.set_cookie(name, value, max_age=kept_s, httponly=True, samesite="strict", secure=secure, path="/")
