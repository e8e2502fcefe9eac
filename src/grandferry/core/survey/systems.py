"""Which content system made a site, told by marks in its pages and answers; and what to leave alone on such a site.

A guess always comes with the mark it rests on. A system we do not know is named by its own generator mark, without
starting rules.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class System:
    """``generator`` is looked for in the generator mark, ``traces`` in the page's source, ``header`` in the answer's
    headers (as ``name: value``). ``exclude`` (RE2 over path?query) and ``drop`` (parameters) are its starting rules."""

    name: str
    generator: str = ""
    traces: tuple[str, ...] = ()
    header: str = ""
    exclude: tuple[str, ...] = ()
    drop: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Guess:
    """A system and the marks that speak for it."""

    name: str
    marks: tuple[str, ...]
    known: bool  # there are starting rules for it


SYSTEMS = (
    System(
        "WordPress",
        "WordPress",
        ("/wp-content/", "/wp-includes/"),
        "link: .*rel=.https://api.w.org/",
        ("^/wp-(?:json|admin|login)", "^/xmlrpc\\.php", "[?&]replytocom=", "/trackback/?$", "[?&](?:share|like_comment)="),
        ("replytocom", "share", "nb"),
    ),
    System(
        "Drupal",
        "Drupal",
        ("/sites/default/files/", "data-drupal-", "Drupal.settings"),
        "x-(?:drupal-cache|generator): .*",
        ("^/(?:user|admin)(?:/|$)", "^/comment/reply/", "[?&]q=(?:user|admin)"),
        ("destination",),
    ),
    System(
        "Joomla",
        "Joomla",
        ("/media/jui/", "/components/com_", "/media/system/js/"),
        "",
        ("^/administrator/", "[?&]tmpl=component", "[?&]format=(?:feed|pdf)", "[?&]task=mailto"),
        ("tmpl", "print", "itemid"),
    ),
    System("TYPO3", "TYPO3", ("/typo3conf/", "/typo3temp/", "/fileadmin/"), "", ("^/typo3/", "[?&]type=98"), ("chash", "no_cache")),
    System(
        "MediaWiki",
        "MediaWiki",
        ("mw-parser-output", "/load.php?"),
        "",
        (
            "[?&]action=(?:edit|history|info|raw|render|submit|delete|protect|watch)",
            "[?&](?:oldid|diff|printable|mobileaction)=",
            "Special:",
        ),
        ("oldid", "printable"),
    ),
    System("DokuWiki", "DokuWiki", ("/lib/exe/",), "", ("[?&]do=(?:edit|revisions|diff|login|media|index|recent|export)", "[?&]rev="), ("rev", "do")),
    System("phpBB", "phpBB", ("viewtopic.php", "phpbb"), "", ("^/(?:posting|ucp|memberlist|search|mcp)\\.php",), ("sid", "hilit")),
)  # fmt: skip
_VERSION = re.compile(r"[\s/-]*v?\d[\w.]*.*$")


def guess(generator: str, source: str, headers: Mapping[str, str]) -> list[Guess]:
    """Systems that may have made a page, the likeliest first. ``headers`` have lower-case names."""
    found = []
    head = "\n".join(f"{name}: {value}" for name, value in headers.items())
    for system in SYSTEMS:
        marks = []
        if system.generator and system.generator.lower() in generator.lower():
            marks.append(f"generator mark “{generator}”")
        marks += [f"“{trace}” in the page" for trace in system.traces if trace in source]
        if system.header and (match := re.search(system.header, head)):
            marks.append(f"header “{match[0][:80]}”")
        if marks:
            found.append(Guess(system.name, tuple(marks), True))
    found.sort(key=lambda g: (not g.marks[0].startswith("generator"), -len(g.marks)))
    if generator and not (found and found[0].marks[0].startswith("generator")):
        name = _VERSION.sub("", generator.split("(")[0]).strip() or generator
        found.insert(0, Guess(name, (f"generator mark “{generator}”",), False))
    powered = headers.get("x-powered-by", "")
    if powered and not found:
        found.append(Guess(_VERSION.sub("", powered).strip() or powered, (f"header “x-powered-by: {powered}”",), False))
    return found


def preset(name: str) -> System | None:
    """The starting rules for a system, None when there are none for that name."""
    return next((system for system in SYSTEMS if system.name.lower() == name.lower()), None)
