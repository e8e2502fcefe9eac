"""The survey: addresses in windows, one address, folders, what was shut out, soundings."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import APIRouter, Query
from pydantic import BaseModel

from grandferry.store import lists, survey

from .common import Limit, Offset, ThatCrossing, Window

router = APIRouter(tags=["survey"], prefix="/crossings/{crossing}")


class AddressRow(BaseModel):
    id: int
    url: str
    key: str
    state: str
    reason: str
    status: int
    sort: str
    mime: str
    target: str
    title: str
    words: int
    bytes: int
    depth: int
    visits: int
    in_links: int
    decision: str
    decision_target: str
    decision_origin: str
    decision_reason: str
    verdict: str
    fate: str
    proven: bool
    why: str
    counted: bool


class LinkRow(BaseModel):
    id: int
    url: str
    how: str
    words: str


class CaptureRow(BaseModel):
    at: str
    status: int
    bytes: int
    encoding: str
    doubtful: str


class AddressDetail(AddressRow):
    found_by: list[str]
    spellings: list[str]
    facts: dict[str, Any] | None
    findings: list[str]
    links_in: list[LinkRow]
    links_out: list[LinkRow]
    captures: list[CaptureRow]


class FolderCount(BaseModel):
    folder: str
    fate: str
    proven: bool
    count: int


class ShutOutRow(BaseModel):
    host: str
    reason: str
    count: int


@router.get("/addresses")
def addresses(
    crossing: ThatCrossing,
    offset: Offset = 0,
    limit: Limit = 100,
    order: Annotated[str, Query(max_length=40)] = "key",
    search: Annotated[str, Query(max_length=200)] = "",
    state: str | None = None,
    sort: str | None = None,
    fate: str | None = None,
    verdict: str | None = None,
    decision: str | None = None,
    folder: str | None = None,
    counted: bool | None = None,
    proven: bool | None = None,
) -> Window[AddressRow]:
    """A window of the old addresses that match all filters."""
    given = {
        "state": state,
        "sort": sort,
        "fate": fate,
        "verdict": verdict,
        "decision": decision,
        "folder": folder,
        "counted": counted,
        "proven": proven,
    }
    total, found = lists.addresses(
        crossing.id,
        filters={n: v for n, v in given.items() if v is not None},
        search=search,
        order=order,
        offset=offset,
        limit=limit,
    )
    return Window[AddressRow](total=total, offset=offset, rows=[AddressRow(**row) for row in found])


@router.get("/addresses/{address}")
def address(crossing: ThatCrossing, address: int) -> AddressDetail:
    """One address with its facts and links."""
    found = lists.address(crossing.id, address)
    found["facts"] = json.loads(found["facts"]) if found["facts"] else None
    found["findings"] = json.loads(found["findings"])
    return AddressDetail(**found)


@router.get("/folders")
def folders(crossing: ThatCrossing) -> list[FolderCount]:
    """The account by first folder."""
    return [FolderCount(**row) for row in lists.folders(crossing.id)]


@router.get("/shut-out")
def shut_out(crossing: ThatCrossing) -> list[ShutOutRow]:
    """Addresses met but not fetched, by host and reason."""
    return [ShutOutRow(**row) for row in lists.shut_out(crossing.id)]


@router.get("/soundings")
def soundings(crossing: ThatCrossing) -> dict[str, Any]:
    return survey.soundings(crossing.id)
