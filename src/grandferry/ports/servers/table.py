"""The redirect map as CSV: old,new,status,match."""

from __future__ import annotations

import csv
import io

from grandferry.core.route.evaluate import Answer, evaluate
from grandferry.core.route.redirects import Redirect, RedirectMap, map_of

FILE = "redirects.csv"


class Table:
    """A table for people and scripts, as ``ports.servers.Server``: it answers as the map itself does."""

    name = "csv"

    def write(self, redirects: RedirectMap) -> dict[str, bytes]:
        return _write(redirects)

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        return _read(files)

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        return evaluate(redirects, request)

    def cannot(self, redirects: RedirectMap) -> list[str]:
        return []


def _write(redirects: RedirectMap) -> dict[str, bytes]:
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["old", "new", "status", "match"])
    writer.writerows([r.old, r.new, r.status, r.match] for r in redirects.redirects)
    return {FILE: out.getvalue().encode()}


def _read(files: dict[str, bytes]) -> RedirectMap:
    lines = csv.DictReader(io.StringIO(files[FILE].decode(), newline=""))
    return map_of(
        Redirect(line["old"], line["new"], int(line["status"]), line["match"])  # type: ignore[arg-type]
        for line in lines
    )
