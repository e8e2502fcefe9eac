"""HAProxy: maps that are looked up by the path in one canonical spelling, and lines for a frontend.

Sources: HAProxy 2.6 configuration manual (``map_str``, ``map_regm``, ``url_dec``, ``url_enc``, ``http-request
redirect``).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from urllib.parse import quote

from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import Redirect, RedirectMap, decoded, map_of

from .bounds import Bound
from .kept import held, per_map
from .lines import NO_HEAD, STATUSES, Beyond, Head, filled, head_lines, proven, remarked, remarks, text
from .reading import Tables, bad_escape, look_up, seen, tables_of
from .stages import Entry, Stages, stages

CONF = "redirects.haproxy.cfg"
_MAPS = ("sent", "lines", "patterns", "sent-path", "folders")
LINE = 15_000  # bytes of a line of a map, which is read through a buffer of 16,384


def canonical_path(path: str) -> str:
    """A path as ``url_dec,url_enc`` makes it of every spelling: all but unreserved characters escaped."""
    return quote(decoded(path).encode("utf-8", "surrogateescape"), safe="-_.~")


def _key(line: Redirect, query: str) -> str:
    path, mark, _ = line.old.partition("?")
    return canonical_path(path) + mark + query


def _as_sent(line: Redirect) -> bool:
    """Slashes and dots are not folded here, so that such lines are as good as others."""
    path = line.old.partition("?")[0]
    return "%2f" in path.lower() or bad_escape(path) or re.search(r"[\x00-\x1f\x7f?]", decoded(path)) is not None


@per_map
def _tables(redirects: RedirectMap) -> Tables:
    return tables_of(redirects.exact.values(), _as_sent)


def _stages(redirects: RedirectMap) -> Stages:
    return stages(redirects, _tables(redirects), _key)


def _cannot(redirects: RedirectMap) -> list[Beyond]:
    return [Beyond(r, Bound.TOO_LONG) for r in redirects.redirects if len(r.old) * 3 + len(r.new) > LINE]


_held = held(_cannot)


class HAProxy:
    """HAProxy, as ``ports.servers.Server``."""

    name = "haproxy"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        redirects = _held(redirects)
        conf = [
            *(f"# {line}" for line in head_lines(head, redirects, self.bounds(redirects))),
            "# For the frontend, before any other http-request line. The maps lie in the folder that REDIRECTS names;",
            "# in the global section: presetenv REDIRECTS /etc/haproxy/redirects",
            *_conf(),
            *remarks(redirects.redirects),
        ]
        found = _maps(_stages(redirects))
        return {CONF: text(conf)} | {
            f"redirects.{name}.map": text(f"{key} {said}" for key, said in rows) for name, rows in found.items()
        }

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        lines = remarked(files[CONF].decode("utf-8", "surrogateescape"))
        found: dict[str, Sequence[Entry]] = {}
        for name in _MAPS:
            rows = files[f"redirects.{name}.map"].decode("utf-8", "surrogateescape").split("\n")
            found[name] = [(key, said.strip()) for key, _, said in (r.partition(" ") for r in rows if r.strip())]
        return proven(lines, _maps(_stages(map_of(lines))), found)

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        redirects = _held(redirects)
        if not request.isascii():
            return None
        return look_up(redirects, _tables(redirects), seen(request, fold=False))

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return _cannot(redirects)

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        return [Bound.NOT_FOLDED, Bound.AS_SENT, Bound.RAW_BYTES]


def _maps(made: Stages) -> dict[str, list[Entry]]:
    return {
        "sent": [(f"^{regex}$", said) for regex, said in made.sent],
        "lines": made.table,
        "patterns": [(f"^(?:{regex})$", filled(said, "\\{}")) for regex, said in made.patterns],
        "sent-path": [(f"^{regex}$", said) for regex, said in made.sent_path],
        "folders": [(f"^{regex}$", filled(said, "\\{}")) for regex, said in made.prefixes],
    }


def _conf() -> list[str]:
    """Each map is asked while nothing is found; a captured part makes no other host's address."""
    none = "!{ var(txn.gf_to) -m found }"

    def ask(sample: str, name: str, how: str = "map_str", *conditions: str) -> str:
        where = f"{how}(${{REDIRECTS}}/redirects.{name}.map)"
        return f'http-request set-var(txn.gf_to) "{sample},{where}" if {" ".join([none, *conditions])}'

    said = [
        'http-request set-var(txn.gf_path) "path,url_dec,url_enc"',
        'http-request set-var(txn.gf_query) "query"',
        ask("pathq", "sent", "map_reg"),
        ask("var(txn.gf_path),concat(?,txn.gf_query,)", "lines", "map_str", "{ query -m len gt 0 }"),
        ask("var(txn.gf_path)", "lines", "map_str", "!{ query -m len gt 0 }"),
        ask("pathq", "patterns", "map_regm"),
        ask("pathq", "sent-path", "map_reg"),
        ask("var(txn.gf_path)", "lines"),
        ask("pathq", "folders", "map_regm"),
        'http-request set-var(txn.gf_to) "var(txn.gf_to),regsub(^/+,/)" if { var(txn.gf_to) -m beg // }',
        "http-request return status 410 content-type text/plain string Gone if { var(txn.gf_to) -m str 410 }",
    ]
    for status in STATUSES[1:-1]:
        head = f"{status}:"
        is_ = f"{{ var(txn.gf_to) -m beg {head} }}"
        said.append(f'http-request set-var(txn.gf_to) "var(txn.gf_to),regsub(^{head}/+,{head}/)" if {is_}')
        said.append(f"http-request redirect code {status} location %[var(txn.gf_to),bytes(4)] if {is_}")
    said.append("http-request redirect code 301 location %[var(txn.gf_to)] if { var(txn.gf_to) -m found }")
    return said
