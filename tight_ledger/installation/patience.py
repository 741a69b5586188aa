"""Connections that ask for nothing are not waited for: by time, and by number from one tablet, or from one stranger's address."""

import asyncio
from collections import OrderedDict

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEADERS_S = 10.0
"""How long a request's headers may take, from the connection or the first of their bytes on."""
MOST_WAITING = 200
"""Number of connections of one tablet, or of others from one address, that may be without a request. With one more the oldest is
closed: a tablet's is known by its first answer, however many others of its address wait."""
_waiting: dict[str, "OrderedDict[PatientProtocol, None]"] = {}


class PatientProtocol(HttpToolsProtocol):
    """A connection that is closed if no whole request comes, and that is counted as long as none is under way."""

    _too_late: asyncio.TimerHandle | None = None
    _counted: str = ""
    """As whose it waits; empty while a request is under way."""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._wait_as(self.client[0] if self.client is not None else "")
        self._limit()

    def on_message_begin(self) -> None:
        super().on_message_begin()
        self._limit()

    def on_headers_complete(self) -> None:
        self._heard()
        super().on_headers_complete()

    def on_response_complete(self) -> None:
        tablet: str | None = self.scope.get("tablet")  # type: ignore[assignment]  # known once somebody was signed in there
        super().on_response_complete()
        if self.timeout_keep_alive_task is not None and not self.transport.is_closing():
            self._wait_as(tablet or (self.client[0] if self.client is not None else ""))

    def connection_lost(self, exc: Exception | None) -> None:
        self._heard()
        super().connection_lost(exc)

    def _wait_as(self, whose: str) -> None:
        self._counted = f"of {whose}"
        same = _waiting.setdefault(self._counted, OrderedDict())
        same[self] = None
        if len(same) > MOST_WAITING:
            next(iter(same)).transport.abort()

    def _limit(self) -> None:
        if self._too_late is None:
            self._too_late = self.loop.call_later(HEADERS_S, self.transport.abort)

    def _heard(self) -> None:
        if self._too_late is not None:
            self._too_late.cancel()
            self._too_late = None
        same = _waiting.get(self._counted)
        if same is not None:
            same.pop(self, None)
            if not same:
                del _waiting[self._counted]
        self._counted = ""
