"""Logs: a line for each request, and what one needs at night. Ids, never names or PINs."""

import logging
import sys
import time
from typing import Literal
from uuid import UUID

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from tight_ledger.api import metrics
from tight_ledger.store.ids import new_id

log = structlog.get_logger()
LogForm = Literal["text", "json", "off"]
OFTEN = "/api/health"
"""Asked for by every tablet twice a second; a line for each would hide the others."""
REQUEST_ID = "x-request-id"
"""Header with the id of a request. A command's is the id that was made at its press."""


def configure(form: LogForm) -> None:
    """Write logs to standard error, as lines to read or as JSON."""
    renderer = structlog.processors.JSONRenderer() if form == "json" else structlog.dev.ConsoleRenderer(colors=sys.stderr.isatty())
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            _nothing if form == "off" else renderer,
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
        logger_factory=structlog.WriteLoggerFactory(file=sys.stderr),
        cache_logger_on_first_use=True,
    )


def _nothing(_logger: object, _method: str, _event: structlog.typing.EventDict) -> str:
    raise structlog.DropEvent


def request_id(headers: list[tuple[bytes, bytes]]) -> str:
    """The id that the request brings along, if it is a UUID; else a new one."""
    for name, value in headers:
        if name.decode("latin-1").lower() == REQUEST_ID:
            try:
                return str(UUID(value.decode("latin-1")))
            except ValueError:
                break
    return str(new_id())


class RequestLog:
    """Gives each request of the API an id, which its answer carries too, and logs it when it is answered."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not scope["path"].startswith("/api/"):
            await self._app(scope, receive, send)
            return
        known, started, status = request_id(scope["headers"]), time.perf_counter(), 0
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request=known)

        async def with_id(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                message["headers"] = [*message["headers"], (REQUEST_ID.encode(), known.encode())]
            await send(message)

        try:
            await self._app(scope, receive, with_id)
        finally:
            route = scope.get("route")
            took_s = time.perf_counter() - started
            pattern: str | None = getattr(route, "path", None)
            metrics.count(scope["method"], pattern, status, took_s)
            path, took_ms = pattern or scope["path"], round(took_s * 1e3, 1)
            tell = log.warning if status >= 500 else log.debug if path == OFTEN else log.info
            tell("request", method=scope["method"], route=path, status=status, ms=took_ms)
