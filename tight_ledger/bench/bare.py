"""The least that a server can do with an entry: an endpoint that inserts the row that it is sent, with the same driver."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

import asyncmy
import uvicorn
from fastapi import FastAPI
from pydantic import BaseModel
from sqlalchemy import URL, make_url

from tight_ledger.store.server import HOST

INSERT = "INSERT INTO ledger (stream, seq, id, subject, kind, at_server, body, seal) VALUES (%s, %s, %s, %s, %s, %s, %s, %s)"
POOL = 16


class Row(BaseModel):
    """A row of the ledger; the seal in hex."""

    stream: str
    seq: int
    id: str
    subject: str
    kind: str
    at_server: str
    body: str
    seal: str


def bare_app(owner: URL) -> FastAPI:
    """An application with one route."""
    pools: list[Any] = []

    @asynccontextmanager
    async def opened(_: FastAPI) -> AsyncIterator[None]:
        given: dict[str, Any] = {"host": owner.host, "port": owner.port, "user": owner.username, "password": owner.password}
        pools.append(await asyncmy.create_pool(minsize=POOL, maxsize=POOL, autocommit=True, db=owner.database, **given))
        yield
        pools[0].close()

    app = FastAPI(lifespan=opened)

    @app.post("/rows", status_code=201)
    async def insert(row: Row) -> dict[str, int]:
        values = (row.stream, row.seq, row.id, row.subject, row.kind, row.at_server, row.body, bytes.fromhex(row.seal))
        async with pools[0].acquire() as connection, connection.cursor() as cursor:
            await cursor.execute(INSERT, values)
        return {"seq": row.seq}

    return app


def serve_bare(owner: str, port: int) -> None:
    """Serve it, as the application is served."""
    uvicorn.run(bare_app(make_url(owner)), host=HOST, port=port, log_level="error", access_log=False)
