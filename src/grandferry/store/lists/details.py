"""The columns of lists of addresses, and one address with all that is known of it."""

from __future__ import annotations

from typing import Any

from grandferry.core.errors import NotThere

from ..db import dicts, rows

ADDRESS = (
    "id",
    "url",
    "key",
    "state",
    "reason",
    "status",
    "type",
    "mime",
    "target",
    "title",
    "words",
    "bytes",
    "depth",
    "visits",
    "in_links",
    "decision",
    "decision_target",
    "decision_origin",
    "decision_reason",
    "verdict",
    "fate",
    "proven",
    "why",
    "counted",
    "change",
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
    "odd": (
        "coalesce((SELECT group_concat(e.value, ', ') FROM page_facts f, json_each(f.findings) e "
        "WHERE f.address_id = address.id), '')"
    ),
}
COLUMNS = (*ADDRESS, *DERIVED)


def column(name: str) -> str:
    """The SQL of one column of a list of addresses."""
    return DERIVED.get(name, name)


SELECT = ", ".join(column(name) for name in COLUMNS)


def address(crossing: int, number: int) -> dict[str, Any]:
    """One address with how it was found, its facts, and the links in and out (the first 200 each)."""
    row = rows(f"SELECT {SELECT} FROM address WHERE crossing_id = ? AND id = ?", crossing, number)
    if not row:
        raise NotThere(f"There is no address {number} in this crossing.")
    data: dict[str, Any] = dict(zip(COLUMNS, row[0], strict=True))
    data["ways"] = [r[0] for r in rows("SELECT how FROM found WHERE address_id = ? ORDER BY how", number)]
    data["spellings"] = [r[0] for r in rows("SELECT url FROM spelling WHERE address_id = ? ORDER BY url", number)]
    data["alike"] = dicts(
        ("id", "key", "title", "type", "why"),
        "SELECT a.id, a.key, a.title, o.type, o.why FROM likeness l JOIN likeness o ON o.crossing_id = l.crossing_id "
        "AND o.type = l.type AND o.number = l.number AND o.address_id != l.address_id JOIN address a ON a.id = "
        "o.address_id WHERE l.address_id = ? ORDER BY o.type DESC, a.key LIMIT 200",
        number,
    )
    facts = rows("SELECT facts, findings FROM page_facts WHERE address_id = ?", number)
    data["facts"], data["findings"] = facts[0] if facts else (None, "[]")
    link = (
        "SELECT a.id, a.url, r.how, r.words FROM reference r JOIN address a ON a.id = r.{} WHERE r.{} = ? "
        "ORDER BY r.id LIMIT 200"
    )
    names = ("id", "url", "how", "words")
    data["links_in"] = dicts(names, link.format("source_id", "target_id"), number)
    data["links_out"] = dicts(names, link.format("target_id", "source_id"), number)
    data["captures"] = dicts(
        ("id", "at", "status", "bytes", "encoding", "doubtful", "rendered", "body"),
        "SELECT id, at, status, bytes, encoding, doubtful, rendered != '', body FROM capture WHERE address_id = ? "
        "ORDER BY id",
        number,
    )
    return data
