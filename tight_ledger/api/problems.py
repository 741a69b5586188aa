"""Turns refusals into `application/problem+json`, with the core's own sentence."""

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from sqlalchemy.exc import OperationalError

from tight_ledger.core.base.errors import Busy, Fault, Invalid, MustAsk, NotAllowed, NotOnFile, Stale
from tight_ledger.core.base.models import Model
from tight_ledger.store.database import DISK_FULL, DatabaseAway, error_code

STATUS: dict[type[Fault], tuple[int, str]] = {
    Invalid: (422, "invalid"),
    NotOnFile: (404, "not-on-file"),
    NotAllowed: (403, "not-allowed"),
    Stale: (409, "stale"),
    MustAsk: (409, "ask"),
    Busy: (429, "busy"),
}


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


def _answer(status: int, kind: str, field: str, fault: str, remedy: str, asked: MustAsk | None = None) -> JSONResponse:
    problem = Problem(
        type=f"urn:tight-ledger:{kind}", title=fault, status=status, field=field, fault=fault, remedy=remedy,
        ask=asked.ask if asked is not None else None, choices=asked.choices if asked is not None else (),
    )  # fmt: skip
    return JSONResponse(problem.model_dump(), status, media_type="application/problem+json")


async def on_fault(_: Request, fault: Exception) -> JSONResponse:
    """A refusal by the core or a use case."""
    assert isinstance(fault, Fault)
    status, kind = next(STATUS[refusal] for refusal in type(fault).__mro__ if refusal in STATUS)
    return _answer(status, kind, fault.field, fault.fault, fault.remedy, fault if isinstance(fault, MustAsk) else None)


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
    return _answer(422, "invalid", *_sentence(dict(error.errors()[0])))


async def on_away(_: Request, __: Exception) -> JSONResponse:
    """The database does not answer."""
    return _answer(503, "away", "database", "The database does not answer.", "Nothing is lost: it is sent again by itself.")


async def on_database(_: Request, error: Exception) -> JSONResponse:
    """What MariaDB itself refused."""
    assert isinstance(error, OperationalError)
    if error_code(error) in DISK_FULL:
        return _answer(507, "full", "disk", "The disk is full; this was not recorded.", "Make room, then send it again.")
    raise error


def install(app: FastAPI) -> None:
    """Register every handler."""
    app.add_exception_handler(Fault, on_fault)
    app.add_exception_handler(RequestValidationError, on_validation)
    app.add_exception_handler(ValidationError, on_validation)
    app.add_exception_handler(DatabaseAway, on_away)
    app.add_exception_handler(OperationalError, on_database)
