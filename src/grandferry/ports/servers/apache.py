"""Apache: a table and rules for the server's own configuration, or rules alone for an ``.htaccess`` file.

The table is looked up by the decoded path as ``int:escape`` writes it, patterns and folders by the request as sent.
Sources: Apache HTTP Server 2.4, mod_rewrite, RewriteMap; server/util.c (``ap_getword_conf``) for quoting.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from urllib.parse import quote

from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import Redirect, RedirectMap, decoded, map_of

from .bounds import Bound
from .kept import held, per_map
from .lines import NO_HEAD, STATUSES, Beyond, Head, answer_of, filled, head_lines, proven, remarked, remarks, text
from .reading import Tables, bad_escape, ill_escaped, look_up, only_as_sent, seen, spelled, tables_of, with_nul
from .stages import Entry, Stages, stages

CONF, TABLE, HTACCESS = "redirects.apache.conf", "redirects.lines.txt", ".htaccess"
LINE = 900  # bytes of key and answer: sdbm keeps no pair over 1,008, and a text map's line ends at 1,024
AS_TEXT = 2_000  # lines up to which the table may stay text: a text map is read from its top for every new key
_KEPT = "!$&'()*+,-./:;=@_~"  # as int:escape leaves them
_REQUEST, _ENDS = r"^[^ ]+ (?:https?://[^/ ]+)?", r" HTTP/[0-9.]+$"
_EMPTY = "RewriteCond %{ENV:GF_TO} ^$"
_URI = "${gf_lines:${gf_escape:%{REQUEST_URI}}}"
_FULL = "${gf_lines:${gf_escape:%{REQUEST_URI}}?%{QUERY_STRING}}"
_TAKE = "RewriteRule ^ - [E=GF_TO:%1]"


def escaped(path: str) -> str:
    """A path as ``int:escape`` writes a decoded one: escapes in lower case."""
    made = quote(decoded(path).encode("utf-8", "surrogateescape"), safe=_KEPT)
    return re.sub("%[0-9A-F]{2}", lambda m: m[0].lower(), made)


def _key(line: Redirect, query: str) -> str:
    path, mark, _ = line.old.partition("?")
    return escaped(path) + mark + query


def _as_sent(line: Redirect) -> bool:
    return only_as_sent(line) or len(_key(line, line.old.partition("?")[2])) + len(line.new) > LINE


@per_map
def _has_slash(redirects: RedirectMap) -> bool:
    return any(map(_slash_in, redirects.exact.values()))


@per_map
def _tables(redirects: RedirectMap) -> Tables:
    return tables_of(redirects.exact.values(), _as_sent)


def _stages(redirects: RedirectMap) -> Stages:
    return stages(redirects, _tables(redirects), _key)


def _slash_in(line: Redirect) -> bool:
    return "%2f" in line.old.partition("?")[0].lower()


def _long_part(line: Redirect) -> bool:
    """Whether a part of the path is longer than a name in a file system (255 bytes)."""
    path = decoded(line.old.partition("?")[0])
    return any(len(part.encode("utf-8", "surrogateescape")) > 255 for part in path.split("/"))


def _refused(redirects: RedirectMap) -> list[Beyond]:
    return with_nul(redirects) + ill_escaped(redirects)


def _beyond_rules(redirects: RedirectMap) -> list[Beyond]:
    slashes = [Beyond(r, Bound.NO_ENCODED_SLASH) for r in redirects.exact.values() if _slash_in(r)]
    ruled = [r for r in redirects.redirects if r.match != "exact" and "," in r.new]
    long = [Beyond(r, Bound.LONG_PART) for r in redirects.exact.values() if _long_part(r)]
    return [*_refused(redirects), *slashes, *long, *(Beyond(r, Bound.COMMA) for r in ruled)]


_held, _held_by_rules = held(_refused), held(_beyond_rules)


class Apache:
    """Apache's own configuration, as ``ports.servers.Server``: to be included in the virtual host."""

    name = "apache"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        redirects = _held(redirects)
        made = _stages(redirects)
        large = len(made.table) > AS_TEXT
        base, folder = TABLE.removesuffix(".txt"), "${REDIRECTS}"
        conf = [
            *(f"# {line}" for line in head_lines(head, redirects, self.bounds(redirects))),
            "# To be included in the virtual host (which inherits no rules); needs mod_rewrite.",
            f"# Put {TABLE} into the folder REDIRECTS, or define another one before this file is included.",
            *([f"# In that folder: httxt2dbm -f sdbm -i {TABLE} -o {base}.sdbm"] if large else []),
            "<IfDefine !REDIRECTS>",
            "  Define REDIRECTS /etc/apache2/redirects",
            "</IfDefine>",
            "RewriteEngine On",
            *(["AllowEncodedSlashes NoDecode"] if _has_slash(redirects) else []),
            "RewriteMap gf_escape int:escape",
            "RewriteMap gf_unescape int:unescape",
            f'RewriteMap gf_lines "{f"dbm=sdbm:{folder}/{base}.sdbm" if large else f"txt:{folder}/{TABLE}"}"',
            *_rules("sent", made.sent),
            *_looked_up(_FULL, "RewriteCond %{QUERY_STRING} ."),
            *_looked_up(_URI, "RewriteCond %{QUERY_STRING} ^$"),
            *_rules("pattern", made.patterns),
            *_rules("sent path", made.sent_path),
            *_looked_up(_URI),
            *_rules("folder", made.prefixes),
            *_redirects(),
            *remarks(redirects.redirects),
        ]
        return {CONF: text(conf), TABLE: text(f"{key} {said}" for key, said in made.table)}

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        conf = files[CONF].decode("utf-8", "surrogateescape")
        lines = remarked(conf)
        rows = files[TABLE].decode("utf-8", "surrogateescape").split("\n")
        table = [(key, said) for key, _, said in (row.partition(" ") for row in rows if row)]
        made = _stages(map_of(lines))
        return proven(lines, {"table": made.table} | _by_regex(made), {"table": table} | _read_rules(conf))

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        redirects = _held(redirects)
        return _answered(redirects, _tables(redirects), request, _has_slash(redirects))

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return _refused(redirects)

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        slash = Bound.ENCODED_SLASH if _has_slash(redirects) else Bound.NO_ENCODED_SLASH
        large = [Bound.MAKE_TABLE] if len(redirects.exact) > AS_TEXT else []
        return [Bound.ABSOLUTE, Bound.AS_SENT, Bound.NUL, Bound.BAD_ESCAPE, slash, *large]


