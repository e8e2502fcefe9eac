"""What is known of a site before its survey, matter by matter."""

from __future__ import annotations

import json
from typing import Any

from grandferry.core.side import Side

from ..db import rows
from ..schema import Sounding


def sound(side: Side, name: str, content: Any) -> None:
    Sounding.insert(
        crossing=side.crossing, side=side.name, name=name, content=json.dumps(content)
    ).on_conflict_replace().execute()


def start_facts(side: Side, url: str) -> dict[str, Any]:
    """What the start page says of itself: status, title, generator mark, language, encoding, words, scripts."""
    found = rows(
        "SELECT a.status, a.title, a.words, c.encoding, c.doubtful, f.facts FROM address a JOIN capture c ON c.id = "
        "a.capture LEFT JOIN page_facts f ON f.address_id = a.id WHERE a.crossing_id = ? AND a.side = ? AND "
        "a.url = ?",
        *side,
        url,
    )
    if not found:
        return {}
    status, title, words, encoding, doubtful, facts = found[0]
    read = json.loads(facts) if facts else {}
    return {
        "status": status,
        "title": title,
        "words": words,
        "encoding": encoding,
        "doubtful": doubtful,
        **{name: read.get(name, "") for name in ("generator", "language", "scripts")},
    }


def soundings(side: Side) -> dict[str, Any]:
    """What was found out about the site before the survey, by name."""
    return {
        name: json.loads(content)
        for name, content in rows("SELECT name, content FROM sounding WHERE crossing_id = ? AND side = ?", *side)
    }
