"""The redirect map for nginx: maps for the http block, tests for the server block.

Keys of string maps are compared decoded and without case; lines for which that would be wrong are matched
as sent (see ``keys``). Values hold the status: ``/new`` is 301, ``308:/new``, ``410``.
Sources: nginx ngx_http_map_module, ngx_http_rewrite_module.
"""

from __future__ import annotations

import re

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import RedirectMap, decoded, map_of

from ..bounds import Bound
from ..lines import NO_HEAD, STATUSES, Head, head_lines, proven, remarked, remarks, target, text, value
from ..reading import Tables, upper_escapes
from ..stages import Entry, stages
from .keys import split

BOUNDS = (Bound.CASE, Bound.AS_SENT, Bound.NUL, Bound.BAD_ESCAPE, Bound.ABOVE)

HTTP, SERVER = "redirects.http.conf", "redirects.server.conf"
LONGEST = 4_090  # bytes of one word of a file
# stage -> what is looked up in its map, and what the map holds; the order is that of the tests
_STAGES = {
    "sent": ("$request_uri", "addresses that only the request as sent tells apart"),
    "full": ('"$uri?$args"', "path and query"),
    "plain": ("$is_args", "path alone, where there is no query"),
    "pattern": ("$request_uri", "patterns, in order"),
    "sentpath": ("$request_uri", "as sent, an unknown query dropped"),
    "path": ("$uri", "path, an unknown query dropped"),
    "prefix": ("$request_uri", "folders, longest first"),
}
_OWN_HOST = ("pattern", "prefix")  # a captured or carried part must not make another host's address


def _quote(text: str) -> str:
    """A quoted nginx token: backslash, quote and control characters escaped."""
    text = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + text.replace("\n", "\\n").replace("\r", "\\r").replace("\t", "\\t") + '"'


def _named_groups(pattern: str, name: str) -> tuple[str, dict[int, str]]:
    """An RE2 pattern with its capturing groups named, since nginx keeps only named ones for a map's value."""
    out, names = [], {}
    at, group, in_class = 0, 0, False
    while at < len(pattern):
        char = pattern[at]
        if char == "\\":
            out.append(pattern[at : at + 2])
            at += 2
            continue
        if in_class:
            in_class = char != "]"
        elif char == "[":
            in_class = True
            out.append(char)
            at += 1
            if pattern[at : at + 1] == "^":
                out.append("^")
                at += 1
            if pattern[at : at + 1] == "]":
                out.append("\\]")
                at += 1
            continue
        elif char == "(":
            named = re.match(r"\(\?P?<[^>]+>", pattern[at:])
            if named or pattern[at + 1 : at + 2] != "?":
                group += 1
                names[group] = f"{name}_{group}"
                out.append(f"(?<{names[group]}>")
                at += len(named[0]) if named else 1
                continue
        out.append(char)
        at += 1
    return "".join(out), names


def _entries(redirects: RedirectMap) -> dict[str, list[Entry]]:
    """The maps of the http block, by stage: regular expressions begin with ``~``."""
    plain, raw = split(redirects)
    made = stages(redirects, Tables({upper_escapes(line.old): line for line in raw}, {}), lambda line, query: "")
    found: dict[str, list[Entry]] = {stage: [] for stage in _STAGES}
    for line in plain:
        path, mark, query = line.old.partition("?")
        said = value(line, target(line.new))
        found["full" if mark else "path"].append((decoded(path) + mark + query, said))
    found["sent"] = [(f"~^{regex}$", said) for regex, said in made.sent]
    found["sentpath"] = [(f"~^{regex}$", said) for regex, said in made.sent_path]
    found["pattern"] = [_with_names(regex, said, f"gf{n}") for n, (regex, said) in enumerate(made.patterns)]
    found["prefix"] = [_with_names(regex, said, f"gp{n}") for n, (regex, said) in enumerate(made.prefixes)]
    return found


def _with_names(regex: str, said: str, name: str) -> Entry:
    named, names = _named_groups(regex, name)
    for group, called in names.items():
        said = said.replace(f"{{{group}}}", f"${{{called}}}")
    return f"~^(?:{named})$", said


