"""The redirect map as CSV: old,new,status,match."""

from __future__ import annotations

import csv
import io

from grandferry.core.route.redirects import Redirect, RedirectMap, map_of

NAME = "redirects.csv"


def write(redirects: RedirectMap) -> dict[str, bytes]:
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["old", "new", "status", "match"])
    writer.writerows([r.old, r.new, r.status, r.match] for r in redirects.redirects)
    return {NAME: out.getvalue().encode()}


def read(files: dict[str, bytes]) -> RedirectMap:
    lines = csv.DictReader(io.StringIO(files[NAME].decode(), newline=""))
    return map_of(
        Redirect(line["old"], line["new"], int(line["status"]), line["match"])  # type: ignore[arg-type]
        for line in lines
    )
