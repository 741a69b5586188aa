"""How one machine serves: on loopback over HTTP, or on its network over HTTPS, with the way there over plain HTTP."""

import os
import signal
import socket
import threading
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import Any

import uvicorn

from tight_ledger.api.app import HOSTS, SETTINGS_VARIABLE, Settings, create_app
from tight_ledger.core.base.errors import Invalid
from tight_ledger.installation.authority import address_of, certificates, require_name
from tight_ledger.installation.patience import PatientProtocol
from tight_ledger.installation.trust import at, keep_sheet, trust_app
from tight_ledger.store import clock
from tight_ledger.store.server import HOST

STOPS_WITHIN_S = 3
"""How long open requests may take when the program is asked to stop; a slow client is not waited for."""
DRAINS_S = 2.0
"""How long a process behind a proxy goes on after SIGTERM, and says that it is not ready: the proxy needs a second to notice."""
MOST_CONNECTIONS = 2_000
KEPT_ALIVE_S = 75
"""How long a connection without a request stays open. Longer than clients keep theirs: who closes first must not be the server, or a
request that is just being sent is lost."""
EVERYWHERE = "0.0.0.0"


@dataclass(frozen=True, slots=True)
class Place:
    """Where the program is reached."""

    names: tuple[str, ...]
    """That tablets call it by; none for loopback alone."""
    port: int
    plain_port: int
    behind: tuple[str, ...] = ()
    """Names of a proxy in front, which asks over loopback."""

    @property
    def bound(self) -> str:
        """The address that is listened on: the one that was given, or every one of this machine if there are several or names."""
        if not self.names:
            return HOST
        alone = address_of(self.names[0]) if len(self.names) == 1 else None
        return str(alone) if alone is not None else EVERYWHERE

    @property
    def url(self) -> str:
        """What to open."""
        return f"https://{at(self.names[0], self.port)}" if self.names else f"http://{HOST}:{self.port}"

    @property
    def hosts(self) -> tuple[str, ...]:
        """Every name under which it may be asked."""
        return (*(HOSTS if not self.names else ()), *self.names, *self.behind)


def place(host: Sequence[str], port: int, behind: Sequence[str]) -> Place:
    """Where the program is reached, as it was asked for.

    Raises:
        Invalid: a name that is none, or a port that is taken.
    """
    names = tuple(dict.fromkeys(require_name(name) for name in host))
    found = Place(names, port, port + 1, tuple(require_name(name) for name in behind))
    for each in (port, *((found.plain_port,) if names else ())):
        _require_free(found.bound, each)
    return found


def _require_free(address: str, port: int) -> None:
    family = socket.AF_INET6 if ":" in address else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address, port))
        except OSError as error:
            what = (
                f"Port {port} is taken"
                if address in (HOST, EVERYWHERE)
                else f"Port {port} of {address} is taken, or this machine has no such address"
            )
            raise Invalid("port", f"{what}.", "Give another: ./tight up --port 8440.") from error


class _Drained(uvicorn.Server):
    """A server that is emptied by the proxy in front before it stops; asked a second time, it stops at once."""

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        context = getattr(self.config.app.state, "context", None)  # type: ignore[union-attr]
        if sig != signal.SIGTERM or context is None or context.stopping:  # None: it was still starting
            super().handle_exit(sig, frame)
            return
        context.stopping = True
        stopped = threading.Timer(DRAINS_S, super().handle_exit, (sig, frame))
        stopped.daemon = True
        stopped.start()


def serve(where: Place, settings: Settings, processes: int, folder: Path) -> None:
    """Serve until the program is asked to stop.

    Args:
        folder: of the certificate authority.
    """
    common: dict[str, Any] = {
        "host": where.bound, "port": where.port, "log_level": "warning", "access_log": False, "limit_concurrency": MOST_CONNECTIONS,
        "timeout_graceful_shutdown": STOPS_WITHIN_S, "timeout_keep_alive": KEPT_ALIVE_S, "http": PatientProtocol,
    }  # fmt: skip
    if where.names:
        common |= _over_https(where, folder)
    settings = settings.model_copy(update={"hosts": where.hosts})
    if processes == 1:
        config = uvicorn.Config(create_app(settings), **common)
        server = (_Drained if where.behind else uvicorn.Server)(config)
        with suppress(KeyboardInterrupt):
            server.run()
        if not server.started:
            raise SystemExit(1)
        return
    os.environ[SETTINGS_VARIABLE] = settings.model_dump_json()
    uvicorn.run("tight_ledger.api.app:from_environment", factory=True, workers=processes, **common)


def _over_https(where: Place, folder: Path) -> dict[str, Any]:
    """The certificate; and, beside it, plain HTTP that leads to it."""
    made = certificates(folder, where.names, clock.of_the_machine())
    plain = trust_app(made, where.names, where.port, where.plain_port)
    server = uvicorn.Server(uvicorn.Config(plain, host=where.bound, port=where.plain_port, log_level="warning", access_log=False))
    threading.Thread(target=server.run, daemon=True).start()
    sheet = keep_sheet(folder, made, where.names, where.plain_port)
    print(f"Each tablet trusts this server once: http://{at(where.names[0], where.plain_port)}/trust", flush=True)
    print(f"To compare there: {made.fingerprint}", flush=True)
    print(f"To print: {sheet}", flush=True)
    return {"ssl_certfile": made.certificate, "ssl_keyfile": made.key}
