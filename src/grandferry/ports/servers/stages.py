"""A map taken apart for a server that looks exact lines up in a table: what stands in the table, and regular
expressions for the few lines that need them, in the order in which they are asked."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import NamedTuple

from grandferry.core.route.redirects import Redirect, RedirectMap

from .lines import carried_to, target, value
from .reading import Tables, spelled, spellings

Entry = tuple[str, str]  # key or regular expression (anchored by the server); the answer, {1} … {9} for captured parts


class Stages(NamedTuple):
    """``sent``: exact lines as sent; ``table``: path or path?query; ``patterns``; ``sent_path``: as sent, an unknown
    query dropped; ``prefixes``: folders, the longest first. (The exact line for the path alone stands in the table.)"""

    sent: list[Entry]
    table: list[Entry]
    patterns: list[Entry]
    sent_path: list[Entry]
    prefixes: list[Entry]


def stages(redirects: RedirectMap, tables: Tables, key: Callable[[Redirect, str], str]) -> Stages:
    """``key``: of a line and a spelling of its query, as the server's table has it."""
    made = Stages([], [], [portable_entry(line) for _, line in redirects.patterns], [], [])
    for line in tables.sent.values():
        path, mark, query = line.old.partition("?")
        said = value(line, target(line.new))
        made.sent.append((spelled(path) + (rf"\?{spelled(query)}" if mark else r"\??"), said))
        if not mark:
            made.sent_path.append((spelled(path) + r"\?.*", said))
    for line in tables.plain.values():
        for query in spellings(line.old.partition("?")[2]):
            made.table.append((key(line, query), value(line, target(line.new))))
    for line in redirects.prefixes:
        rest = "[^?]+" if line.old.endswith("/") else "/[^?]*"
        made.prefixes.append((f"{folder(line.old)}(?:\\?.*)?", value(line, target(line.new))))
        made.prefixes.append((spelled(line.old) + rf"({rest})(?:\?.*)?", value(line, carried_to(line, "{1}"))))
    return made


def folder(old: str) -> str:
    """A regular expression for a folder itself, with or without its last slash."""
    return f"{spelled(old.rstrip('/'))}/?" if old.endswith("/") and old != "/" else spelled(old)


def portable_entry(line: Redirect) -> Entry:
    """A pattern in a spelling that RE2 and PCRE read alike."""
    return portable(line.old), value(line, target(line.new))


_ODD = {
    r"\{": r"\x7B",
    r"\}": r"\x7D",
    '"': r"\x22",
    " ": r"\x20",
    "\n": r"\n",
    "\r": r"\r",
    "\t": r"\t",
    "\\\\": r"\x5C",
    '\\"': r"\x22",
}


def portable(pattern: str) -> str:
    """A pattern with nothing in it that ends a word of a configuration: no quote, blank, line end, doubled backslash,
    no dollar before a brace."""

    def said(match: re.Match[str]) -> str:
        return _ODD.get(match[0], r"\x20" if match[0] == "\\ " else match[0])

    return re.sub(r'\\.|["\s]', said, pattern, flags=re.S).replace("${", "$(?:){")
