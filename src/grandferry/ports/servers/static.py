"""A ``_redirects`` file, as hosts of static sites read it: ``old new status`` a line, the first that fits counts.

``*`` at the end of an old address stands for the rest, ``:splat`` in the new one for the same; ``name=value`` between
the two for parameters that have to be there. There are no regular expressions, and no 410.
"""

from __future__ import annotations

from grandferry.core.route.evaluate import Answer, carried
from grandferry.core.route.redirects import Redirect, RedirectMap, decoded, map_of, safe_target

from .bounds import Bound
from .kept import held, per_map
from .lines import NO_HEAD, Beyond, Head, head_lines, proven, remarked, remarks, text
from .reading import canonical, folded
from .stages import Entry

FILE = "_redirects"


def _cannot(redirects: RedirectMap) -> list[Beyond]:
    made = []
    for line in redirects.redirects:
        if line.match == "pattern":
            made.append(Beyond(line, Bound.NO_PATTERN))
        elif line.status == 410:
            made.append(Beyond(line, Bound.NO_GONE))
        elif "?" in line.old and not all("=" in part for part in line.old.partition("?")[2].split("&")):
            made.append(Beyond(line, Bound.BARE_QUERY))
        elif "%2f" in line.old.partition("?")[0].lower():
            made.append(Beyond(line, Bound.NO_ENCODED_SLASH))
    return made


_held = held(_cannot)


@per_map
def _lines(redirects: RedirectMap) -> dict[str, Redirect]:
    return {_key(r.old): r for r in redirects.exact.values()}


class RedirectsFile:
    """As ``ports.servers.Server``."""

    name = "redirects-file"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        redirects = _held(redirects)
        lines = [f"# {line}" for line in head_lines(head, redirects, self.bounds(redirects))]
        lines += [f"{key} {said}" for key, said in _rows(redirects)]
        return {FILE: text([*lines, *remarks(redirects.redirects)])}

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        said = files[FILE].decode("utf-8", "surrogateescape")
        rows = [row.split(" ") for row in said.split("\n") if row and not row.startswith("#")]
        lines = remarked(said)
        found = [(" ".join(row[:-2]), " ".join(row[-2:])) for row in rows]
        return proven(lines, {"lines": _rows(map_of(lines))}, {"lines": found})

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        redirects = _held(redirects)
        lines = _lines(redirects)
        raw, _, query = request.partition("?")
        path = folded(decoded(raw))
        found = lines.get(f"{path}?{canonical(query)}") if query else None
        found = found or lines.get(path)
        if found is not None:
            return Answer(found.status, found.new, found)
        key = safe_target(path).replace("?", "%3F").replace("#", "%23")
        prefix = redirects.prefix_for(key)
        return None if prefix is None else Answer(prefix.status, carried(prefix, key), prefix)

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return _cannot(redirects)

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        asked = [Bound.QUERY_LINES] if any("?" in r.old for r in redirects.exact.values()) else []
        return [Bound.NO_PATTERN, Bound.NO_GONE, Bound.FEW_LINES, *asked]


def _key(old: str) -> str:
    path, mark, query = old.partition("?")
    return folded(decoded(path)) + mark + query


def _word(path: str) -> str:
    """A path in which nothing is a placeholder."""
    return safe_target(path).replace("*", "%2A").replace("/:", "/%3A")


def _rows(redirects: RedirectMap) -> list[Entry]:
    """The lines in the order in which they are asked: old address (and parameters), new address and status."""
    asked: list[Entry] = []
    plain: list[Entry] = []
    folders: list[Entry] = []
    for line in redirects.exact.values():
        path, mark, query = line.old.partition("?")
        row = (
            f"{_word(path)} {safe_target(query).replace('&', ' ')}" if mark else _word(path),
            f"{line.new} {line.status}",
        )
        (asked if mark else plain).append(row)
    for line in redirects.prefixes:
        old = _word(line.old).rstrip("/")
        folders.append((old or "/", f"{line.new} {line.status}"))
        folders.append((f"{old}/*", f"{line.new.rstrip('/')}/:splat {line.status}"))
    return [*asked, *plain, *folders]
