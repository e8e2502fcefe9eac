"""Errors as problem details (RFC 9457): a type, a title, and a sentence a person can act on."""

from __future__ import annotations

import sqlite3
from typing import Any

import peewee
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ValidationError
from starlette.exceptions import HTTPException

from grandferry.core.errors import AddressError, FerryError, NotThere, PatternError, PlanError
from grandferry.store.changes import Conflict
from grandferry.store.db import StoreError, fault

MEDIA = "application/problem+json"


class Problem(BaseModel):
    """A problem detail. ``errors`` names the fields of a request that are wrong."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    errors: list[dict[str, str]] = []


RESPONSES: dict[int | str, dict[str, object]] = {
    status: {"model": Problem, "description": text, "content": {MEDIA: {}}}
    for status, text in (
        (400, "cannot be done as asked"),
        (403, "not from this origin"),
        (404, "not there"),
        (409, "changed by another in the meantime"),
        (422, "a value is wrong"),
        (503, "the workspace cannot be used"),
    )
}


def problem(status: int, title: str, detail: str, errors: list[dict[str, str]] | None = None) -> JSONResponse:
    body = Problem(title=title, status=status, detail=detail, errors=errors or [])
    return JSONResponse(body.model_dump(), status, media_type=MEDIA)


def _of_ferry(_: Request, error: Exception) -> JSONResponse:
    status, title = 400, "It cannot be done as asked"
    if isinstance(error, NotThere):
        status, title = 404, "Not there"
    elif isinstance(error, Conflict):
        status, title = 409, "Changed elsewhere"
    elif isinstance(error, AddressError | PatternError | PlanError):
        status, title = 422, "A value is wrong"
    elif isinstance(error, StoreError):
        status, title = 503, "The workspace cannot be used"
    return problem(status, title, str(error))


def _of_number(_: Request, error: Exception) -> JSONResponse:
    return problem(422, "A value is wrong", "A number here is beyond what is counted with (64 bits).")


def _of_text(_: Request, error: Exception) -> JSONResponse:
    return problem(422, "A value is wrong", "A text here holds half of a character, which cannot be written down.")


def _of_database(_: Request, error: Exception) -> JSONResponse:
    return problem(503, "The workspace cannot be used", fault(error))


def _of_http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    told = problem(error.status_code, "Not there" if error.status_code == 404 else "Refused", str(error.detail))
    told.headers.update(error.headers or {})  # of a 405: what the address can be asked
    return told


def _of_validation(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    return _wrong([{**e, "loc": e["loc"][1:]} for e in error.errors()])


def _of_model(_: Request, error: Exception) -> JSONResponse:
    """A plan (or another model) put together from a request that is wrong in itself."""
    assert isinstance(error, ValidationError)
    return _wrong([{**e} for e in error.errors()])


def _wrong(found: list[dict[str, Any]]) -> JSONResponse:
    """Values that a model refused; the first of them as the sentence."""
    errors = [
        {"field": ".".join(str(p) for p in e["loc"]), "reason": e["msg"].removeprefix("Value error, ")} for e in found
    ] or [{"field": "", "reason": "not readable"}]
    first = errors[0]
    told = f"{first['field']}: {first['reason']}" if first["field"] else first["reason"]
    return problem(422, "A value is wrong", told if told.endswith(".") else f"{told}.", errors)


def install(app: FastAPI) -> None:
    app.add_exception_handler(FerryError, _of_ferry)
    app.add_exception_handler(OverflowError, _of_number)
    app.add_exception_handler(UnicodeEncodeError, _of_text)
    for database in (sqlite3.Error, peewee.DatabaseError, OSError):
        app.add_exception_handler(database, _of_database)
    app.add_exception_handler(ValidationError, _of_model)
    app.add_exception_handler(HTTPException, _of_http)
    app.add_exception_handler(RequestValidationError, _of_validation)
