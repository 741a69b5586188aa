"""Connections that send no request are not waited for: by time, and by number from one address."""

import asyncio
from collections import OrderedDict

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEADERS_S = 10.0
"""How long a request's headers may take, from the connection or the first of their bytes on."""
MOST_WAITING = 200
"""Number of connections of one address that may be without a request. With one more the oldest is closed: a tablet's sends
its request at once, however many others of its address do not."""
_waiting: dict[str, "OrderedDict[PatientProtocol, None]"] = {}


class PatientProtocol(HttpToolsProtocol):
    """A connection that is closed if no whole request comes."""

    _too_late: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        same = _waiting.setdefault(self._address, OrderedDict())
        same[self] = None
        if len(same) > MOST_WAITING:
            next(iter(same)).transport.abort()
        self._wait()

    def on_message_begin(self) -> None:
        super().on_message_begin()
        self._wait()

    def on_headers_complete(self) -> None:
        self._heard()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        self._heard()
        super().connection_lost(exc)

    @property
    def _address(self) -> str:
        return self.client[0] if self.client is not None else ""

    def _wait(self) -> None:
        if self._too_late is None:
            self._too_late = self.loop.call_later(HEADERS_S, self.transport.abort)

    def _heard(self) -> None:
        if self._too_late is not None:
            self._too_late.cancel()
            self._too_late = None
        same = _waiting.get(self._address)
        if same is not None:
            same.pop(self, None)
            if not same:
                del _waiting[self._address]
