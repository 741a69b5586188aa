"""The application: routers, problems, the built front end."""

import asyncio
import mimetypes
import os
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from os import PathLike
from pathlib import Path

import structlog
from fastapi import FastAPI, Response
from fastapi.responses import FileResponse
from sqlalchemy import make_url
from starlette.datastructures import Headers
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
    lab,
    logs,
    machines,
    metrics,
    notices,
    people,
    practice,
    problems,
    records,
    runs,
    shop,
    spec_files,
    specs,
    stock,
    tablets,
    tools,
    week,
)
from tight_ledger.api.guard import Guard
from tight_ledger.api.logs import RequestLog
from tight_ledger.core.base.models import Model
from tight_ledger.services.context import Context
from tight_ledger.services.following import follow_the_ledger
from tight_ledger.services.proof.daily import daily
from tight_ledger.store.database import Database
from tight_ledger.store.keeper import keeper
from tight_ledger.store.pages import BUILT, COMPRESSED, WEB

log = structlog.get_logger()
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
_OVER_HTTPS = [(b"strict-transport-security", b"max-age=31536000")]
"""A browser that was here over HTTPS does not come over plain HTTP again."""
_OF_THE_API = [(b"cache-control", b"no-store")]


HOSTS = ("127.0.0.1", "localhost", "::1")
"""The names under which a server on loopback is asked."""
SETTINGS_VARIABLE = "TIGHT_SERVER"


class Settings(Model):
    """What a server process is told; through the environment where there are several."""

    serving: str
    """The URL of the serving account."""
    log: logs.LogForm
    disk: Path | None = None
    setup_code: str = ""
    hosts: tuple[str, ...] = HOSTS
    proof: Path | None = None
    """The folder of the installation's key; without it nothing is signed."""
    copies: tuple[Path, ...] = ()
    """Further folders that get each checkpoint."""
    metrics: str = ""
    """The address at which figures are told; empty: nowhere."""


class Envelope:
    """Adds headers to every answer. Compresses the page; answers of the API are small, and built files are compressed already."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._compressed = GZipMiddleware(app, minimum_size=2_000)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        api = scope["type"] != "http" or scope["path"].startswith("/api/")
        unchanged = api or scope["path"].startswith(tuple(f"/{folder}/" for folder in BUILT))
        begun = False

        async def with_headers(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                secure = _OVER_HTTPS if scope.get("scheme") == "https" else ()
                message["headers"] = [*message["headers"], *_HEADERS, *secure, *(_OF_THE_API if api else ())]
            await send(message)

        try:
            await (self._app if unchanged else self._compressed)(scope, receive, with_headers)
        except Exception as error:
            if begun or scope["type"] != "http":
                raise
            await problems.mistake(error)(scope, receive, with_headers)


class BuiltFiles(StaticFiles):
    """The files of the front end and of the tablet's core. All but `core.json` are named by their digest and never change."""

    def file_response(self, full_path: str | PathLike[str], stat_result: os.stat_result, scope: Scope, status_code: int = 200) -> Response:
        """A file that a browser may keep for ever. If the browser accepts gzip, the copy that was compressed at build time is sent."""
        packed, kind = Path(f"{full_path}{COMPRESSED}"), mimetypes.guess_type(full_path)[0]
        if packed.exists() and "gzip" in Headers(scope=scope).get("accept-encoding", ""):
            answer = super().file_response(packed, packed.stat(), scope, status_code)
            answer.headers["Content-Encoding"], answer.headers["Content-Type"] = "gzip", kind or "application/octet-stream"
        else:
            answer = super().file_response(full_path, stat_result, scope, status_code)
        answer.headers["Vary"] = "Accept-Encoding"
        answer.headers["Cache-Control"] = "no-cache" if str(full_path).endswith("core.json") else "public, max-age=31536000, immutable"
        return answer


def create_app(settings: Settings | None = None, web: Path = WEB) -> FastAPI:
    """The application with its routes, served from a database. Without settings it can only describe its API."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        assert settings is not None
        kept = keeper(settings.proof, settings.copies) if settings.proof is not None else None
        database = Database(make_url(settings.serving), key=kept.key if kept is not None else None)
        app.state.context = context = Context(database, disk=settings.disk, setup_code=settings.setup_code, keeper=kept)
        going_on = [asyncio.create_task(follow_the_ledger(context)), asyncio.create_task(daily(context))]
        log.info("started", version=__version__, process=os.getpid())
        with metrics.told_at(settings.metrics):
            yield
        for task in [*going_on, *context.tasks]:
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
        stock,
        week,
        records,
        lab,
        practice,
    ):
        app.include_router(subject.router)
    app.add_middleware(Guard, hosts=settings.hosts if settings is not None else HOSTS)
    app.add_middleware(Envelope)
    app.add_middleware(RequestLog)
    if (web / "index.html").exists():
        for folder in BUILT:
            app.mount(f"/{folder}", BuiltFiles(directory=web / folder, check_dir=False))

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