class Htaccess:
    """Rules alone, for where the server's own configuration is out of reach, as ``ports.servers.Server``."""

    name = "htaccess"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        redirects = _held_by_rules(redirects)
        made = _stages(redirects)
        plain = list(_tables(redirects).plain.values())
        lines = [
            *(f"# {line}" for line in head_lines(head, redirects, self.bounds(redirects))),
            "# For the top folder of the site; needs mod_rewrite, AllowOverride FileInfo, Options FollowSymLinks.",
            "RewriteEngine On",
            *_rules("sent", made.sent, maps=False),
            *_redirects(),
            *(row for line in plain if "?" in line.old for row in _exact(line)),
            *(row for line in plain if "?" not in line.old for row in _exact(line, no_query=True)),
            *_rules("pattern", made.patterns),
            *_rules("sent path", made.sent_path, maps=False),
            *_redirects(),
            *(row for line in plain if "?" not in line.old for row in _exact(line)),
            *_rules("folder", made.prefixes),
            *_redirects(),
            *remarks(redirects.redirects),
        ]
        return {HTACCESS: text(lines)}

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        conf = files[HTACCESS].decode("utf-8", "surrogateescape")
        lines = remarked(conf)
        redirects = map_of(lines)
        plain = list(_tables(redirects).plain.values())
        ordered = [r for r in plain if "?" in r.old] + [r for r in plain if "?" not in r.old] * 2
        exact = [(_path_regex(r.old.partition("?")[0]), f"{r.status} {r.new}".rstrip()) for r in ordered]
        return proven(lines, {"exact": exact} | _by_regex(_stages(redirects)), _read_rules(conf))

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        redirects = _held_by_rules(redirects)
        return _answered(redirects, _tables(redirects), request, slashes=False)

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return _beyond_rules(redirects)

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        return [
            Bound.ABSOLUTE,
            Bound.AS_SENT,
            Bound.NUL,
            Bound.BAD_ESCAPE,
            Bound.NO_ENCODED_SLASH,
            Bound.EVERY_LINE,
        ]


def _answered(redirects: RedirectMap, tables: Tables, request: str, slashes: bool) -> Answer | None:
    path = request.partition("?")[0].lower()
    if "%00" in path or bad_escape(path) or ("%2f" in path and not slashes):
        return None
    return look_up(redirects, tables, seen(request, slashes=False))


def _by_regex(made: Stages) -> dict[str, list[Entry]]:
    return {"sent": made.sent, "pattern": made.patterns, "sent path": made.sent_path, "folder": made.prefixes}


