"""Turns refusals into `application/problem+json`, with the core's own sentence."""

from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from sqlalchemy.exc import DataError, OperationalError
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from tight_ledger.core.base.errors import Busy, Fault, Invalid, MustAsk, NotAllowed, NotOnFile, NotSignedIn, Stale, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.store.database import DISK_FULL, DatabaseAway, error_code

log = structlog.get_logger()
STATUS: dict[type[Fault], tuple[int, str]] = {
    Invalid: (422, "invalid"),
    NotOnFile: (404, "not-on-file"),
    NotSignedIn: (401, "not-signed-in"),
    NotAllowed: (403, "not-allowed"),
    Stale: (409, "stale"),
    Unreadable: (422, "unreadable"),
    MustAsk: (409, "ask"),
    Busy: (429, "busy"),
}


GONE = Invalid("body", "The body did not come to its end.", "Send it again.")
"""A client that leaves: nothing was done, and nobody made a mistake."""


class Problem(Model):
    """RFC 9457, with the field, the fault and the remedy apart."""

    type: str
    title: str
    status: int
    field: str = ""
    fault: str
    remedy: str
    ask: str | None = None
    choices: tuple[str, ...] = ()
    """The possible answers to `ask`, where they are few."""
    request: str = ""
    """The id of the request, to be read out on the phone: the log has it too."""


def answer(status: int, kind: str, field: str, fault: str, remedy: str, asked: MustAsk | None = None) -> JSONResponse:
    """A refusal as an answer; it is logged."""
    problem = Problem(
        type=f"urn:tight-ledger:{kind}", title=fault, status=status, field=field, fault=fault, remedy=remedy,
        ask=asked.ask if asked is not None else None, choices=asked.choices if asked is not None else (),
        request=str(structlog.contextvars.get_contextvars().get("request", "")),
    )  # fmt: skip
    log.info("refused", kind=kind, field=field, ask=problem.ask)
    return JSONResponse(problem.model_dump(), status, media_type="application/problem+json")


async def on_fault(_: Request, fault: Exception) -> JSONResponse:
    """A refusal by the core or a use case."""
    assert isinstance(fault, Fault)
    status, kind = next(STATUS[refusal] for refusal in type(fault).__mro__ if refusal in STATUS)
    return answer(status, kind, fault.field, fault.fault, fault.remedy, fault if isinstance(fault, MustAsk) else None)


def _sentence(error: dict[str, Any]) -> tuple[str, str, str]:
    field = ".".join(str(part) for part in error["loc"] if part != "body") or "body"
    context = error.get("ctx", {})
    told = {
        "missing": ("This is missing.", "Fill it in."),
        "extra_forbidden": ("Nothing here goes by this name.", "Leave it out."),
        "finite_number": ("This is not a finite number.", "Give a plain figure."),
        "greater_than": ("This is too small.", f"It lies above {context.get('gt')}."),
        "greater_than_equal": ("This is too small.", f"It is at least {context.get('ge')}."),
        "less_than_equal": ("This is too large.", f"It is at most {context.get('le')}."),
        "string_too_short": ("This is empty or too short.", f"Give at least {context.get('min_length')} characters."),
        "string_too_long": ("This is too long.", f"Keep to {context.get('max_length')} characters."),
        "literal_error": ("This is none of the choices.", f"Choose {context.get('expected')}."),
    }
    fault, remedy = told.get(error["type"], ("This cannot be read.", str(error["msg"]).removeprefix("Value error, ").capitalize() + "."))
    return field, fault, remedy


async def on_validation(_: Request, error: Exception) -> JSONResponse:
    """A body, query or path that does not fit its model."""
    assert isinstance(error, RequestValidationError | ValidationError)
    return answer(422, "invalid", *_sentence(dict(error.errors()[0])))


async def on_away(_: Request, __: Exception) -> JSONResponse:
    """The database does not answer."""
    return answer(503, "away", "database", "The database does not answer.", "Nothing is lost: it is sent again by itself.")


async def on_database(_: Request, error: Exception) -> JSONResponse:
    """What MariaDB itself refused."""
    assert isinstance(error, OperationalError)
    if error_code(error) in DISK_FULL:
        return answer(507, "full", "disk", "The disk is full; this was not recorded.", "Make room, then send it again.")
    raise error


async def on_gone(_: Request, error: Exception) -> JSONResponse:
    """The client disconnected before its whole body had arrived: nothing was done."""
    return answer(400, "gone", GONE.field, GONE.fault, GONE.remedy)


async def on_data(_: Request, error: Exception) -> JSONResponse:
    """What does not fit into its column."""
    log.warning("does not fit", exc_info=error)
    return answer(422, "invalid", "body", "Something in this is too long or too large to be kept.", "Keep it shorter.")


async def on_http(_: Request, error: Exception) -> JSONResponse:
    """An address or a method that the API does not have."""
    assert isinstance(error, HTTPException)
    return answer(error.status_code, "not-here", "address", "There is nothing at this address.", "Look at /api/openapi.json.")


def mistake(error: Exception) -> JSONResponse:
    """The answer to a fault of the program itself; it is logged with its traceback."""
    log.error("error", exc_info=error)
    return answer(500, "error", "server", "The program made a mistake.", "Press again. If it stays, read out the number below.")


ANSWERS = {
    401: "Nobody is signed in", 403: "This person may not", 404: "Not on file", 409: "Something changed meanwhile, or a question",
    408: "The body came too slowly", 413: "The body is too large", 421: "The server does not go by this name",
    422: "The input cannot be used", 429: "Too much at once", 500: "A mistake of the program", 503: "The database is away",
    507: "The disk is full",
}  # fmt: skip
"""What can come instead of an answer, whatever the route."""


def describe(app: FastAPI) -> None:
    """Put every refusal that can come into the description of the API, as `application/problem+json`."""
    made = app.openapi

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            described = made()
            schemas = described["components"]["schemas"]
            schemas["Problem"] = Problem.model_json_schema(mode="serialization", ref_template="#/components/schemas/{model}")
            problem = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
            refusals = {str(status): {"description": words, "content": problem} for status, words in ANSWERS.items()}
            for path in described["paths"].values():
                for operation in path.values():
                    operation["responses"] |= refusals
            for unused in ("HTTPValidationError", "ValidationError"):
                schemas.pop(unused, None)
        return made()

    app.openapi = openapi  # type: ignore[method-assign]


def install(app: FastAPI) -> None:
    """Register every handler."""
    describe(app)
    app.add_exception_handler(HTTPException, on_http)
    app.add_exception_handler(Fault, on_fault)
    app.add_exception_handler(RequestValidationError, on_validation)
    app.add_exception_handler(ValidationError, on_validation)
    app.add_exception_handler(DatabaseAway, on_away)
    app.add_exception_handler(ClientDisconnect, on_gone)
    app.add_exception_handler(OperationalError, on_database)
    app.add_exception_handler(DataError, on_data)
