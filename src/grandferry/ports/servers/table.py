"""The redirect map for people and scripts: as CSV (old,new,status,match), and as JSON."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping
from typing import Any

from grandferry.core.route.evaluate import Answer, evaluate
from grandferry.core.route.redirects import Redirect, RedirectMap, map_of

from .bounds import Bound
from .lines import NO_HEAD, Beyond, Head

FILE, JSON = "redirects.csv", "redirects.json"
COLUMNS = ("old", "new", "status", "match")


class Table:
    """A table, as ``ports.servers.Server``: it answers as the map itself does."""

    name = "csv"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        """No head: a table has no place for one."""
        out = io.StringIO(newline="")
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(COLUMNS)
        writer.writerows([r.old, r.new, r.status, r.match] for r in redirects.redirects)
        return {FILE: out.getvalue().encode()}

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        return map_of(map(_line, csv.DictReader(io.StringIO(files[FILE].decode(), newline=""))))

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        return evaluate(redirects, request)

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return []

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        return []


class Json(Table):
    """The map with its head, for programs."""

    name = "json"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        made = {
            "of": head.of,
            "changed": head.changed,
            "count": len(redirects.redirects),
            "lines": [{name: getattr(r, name) for name in COLUMNS} for r in redirects.redirects],
        }
        return {JSON: (json.dumps(made, ensure_ascii=False, indent=1) + "\n").encode()}

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        return map_of(map(_line, json.loads(files[JSON])["lines"]))


def _line(said: Mapping[str, Any]) -> Redirect:
    return Redirect(said["old"], said["new"], int(said["status"]), said["match"])
