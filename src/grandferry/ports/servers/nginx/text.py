"""The redirect map for nginx: maps for the http block, tests for the server block.

Keys of string maps are compared decoded and without case; lines for which that would be wrong are matched
as sent (see ``keys``). Values hold the status: ``/new`` is 301, ``308:/new``, ``410``.
Sources: nginx ngx_http_map_module, ngx_http_rewrite_module.
"""

from __future__ import annotations

import re

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import Redirect, RedirectMap, decoded, map_of

from ..bounds import Bound
from ..lines import NO_HEAD, STATUSES, Head, head_lines, remarked, remarks, target, value
from ..reading import spelled
from ..stages import folder
from .keys import split

BOUNDS = (Bound.CASE, Bound.AS_SENT, Bound.NUL, Bound.BAD_ESCAPE, Bound.ABOVE)

HTTP, SERVER = "redirects.http.conf", "redirects.server.conf"
LONGEST = 4_090  # bytes of one word of a file
_STAGES = ("sent", "full", "pattern", "sentpath", "path", "prefix")


def _quote(text: str) -> str:
    """A quoted nginx token: backslash, quote and control characters escaped."""
    text = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + text.replace("\n", "\\n").replace("\r", "\\r").replace("\t", "\\t") + '"'


def _raw_lines(redirect: Redirect) -> dict[str, str]:
    """The lines of an address that is matched as sent: stage -> line."""
    path, mark, query = redirect.old.partition("?")
    said = _quote(value(redirect, target(redirect.new)))
    whole = f"~^{spelled(path)}" + (rf"\?{spelled(query)}$" if mark else r"\??$")
    lines = {"sent": f"{_quote(whole)} {said};"}
    if not mark:
        unknown_query = f"~^{spelled(path)}" + r"\?"
        lines["sentpath"] = f"{_quote(unknown_query)} {said};"
    return lines


def _pattern_line(number: int, redirect: Redirect) -> str:
    regex, names = _named_groups(redirect.old, number)
    new = target(redirect.new)
    for group, name in names.items():
        new = new.replace(f"{{{group}}}", f"${{{name}}}")
    return f"{_quote('~^(?:' + regex + ')$')} {_quote(value(redirect, new))};"


def _named_groups(pattern: str, number: int) -> tuple[str, dict[int, str]]:
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
                names[group] = f"gf{number}_{group}"
                out.append(f"(?<{names[group]}>")
                at += len(named[0]) if named else 1
                continue
        out.append(char)
        at += 1
    return "".join(out), names


def _prefix_lines(number: int, redirect: Redirect) -> list[str]:
    old, new = redirect.old, target(redirect.new)
    head = f"~^{spelled(old)}"
    whole = f"{_quote('~^' + folder(old) + '(?:' + chr(92) + '?.*)?$')} {_quote(value(redirect, new))};"
    name = f"gp{number}"
    rest = "[^?]+" if old.endswith("/") else "/[^?]*"
    joined = new.rstrip("/") + ("/" if old.endswith("/") else "") + f"${{{name}}}"
    carried = head + f"(?<{name}>{rest})" + r"(?:\?.*)?$"
    return [whole, f"{_quote(carried)} {_quote(value(redirect, joined))};"]


def _check_lengths(redirects: RedirectMap) -> None:
    """Raises FerryError for lines that nginx would not read: a word or a remark longer than its buffer
    (ngx_conf_file.c, NGX_CONF_BUFFER)."""
    plain, raw = split(redirects)
    needs = [(r, [_quote(decoded(r.old)), _quote(target(r.new))]) for r in plain]
    needs += [(r, [*_raw_lines(r).values()]) for r in raw]
    needs += [(r, [_pattern_line(k, r)]) for k, (_, r) in enumerate(redirects.patterns)]
    needs += [(r, _prefix_lines(k, r)) for k, r in enumerate(redirects.prefixes)]
    long = [r.old for r, texts in needs if any(map(_too_long, [*remarks([r]), *texts]))]
    if long:
        shown = ", ".join(f"{old[:60]}…{old[-20:]}" if len(old) > 90 else old for old in long[:5])
        raise FerryError(
            f"nginx reads no line of {LONGEST:,} bytes or more, and {len(long):,} need one: {shown}.",
            "Retire or set aside these addresses, or give them a shorter new one.",
        )


def _too_long(text: str) -> bool:
    return len(text) * 4 >= LONGEST and len(text.encode("utf-8", "surrogateescape")) >= LONGEST


