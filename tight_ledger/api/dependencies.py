"""What a router gets: the context, and who is signed in."""

import time
from typing import Annotated

from fastapi import Depends, Request

from tight_ledger.core.base.errors import NotAllowed
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.people import who

COOKIE = "tight_session"
REMEMBER_S = 20.0
"""How long a session token is cached; signing out removes it at once in this process."""

_known: dict[str, tuple[float, Actor]] = {}


async def context(request: Request) -> Context:
    """The process's context. A coroutine, because a plain function would go through a thread for every request."""
    found: Context = request.app.state.context
    return found


TheContext = Annotated[Context, Depends(context)]


async def signed_in(request: Request, context: TheContext) -> Actor:
    """Who is signed in."""
    token = request.cookies.get(COOKIE)
    if token is None:
        raise NotAllowed("session", "Nobody is signed in here.", "Pick your name and type your PIN.")
    known = _known.get(token)
    if known is not None and time.monotonic() - known[0] < REMEMBER_S:
        return known[1]
    actor = await who(context, token)
    if len(_known) > 1_000:
        _known.clear()
    _known[token] = (time.monotonic(), actor)
    return actor


def forget(token: str) -> None:
    """Remove a token from the cache."""
    _known.pop(token, None)


SignedIn = Annotated[Actor, Depends(signed_in)]
