"""The application: routers, problems, the built front end."""

from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from datetime import UTC, datetime
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse
from sqlalchemy import URL
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from tight_ledger import __version__
from tight_ledger.api import attachments, dashboard, devices, machines, people, problems, runs, shop, spec_files, specs, tools
from tight_ledger.services.context import Context
from tight_ledger.store.database import Database

WEB = Path(__file__).parents[2] / "web" / "dist"
_HEADERS = [
    (b"content-security-policy", b"default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'"),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
]


class Envelope:
    """Headers on every answer; compression of the front end's files, not of the small answers of the API."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._compressed = GZipMiddleware(app, minimum_size=2_000)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message["headers"], *_HEADERS]
            await send(message)

        api = scope["type"] != "http" or scope["path"].startswith("/api/")
        await (self._app if api else self._compressed)(scope, receive, with_headers)


def create_app(serving: URL | None = None, web: Path = WEB, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> FastAPI:
    """The application with its routes, served from a database. Without a database it can only describe its API."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        assert serving is not None
        database = Database(serving)
        app.state.context = Context(database, now=now)
        yield
        await database.close()

    app = FastAPI(
        title="Tight Ledger", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json"
    )
    problems.install(app)
    for subject in (people, shop, dashboard, machines, specs, spec_files, tools, attachments, runs, devices):
        app.include_router(subject.router, responses={422: {"model": problems.Problem, "description": "Refused"}})
    app.add_middleware(Envelope)
    if (web / "index.html").exists():
        app.mount("/assets", StaticFiles(directory=web / "assets"))

        @app.get("/{path:path}", include_in_schema=False)
        async def page(path: str) -> FileResponse:
            """Any other address is a screen of the one page."""
            if path.startswith("api/"):
                raise HTTPException(404)
            file = (web / path).resolve()
            inside = file.is_file() and file.is_relative_to(web.resolve())
            return FileResponse(file if inside else web / "index.html", headers={"Cache-Control": "no-cache"})

    return app