def _check_lengths(redirects: RedirectMap, entries: dict[str, list[Entry]]) -> None:
    """Raises FerryError for lines that nginx would not read: a word or a remark longer than its buffer
    (ngx_conf_file.c, NGX_CONF_BUFFER)."""
    words = [(key, _quote(word)) for rows in entries.values() for key, said in rows for word in (key, said)]
    words += [
        (line.old, remark) for line, remark in zip(redirects.redirects, remarks(redirects.redirects), strict=True)
    ]
    long = list(dict.fromkeys(key.removeprefix("~^").removeprefix("(?:") for key, word in words if _too_long(word)))
    if long:
        shown = ", ".join(f"{old[:60]}…{old[-20:]}" if len(old) > 90 else old for old in long[:5])
        raise FerryError(
            f"nginx reads no line of {LONGEST:,} bytes or more, and {len(long):,} need one: {shown}.",
            "Retire or set aside these addresses, or give them a shorter new one.",
        )


def _too_long(word: str) -> bool:
    return len(word) * 4 >= LONGEST and len(word.encode("utf-8", "surrogateescape")) >= LONGEST


def write(redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
    """Two files. Each line carries its neutral form as a comment, from which it is read back. Raises FerryError for a
    line that nginx would not read."""
    entries = _entries(redirects)
    _check_lengths(redirects, entries)
    keys = [key for stage in ("full", "path") for key, _ in entries[stage]]
    longest = max([64, *(len(key.encode("utf-8", "surrogateescape")) + 32 for key in keys)])
    bucket = 2 ** (longest - 1).bit_length()
    size = max(2048, 2 ** (max(1, len(keys)) * 2 - 1).bit_length())
    http = [
        *(f"# {line}" for line in head_lines(head, redirects, BOUNDS)),
        f"# To be included in the http block; {SERVER} in the server block, before any location.",
        f"map_hash_max_size {size};",
        f"map_hash_bucket_size {bucket};",
    ]
    for stage, (source, what) in _STAGES.items():
        http += ["", f"# {what}", f"map {source} $gf_{stage} {{", '  default "";']
        if stage == "plain":
            http.append('  "" $gf_path;')
        http += [f"  {_quote(key)} {_quote(said)};" for key, said in entries[stage]]
        http.append("}")
    server = ["# Redirect map. Include in the server block, before any location.", "absolute_redirect off;"]
    others = [status for status in STATUSES if status not in (301, 410)]
    for stage in _STAGES:
        if stage in _OWN_HOST:
            for status in others:
                server.append(f'if ($gf_{stage} ~ "^{status}:/{{2,}}(.*)$") {{ return {status} /$1; }}')
            server.append(f'if ($gf_{stage} ~ "^/{{2,}}(.*)$") {{ return 301 /$1; }}')
        server.append(f"if ($gf_{stage} = 410) {{ return 410; }}")
        server += [f'if ($gf_{stage} ~ "^{status}:(.*)$") {{ return {status} $1; }}' for status in others]
        server.append(f"if ($gf_{stage}) {{ return 301 $gf_{stage}; }}")
    return {HTTP: text([*http, "", *remarks(redirects.redirects)]), SERVER: text(server)}


_TOKENS = re.compile(rb'^  "((?:[^"\\]|\\.)*)" "((?:[^"\\]|\\.)*)";$')


def _unquote(token: bytes) -> str:
    def plain(match: re.Match[str]) -> str:
        return {"n": "\n", "r": "\r", "t": "\t"}.get(match[1], match[1])

    word = token.decode("utf-8", "surrogateescape")
    return re.sub(r"\\(.)", plain, word, flags=re.S) if "\\" in word else word


def read(files: dict[str, bytes]) -> RedirectMap:
    """The map the files say: lines from the comments, proven by the directives read as nginx reads them."""
    found: dict[str, list[Entry]] = {}
    stage = ""
    for row in files[HTTP].split(b"\n"):
        if opened := re.match(rb"map \S+ \$gf_(\w+) \{", row):
            stage = opened[1].decode()
        elif stage and (tokens := _TOKENS.match(row)):
            found.setdefault(stage, []).append((_unquote(tokens[1]), _unquote(tokens[2])))
    lines = remarked(files[HTTP].decode("utf-8", "surrogateescape"))
    return proven(lines, _entries(map_of(lines)), found)