def _rules(name: str, entries: Sequence[Entry], maps: bool = True) -> Iterator[str]:
    """Rules that are held against the request as sent; the first that fits says where to. Without ``maps`` a comma
    cannot be said within a flag, and an answer that holds one is given on the spot."""
    if entries:
        yield f"# {name}"
    for regex, said in entries:
        yield _EMPTY
        yield f'RewriteCond %{{THE_REQUEST}} "{_REQUEST}(?:{regex}){_ENDS}"'
        if maps or "," not in said:
            yield f'RewriteRule ^ - "[E=GF_TO:{_flag(said)}]"'
        else:
            status, new = answer_of(said)
            yield f'RewriteRule ^ "{_literal(new)}" [R={status},NE,L,QSD]'


def _flag(said: str) -> str:
    """An answer within a flag: escapes are no captured parts, a comma ends no flag."""
    literal = said.replace("%", r"\%").replace(",", r"${gf_unescape:\%2c}")
    return filled(literal, "%{}")


def _literal(new: str) -> str:
    return new.replace("%", r"\%")


def _looked_up(key: str, *conditions: str) -> Iterator[str]:
    yield from (_EMPTY, *conditions, f"RewriteCond {key} ^(.+)$", _TAKE)


def _redirects() -> Iterator[str]:
    """What was found is answered; a captured part makes no other host's address."""
    yield "RewriteCond %{ENV:GF_TO} ^((?:30[278]:)?)/{2,}(.*)$"
    yield "RewriteRule ^ - [E=GF_TO:%1/%2]"
    yield "RewriteCond %{ENV:GF_TO} ^410$"
    yield "RewriteRule ^ - [G]"
    for signs, flag in ((">=", ",UnsafeAllow3F"), ("<", "")):  # the flag is asked for, and known, since then
        yield f"<IfVersion {signs} 2.4.60>"
        for status in STATUSES[:-1]:
            head = "" if status == 301 else f"{status}:"
            yield f"  RewriteCond %{{ENV:GF_TO}} ^{head}({'/.*|https?:.*' if not head else '.+'})$"
            yield f"  RewriteRule ^ %1 [R={status},NE,L,QSD{flag}]"
        yield "</IfVersion>"


def _path_regex(path: str) -> str:
    """A regular expression, byte by byte, for a decoded path without its first slash."""
    raw = decoded(path).encode("utf-8", "surrogateescape")[1:]
    return "^" + "".join(chr(b) if chr(b).isalnum() and b < 128 or b in b"/-_" else f"\\x{b:02X}" for b in raw) + "$"


def _exact(line: Redirect, no_query: bool = False) -> Iterator[str]:
    path, mark, query = line.old.partition("?")
    if mark:
        yield f'RewriteCond %{{QUERY_STRING}} "^{spelled(query)}$"'
    elif no_query:
        yield "RewriteCond %{QUERY_STRING} ^$"
    if line.status == 410:
        yield f'RewriteRule "{_path_regex(path)}" - [G]'
    else:
        yield f'RewriteRule "{_path_regex(path)}" "{_literal(line.new)}" [R={line.status},NE,L,QSD]'


_RULE = re.compile(r'^RewriteRule "([^"]*)" (?:"([^"]*)"|-) \[(?:R=(\d+),NE,L,QSD|G)\]$')
_ASKED = re.compile(r'^RewriteCond %\{THE_REQUEST\} "([^"]*)"$')
_TOLD = re.compile(r'^RewriteRule \^ "([^"]*)" \[R=(\d+),NE,L,QSD\]$')
_GIVEN = re.compile(r'^RewriteRule \^ - "\[E=GF_TO:([^"]*)\]"$')


def _read_rules(conf: str) -> dict[str, list[Entry]]:
    """The rules of a file, read as Apache reads them."""
    found: dict[str, list[Entry]] = {}
    stage, regex = "", ""
    for row in conf.split("\n"):
        if row.startswith("# line "):
            break
        if row.startswith("# "):
            stage = row[2:]
        elif asked := _ASKED.match(row):
            regex = asked[1].removeprefix(f"{_REQUEST}(?:").removesuffix(f"){_ENDS}")
        elif given := _GIVEN.match(row):
            groups = re.sub(r"(?<!\\)%(\d)", r"{\1}", given[1])
            said = groups.replace(r"${gf_unescape:\%2c}", ",").replace(r"\%", "%")
            found.setdefault(stage, []).append((regex, said))
        elif told := _TOLD.match(row):
            new = told[1].replace(r"\%", "%")
            found.setdefault(stage, []).append((regex, new if told[2] == "301" else f"{told[2]}:{new}"))
        elif rule := _RULE.match(row):
            to = (rule[2] or "").replace(r"\%", "%")
            found.setdefault("exact", []).append((rule[1], f"{rule[3] or 410} {to}".rstrip()))
    return found
