"""The columns of lists of addresses, and one address with all that is known of it."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from grandferry.core.errors import NotThere

from ..db import rows, typed

OUTSIDES = ("kept out", "not asked yet", "of the new site", "dead link", "on another host")
# why an address is in no account, as ``survey.surveyed.count_accounts`` leaves it out; "" for one that is
OUTSIDE = (
    "CASE WHEN counted THEN '' WHEN state = 'shut out' THEN 'kept out' WHEN state = 'waiting' THEN 'not asked yet' "
    "WHEN side = 'new' THEN 'of the new site' WHEN status IN (404, 410) THEN 'dead link' ELSE 'on another host' END"
)
_SORTED = "(SELECT s.{} FROM sorted s WHERE s.address_id = address.id)"
# columns that stand in other tables, as SQL over ``address``
DERIVED = {
    "kind": f"coalesce({_SORTED.format('kind')}, '')",
    "what": (
        "coalesce((SELECT group_concat(e.value, ', ') FROM address_change c, json_each(c.what) e "
        "WHERE c.address_id = address.id AND c.run = address.run), '')"
    ),
    "also": f"coalesce((SELECT group_concat(e.value, ', ') FROM json_each({_SORTED.format('also')}) e), '')",
}
_FACT = "(SELECT json_extract(f.facts, '$.{}') FROM page_facts f WHERE f.address_id = address.id)"
DERIVED |= {
    "language": f"coalesce({_FACT.format('language')}, '')",
    "heading": f"coalesce({_FACT.format('headings[0]')}, '')",
    "headings": f"coalesce(json_array_length({_FACT.format('headings')}), 0)",
    "description": f"coalesce({_FACT.format('description')}, '')",
    "links_out": f"coalesce({_FACT.format('links')}, 0)",
    "pictures": f"coalesce({_FACT.format('pictures')}, 0)",
    "no_alt": f"coalesce({_FACT.format('pictures_without_alt')}, 0)",
    "forms": f"coalesce({_FACT.format('forms')}, 0)",
    "embeds": f"coalesce({_FACT.format('embeds')}, 0)",
    "indexing": f"coalesce({_FACT.format('robots')}, '')",
    "encoding": "coalesce((SELECT c.encoding FROM capture c WHERE c.id = address.capture), '')",
    "seconds": "coalesce((SELECT round(c.seconds, 3) FROM capture c WHERE c.id = address.capture), 0)",
    "found_by": "coalesce((SELECT group_concat(f.how, ', ') FROM found f WHERE f.address_id = address.id), '')",
    "outside": OUTSIDE,
    "odd": (
        "coalesce((SELECT group_concat(e.value, ', ') FROM page_facts f, json_each(f.findings) e "
        "WHERE f.address_id = address.id), '')"
    ),
}


class AddressRow(NamedTuple):
    """An address in a list. Its fields are the columns by which lists are shown, ordered and given out."""

    id: int
    url: str
    key: str
    state: str
    reason: str
    status: int
    type: str
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
    outside: str
    change: str
    kind: str
    what: str
    also: str
    language: str
    heading: str
    headings: int
    description: str
    links_out: int
    pictures: int
    no_alt: int
    forms: int
    embeds: int
    indexing: str
    encoding: str
    seconds: float
    found_by: str
    odd: str


COLUMNS = AddressRow._fields


def column(name: str) -> str:
    """The SQL of one column of a list of addresses."""
    return DERIVED.get(name, name)


SELECT = ", ".join(column(name) for name in COLUMNS)


class Like(NamedTuple):
    """An address alike to another: ``type`` same, near or spelling; ``why`` in words."""

    id: int
    key: str
    title: str
    type: str
    why: str


class Linked(NamedTuple):
    """The other end of a link: how it is linked, and with what words."""

    id: int
    url: str
    how: str
    words: str


class Captured(NamedTuple):
    """A capture; ``rendered``: a browser built the page as well; ``body`` names its content."""

    id: int
    at: str
    status: int
    bytes: int
    encoding: str
    doubtful: str
    rendered: bool
    body: str


class Details(NamedTuple):
    """An address with how it was found, its facts (None when none were read), and the links in and out (the first 200
    each)."""

    row: AddressRow
    ways: list[str]
    spellings: list[str]
    alike: list[Like]
    facts: dict[str, Any] | None
    findings: list[str]
    links_in: list[Linked]
    links_out: list[Linked]
    captures: list[Captured]


def address(crossing: int, number: int) -> Details:
    """All that is known of an address. Raises NotThere."""
    found = typed(AddressRow, f"SELECT {SELECT} FROM address WHERE crossing_id = ? AND id = ?", crossing, number)
    if not found:
        raise NotThere(f"There is no address {number} in this crossing.")
    link = (
        "SELECT a.id, a.url, r.how, r.words FROM reference r JOIN address a ON a.id = r.{} WHERE r.{} = ? "
        "ORDER BY r.id LIMIT 200"
    )
    facts, findings = (rows("SELECT facts, findings FROM page_facts WHERE address_id = ?", number) or [(None, "[]")])[0]
    return Details(
        found[0],
        ways=[r[0] for r in rows("SELECT how FROM found WHERE address_id = ? ORDER BY how", number)],
        spellings=[r[0] for r in rows("SELECT url FROM spelling WHERE address_id = ? ORDER BY url", number)],
        alike=typed(
            Like,
            "SELECT a.id, a.key, a.title, o.type, o.why FROM likeness l JOIN likeness o ON o.crossing_id = "
            "l.crossing_id AND o.type = l.type AND o.number = l.number AND o.address_id != l.address_id JOIN address a "
            "ON a.id = o.address_id WHERE l.address_id = ? ORDER BY o.type DESC, a.key LIMIT 200",
            number,
        ),
        facts=json.loads(facts) if facts else None,
        findings=json.loads(findings),
        links_in=typed(Linked, link.format("source_id", "target_id"), number),
        links_out=typed(Linked, link.format("target_id", "source_id"), number),
        captures=typed(
            Captured,
            "SELECT id, at, status, bytes, encoding, doubtful, rendered != '', body FROM capture WHERE address_id = ? "
            "ORDER BY id",
            number,
        ),
    )
