"""The application: routers, problems, the built front end."""

import asyncio
import os
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import structlog
from fastapi import FastAPI, Response
from fastapi.responses import FileResponse
from sqlalchemy import make_url
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from tight_ledger import __version__
from tight_ledger.api import (
    attachments,
    dashboard,
    devices,
    followups,
    health,
    jobs,
    logs,
    machines,
    notices,
    people,
    problems,
    runs,
    shop,
    spec_files,
    specs,
    tablets,
    tools,
    week,
)
from tight_ledger.api.guard import Guard
from tight_ledger.api.logs import RequestLog
from tight_ledger.core.base.models import Model
from tight_ledger.services.context import Context
from tight_ledger.services.following import follow_the_ledger
from tight_ledger.store.database import Database

log = structlog.get_logger()
WEB = Path(__file__).parents[2] / "web" / "dist"
_CONTENT_POLICY = (
    b"default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; worker-src 'self'; img-src 'self' data:; "
    b"style-src 'self' 'unsafe-inline'; frame-ancestors 'none'"
)
_HEADERS = [
    (b"content-security-policy", _CONTENT_POLICY),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"permissions-policy", b"geolocation=(), microphone=()"),
]
_OF_THE_API = [(b"cache-control", b"no-store")]


HOSTS = ("127.0.0.1", "localhost", "::1")
"""The names under which a server on loopback is asked."""
SETTINGS_VARIABLE = "TIGHT_SERVER"


class Settings(Model):
    """What a server process is told; through the environment where there are several."""

    serving: str
    """The URL of the serving account."""
    log: logs.LogForm
    clock: Path | None = None
    disk: Path | None = None
    setup_code: str = ""
    hosts: tuple[str, ...] = HOSTS


def clock_of(file: Path | None) -> Callable[[], datetime]:
    """The clock of this machine; or one that stands as a file says, for tests and pictures."""
    if file is None:
        return lambda: datetime.now(UTC)
    return lambda: datetime.fromisoformat(file.read_text(encoding="utf-8").strip())


class Envelope:
    """Headers on every answer; compression of the front end's files, not of the small answers of the API."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._compressed = GZipMiddleware(app, minimum_size=2_000)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        api = scope["type"] != "http" or scope["path"].startswith("/api/")

        begun = False

        async def with_headers(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                message["headers"] = [*message["headers"], *_HEADERS, *(_OF_THE_API if api else ())]
            await send(message)

        try:
            await (self._app if api else self._compressed)(scope, receive, with_headers)
        except Exception as error:
            if begun or scope["type"] != "http":
                raise
            await problems.mistake(error)(scope, receive, with_headers)


class TabletFiles(StaticFiles):
    """The core as tablets run it. Its files are named by their digest and never change, but for the one that names them."""

    def file_response(self, full_path: Any, *more: Any, **named: Any) -> Response:
        """A file, to be asked for once."""
        answer = super().file_response(full_path, *more, **named)
        answer.headers["Cache-Control"] = "no-cache" if str(full_path).endswith("core.json") else "public, max-age=31536000, immutable"
        return answer


def create_app(settings: Settings | None = None, web: Path = WEB) -> FastAPI:
    """The application with its routes, served from a database. Without settings it can only describe its API."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        assert settings is not None
        database = Database(make_url(settings.serving))
        now = clock_of(settings.clock)
        app.state.context = context = Context(database, now=now, disk=settings.disk, setup_code=settings.setup_code)
        following = asyncio.create_task(follow_the_ledger(context))
        log.info("started", version=__version__, process=os.getpid())
        yield
        following.cancel()
        for task in list(context.tasks):
            task.cancel()
        await database.close()
        log.info("stopped", process=os.getpid())

    app = FastAPI(
        title="Tight Ledger", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json"
    )
    problems.install(app)
    # An address is looked for from the first to the last: what is asked for with every press comes first.
    for subject in (
        runs,
        jobs,
        health,
        devices,
        people,
        tablets,
        shop,
        dashboard,
        machines,
        notices,
        specs,
        spec_files,
        tools,
        attachments,
        followups,
        week,
    ):
        app.include_router(subject.router)
    app.add_middleware(Guard, hosts=settings.hosts if settings is not None else HOSTS)
    app.add_middleware(Envelope)
    app.add_middleware(RequestLog)
    if (web / "index.html").exists():
        app.mount("/assets", StaticFiles(directory=web / "assets"))
        app.mount("/core", TabletFiles(directory=web / "core", check_dir=False))

        @app.get("/{path:path}", include_in_schema=False)
        async def page(path: str) -> FileResponse:
            """Any other address is a screen of the one page."""
            if path.startswith("api/"):
                raise HTTPException(404)
            file = _file_at(web, path)
            return FileResponse(file, headers={"Cache-Control": "no-cache"})

    return app


def _file_at(web: Path, path: str) -> Path:
    """The front end's own file of this address, or its one page."""
    try:
        file = (web / path).resolve()
        return file if file.is_file() and file.is_relative_to(web.resolve()) else web / "index.html"
    except OSError:  # a name that no file can have
        return web / "index.html"


def from_environment() -> FastAPI:
    """The application of one of several server processes, as `./tight up` told it through the environment."""
    settings = Settings.model_validate_json(os.environ[SETTINGS_VARIABLE])
    logs.configure(settings.log)
    return create_app(settings)
