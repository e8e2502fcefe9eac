"""``python -m grandferry.demo prepare|serve``: write the demo's plan, log and truth; serve its sites."""

from __future__ import annotations

import argparse
import asyncio
import json
import sys
from importlib import resources
from pathlib import Path
from typing import Any

import yaml

from .lists import write_lists
from .server import serve
from .site import Site
from .wider import WHOLE, build

PORTS = (8702, 8703)


def prepare(folder: Path, site: Site, old_port: int, new_port: int) -> None:
    """Write ``folder/plan`` (with the access log in it), ``folder/lists`` and ``folder/truth.json``."""
    plan = folder / "plan"
    plan.mkdir(parents=True, exist_ok=True)
    ship = resources.files("grandferry.demo").joinpath("plan")
    text, pairs = ship.joinpath("plan.yaml").read_text("utf-8"), ship.joinpath("pairs.csv").read_text("utf-8")
    if site.whole:
        more = yaml.safe_load(ship.joinpath("whole.yaml").read_text("utf-8"))
        text = yaml.safe_dump(joined(yaml.safe_load(text), more), sort_keys=False, allow_unicode=True, width=118)
        pairs += ship.joinpath("whole.csv").read_text("utf-8").partition("\n")[2]
    for name, content in (("plan.yaml", text), ("pairs.csv", pairs)):
        content = content.replace(f":{PORTS[0]}", f":{old_port}").replace(f":{PORTS[1]}", f":{new_port}")
        (plan / name).write_text(content, "utf-8")
    (plan / "access.log").write_text("\n".join(site.log) + "\n", "utf-8")
    write_lists(folder / "lists", site)
    (folder / "truth.json").write_text(json.dumps(site.truth, ensure_ascii=False, indent=1), "utf-8")


def joined(one: Any, other: Any) -> Any:
    """Two plans in one: lists one after the other, maps by their keys."""
    if isinstance(one, dict) and isinstance(other, dict):
        return one | {key: joined(one[key], value) if key in one else value for key, value in other.items()}
    if isinstance(one, list) and isinstance(other, list):
        return one + other
    return other


def export(folder: Path, site: Site) -> None:
    """Write the old site as files for a web server: ``folder/{host}/…``, only what needs no query and no redirect."""
    for host, key in [*site.answers, *site.made]:
        answer = site.answer(host, key)
        if answer is not None and answer.status == 200 and "?" not in key:
            path = folder / host.partition(":")[0] / (key.lstrip("/") + ("index.html" if key.endswith("/") else ""))
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(answer.body)


def main() -> int:
    parser = argparse.ArgumentParser(prog="grandferry.demo")
    parser.add_argument("what", choices=["prepare", "serve", "export"])
    parser.add_argument("--data", type=Path, required=True)
    parser.add_argument("--old-port", type=int, default=PORTS[0])
    parser.add_argument("--new-port", type=int, default=PORTS[1])
    parser.add_argument("--size", type=int, default=WHOLE, help="about how many addresses the old site has")
    args = parser.parse_args()
    site = build(args.old_port, args.new_port, args.size)
    args.data.mkdir(parents=True, exist_ok=True)
    if args.what == "export":
        export(args.data, site)
        return 0
    prepare(args.data, site, args.old_port, args.new_port)
    if args.what == "serve":
        try:
            asyncio.run(
                serve(
                    site,
                    args.data / "newsystem.sqlite",
                    args.old_port,
                    args.new_port,
                    lambda: print("ready", flush=True),
                )
            )
        except OSError as problem:
            print(f"The demo cannot listen: {problem.strerror}.", file=sys.stderr)
            return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
