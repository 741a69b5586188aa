"""Metrics in the Prometheus format, on a separate address: requests and how long they take."""

from collections.abc import Iterator
from contextlib import contextmanager
from urllib.parse import urlsplit

from prometheus_client import Counter, Histogram, start_http_server

from tight_ledger.core.base.errors import Invalid

REQUESTS = Counter("tight_requests", "Requests of the API that were answered", ["method", "route", "status"])
SECONDS = Histogram(
    "tight_request_seconds", "How long an answer took", ["route"], buckets=(0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10)
)
NO_ROUTE = "none"
"""The label for every address that has no route, so that unknown addresses do not add time series."""


def count(method: str, route: str | None, status: int, took_s: float) -> None:
    """Count an answer.

    Args:
        route: its pattern, `/api/runs/{run_id}/now`; None for an address that is none.
        took_s: [s].
    """
    named = route or NO_ROUTE
    REQUESTS.labels(method, named, str(status)).inc()
    SECONDS.labels(named).observe(took_s)


def address_of(text: str) -> tuple[str, int]:
    """Host and port of `127.0.0.1:8409`.

    Raises:
        Invalid: it is not an address with a port.
    """
    try:
        found = urlsplit(f"//{text}")
        host, port = found.hostname, found.port
    except ValueError:
        host = port = None
    if not host or not port or found.netloc != text:
        raise Invalid("metrics", f"“{text}” is no address with a port.", "Write 127.0.0.1:8409.")
    return host, port


@contextmanager
def told_at(text: str) -> Iterator[None]:
    """Tell the figures at an address for as long as the block lasts; nowhere if it is empty.

    Raises:
        Invalid: it is not an address with a port.
    """
    if not text:
        yield
        return
    host, port = address_of(text)
    server, thread = start_http_server(port, host)
    try:
        yield
    finally:
        server.shutdown()
        server.server_close()
        thread.join()
