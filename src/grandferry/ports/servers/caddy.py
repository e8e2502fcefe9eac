"""Caddy: one file for a site block of a Caddyfile.

Its ``map`` compares the decoded path, regular expressions are RE2 and are held against the request as sent.
Sources: Caddy 2 documentation (``map``, ``route``, ``vars_regexp``, ``redir``), caddyconfig/caddyfile/lexer.go.
"""

from __future__ import annotations

import re

from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import Redirect, RedirectMap, decoded, map_of

from .bounds import Bound
from .kept import held, per_map
from .lines import NO_HEAD, STATUSES, Beyond, Head, filled, head_lines, proven, remarked, remarks, text
from .reading import Tables, bad_escape, ill_escaped, look_up, plain_key, seen, tables_of
from .stages import Entry, stages

FILE = "redirects.caddy"


def _as_sent(line: Redirect) -> bool:
    """Slashes and dots are not folded here; a brace in a key would be read as a placeholder, a backslash may escape the
    quote at its end, and bytes that are no UTF-8 cannot stand in the file."""
    path, _, query = line.old.partition("?")
    if "%2f" in path.lower() or re.search(r'[\\"{}]', query):
        return True
    return re.search(r'[\x00-\x1f\x7f?{}\\"\ud800-\udfff\ufffd]', decoded(path)) is not None


@per_map
def _tables(redirects: RedirectMap) -> Tables:
    return tables_of(redirects.exact.values(), _as_sent)


def _key(line: Redirect, query: str) -> str:
    return plain_key(line).partition("?")[0] + ("?" + query if "?" in line.old else "")


def _stages(redirects: RedirectMap) -> dict[str, list[Entry]]:
    made = stages(redirects, _tables(redirects), _key)
    return {
        "gf_sent": [(f"^{regex}$", said) for regex, said in made.sent],
        "gf_full": [(key, said) for key, said in made.table if "?" in key],
        "gf_pattern": [(f"^(?:{regex})$", filled(said, "${{}}")) for regex, said in made.patterns],
        "gf_sent_path": [(f"^{regex}$", said) for regex, said in made.sent_path],
        "gf_path": [(key, said) for key, said in made.table if "?" not in key],
        "gf_folder": [(f"^{regex}$", filled(said, "${{}}")) for regex, said in made.prefixes],
    }


_SOURCES = {
    "gf_full": "{http.request.uri.path}?{http.request.uri.query}",
    "gf_path": "{http.request.uri.path}",
}
_AS_SENT = "{http.request.orig_uri}"


_held = held(ill_escaped)


class Caddy:
    """Caddy, as ``ports.servers.Server``."""

    name = "caddy"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        redirects = _held(redirects)
        lines = [
            *(f"# {line}" for line in head_lines(head, redirects, self.bounds(redirects))),
            f"# In the site block: import {FILE}",
            "route {",
        ]
        for name, rows in _stages(redirects).items():
            lines += [f"\tmap {_SOURCES.get(name, _AS_SENT)} {{{name}}} {{", '\t\tdefault "-"']
            lines += [f'\t\t"{key if name in _SOURCES else f"~{key}"}" "{said}"' for key, said in rows]
            lines.append("\t}")
        lines += [*_answers(), "}", *remarks(redirects.redirects)]
        return {FILE: text(lines)}

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        conf = files[FILE].decode("utf-8", "surrogateescape")
        lines = remarked(conf)
        return proven(lines, _stages(map_of(lines)), _read(conf))

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        if bad_escape(request):
            return None
        return look_up(_held(redirects), _tables(_held(redirects)), seen(request, fold=False))

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return ill_escaped(redirects)

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        slow = [Bound.SLOW_START] if len(redirects.exact) > 5_000 else []
        return [Bound.NOT_FOLDED, Bound.AS_SENT, Bound.BAD_ESCAPE, *slow]


def _answers() -> list[str]:
    """Where the first table says that has the request; a captured part makes no other host's address."""
    said = [
        "\t@gf_open vars gf_to -",
        "\t@gf_plain {",
        "\t\tvars gf_to -",
        '\t\texpression {http.request.uri.query} == ""',
    ]
    said += ["\t}", "\tvars gf_to {gf_sent}"]
    said += ["\tvars @gf_open gf_to {gf_full}", "\tvars @gf_plain gf_to {gf_path}"]
    said += [f"\tvars @gf_open gf_to {{{name}}}" for name in ("gf_pattern", "gf_sent_path", "gf_path", "gf_folder")]
    said += ["\t@gf_gone vars gf_to 410", "\trespond @gf_gone Gone 410"]
    for status in STATUSES[:-1]:
        sign = "" if status == 301 else f"{status}:"
        for name, regex, to in (
            (f"gf_own_{status}", f"^{sign}/{{2,}}(.*)$", "/"),
            (f"gf_{status}", f"^{sign}({'.+' if sign else '/.*|https?:.*'})$", ""),
        ):
            said += [f"\t@{name} vars_regexp {name} gf_to {regex}"]
            said += [f"\tredir @{name} {to}{{re.{name}.1}} {status}"]
    return said


_ROW = re.compile(r'^\t\t"([^"]*)" "([^"]*)"$')


def _read(conf: str) -> dict[str, list[Entry]]:
    """The tables of a file, read as Caddy reads them."""
    found: dict[str, list[Entry]] = {}
    name = ""
    for row in conf.split("\n"):
        if opened := re.match(r"^\tmap \S+ \{(\w+)\} \{$", row):
            name = opened[1]
        elif name and (entry := _ROW.match(row)):
            key = entry[1] if name in _SOURCES else entry[1].removeprefix("~")
            found.setdefault(name, []).append((key, entry[2]))
        elif row == "\t}":
            name = ""
    return found