def write(redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
    """Two files. Each line carries its neutral form as a comment, from which it is read back. Raises FerryError for a
    line that nginx would not read."""
    _check_lengths(redirects)
    plain, raw = split(redirects)
    exact: dict[str, list[str]] = {stage: [] for stage in ("sent", "full", "sentpath", "path")}
    longest = 64
    for r in plain:
        path, mark, query = r.old.partition("?")
        key = decoded(path) + mark + query
        longest = max(longest, len(key.encode("utf-8", "surrogateescape")) + 32)
        line = f"{_quote(key)} {_quote(value(r, target(r.new)))};"
        exact["full"].append(line)
        if not mark:
            exact["path"].append(line)
    for r in raw:
        for stage, line in _raw_lines(r).items():
            exact[stage].append(line)
    patterns = [_pattern_line(k, r) for k, (_, r) in enumerate(redirects.patterns)]
    prefixes = [line for k, r in enumerate(redirects.prefixes) for line in _prefix_lines(k, r)]
    bucket = 64
    while bucket < longest:
        bucket *= 2
    size = max(2048, 2 ** (max(1, len(exact["full"])) * 2 - 1).bit_length())
    maps = (
        ("sent", "$request_uri", exact["sent"], "addresses that only the request as sent tells apart"),
        ("full", '"$uri$is_args$args"', exact["full"], "path and query, or path alone"),
        ("pattern", "$request_uri", patterns, "patterns, in order"),
        ("sentpath", "$request_uri", exact["sentpath"], "the same, an unknown query dropped"),
        ("path", "$uri", exact["path"], "path, an unknown query dropped"),
        ("prefix", "$request_uri", prefixes, "folders, longest first"),
    )
    http = [
        *(f"# {line}" for line in head_lines(head, redirects, BOUNDS)),
        f"# To be included in the http block; {SERVER} in the server block, before any location.",
        f"map_hash_max_size {size};",
        f"map_hash_bucket_size {bucket};",
    ]
    for name, source, lines, what in maps:
        http += ["", f"# {what}", f"map {source} $gf_{name} {{", '  default "";']
        http += ["  " + line for line in lines]
        http.append("}")
    http.append("")
    http += remarks(redirects.redirects)
    server = ["# Redirect map. Include in the server block, before any location.", "absolute_redirect off;"]
    others = [status for status in STATUSES if status not in (301, 410)]
    for name in _STAGES:
        if name in ("pattern", "prefix"):  # a captured or carried part must not make another host's address
            for status in others:
                server.append(f'if ($gf_{name} ~ "^{status}:/{{2,}}(.*)$") {{ return {status} /$1; }}')
            server.append(f'if ($gf_{name} ~ "^/{{2,}}(.*)$") {{ return 301 /$1; }}')
        server.append(f"if ($gf_{name} = 410) {{ return 410; }}")
        server += [f'if ($gf_{name} ~ "^{status}:(.*)$") {{ return {status} $1; }}' for status in others]
        server.append(f"if ($gf_{name}) {{ return 301 $gf_{name}; }}")
    return {
        HTTP: ("\n".join(http) + "\n").encode("utf-8", "surrogateescape"),
        SERVER: ("\n".join(server) + "\n").encode(),
    }


_TOKEN = re.compile(rb'"((?:[^"\\]|\\.)*)"\s+"((?:[^"\\]|\\.)*)";')


def _unquote(token: bytes) -> str:
    def plain(match: re.Match[str]) -> str:
        return {"n": "\n", "r": "\r", "t": "\t"}.get(match[1], match[1])

    return re.sub(r"\\(.)", plain, token.decode("utf-8", "surrogateescape"), flags=re.S)


def read(files: dict[str, bytes]) -> RedirectMap:
    """The map the files say: lines from the comments, each proven by the directive that stands for it.

    A comment whose directive is missing or says another target is left out, so that the comparison fails.
    """
    stated: dict[str, set[tuple[str, str]]] = {}
    current = ""
    for line in files[HTTP].split(b"\n"):
        opened = re.match(rb"map \S+ \$gf_(\w+) \{", line)
        if opened:
            current = opened[1].decode()
        token = _TOKEN.search(line)
        if token and current:
            stated.setdefault(current, set()).add((_unquote(token[1]), _unquote(token[2])))
    counts = {"pattern": 0, "prefix": 0}
    found = remarked(files[HTTP].decode("utf-8", "surrogateescape"))
    table = map_of(found)
    plain, _ = split(table)
    simple = set(plain)
    kept = []
    for redirect in found:
        if redirect.match == "exact":
            lines, stage = [_raw_lines(redirect)["sent"]], "sent"
            if redirect in simple:
                path, mark, query = redirect.old.partition("?")
                key = decoded(path) + mark + query
                lines, stage = [f"{_quote(key)} {_quote(value(redirect, target(redirect.new)))};"], "full"
        elif redirect.match == "pattern":
            lines, stage = [_pattern_line(counts["pattern"], redirect)], "pattern"
            counts["pattern"] += 1
        else:
            lines, stage = (
                _prefix_lines(table.prefixes.index(redirect), redirect) if redirect in table.prefixes else [],
                "prefix",
            )
        wanted = set()
        for line in lines:
            token = _TOKEN.search(line.encode("utf-8", "surrogateescape"))
            if token:
                wanted.add((_unquote(token[1]), _unquote(token[2])))
        if wanted <= stated.get(stage, set()):
            kept.append(redirect)
    return map_of(kept)
