"""Papers that take long to draw are drawn beside the server, a few at a time; what is asked for twice at once is drawn once."""

import asyncio
import hashlib
import pickle
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any
from weakref import WeakKeyDictionary

import anyio
from anyio import to_process
from starlette.concurrency import run_in_threadpool

from tight_ledger.core.base.errors import Busy

MOST_AT_ONCE = 2
WITHIN_S = 90
LARGE = 150
"""From so many entries or rows on a paper is drawn in another process."""


@dataclass(slots=True)
class _Drawing:
    """What is being drawn for this server process."""

    limit: anyio.CapacityLimiter = field(default_factory=lambda: anyio.CapacityLimiter(MOST_AT_ONCE))
    under_way: dict[bytes, "asyncio.Task[bytes]"] = field(default_factory=dict)


_of_loop: "WeakKeyDictionary[asyncio.AbstractEventLoop, _Drawing]" = WeakKeyDictionary()


async def drawn(size: int, draw: Callable[..., bytes], *said: Any) -> bytes:
    """A paper as PDF.

    Args:
        size: how many entries or rows it shows.
        draw: a function of a module; what it is given after this is sent to another process if the paper is large.

    Raises:
        Busy: it takes too long.
    """
    if size < LARGE:
        return await run_in_threadpool(draw, *said)
    drawing = _of_loop.setdefault(asyncio.get_running_loop(), _Drawing())
    key = hashlib.sha256(await run_in_threadpool(pickle.dumps, (draw.__module__, draw.__qualname__, said))).digest()
    if (task := drawing.under_way.get(key)) is None:
        task = drawing.under_way[key] = asyncio.create_task(_beside(drawing.limit, draw, said))
        task.add_done_callback(lambda _: drawing.under_way.pop(key, None))
    return await asyncio.shield(task)


async def _beside(limit: anyio.CapacityLimiter, draw: Callable[..., bytes], said: tuple[Any, ...]) -> bytes:
    try:
        with anyio.fail_after(WITHIN_S):
            return await to_process.run_sync(draw, *said, cancellable=True, limiter=limit)
    except TimeoutError as error:
        raise Busy("paper", "This paper takes too long to draw.", "Ask for less of it.") from error
