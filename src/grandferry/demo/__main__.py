"""``python -m grandferry.demo prepare|serve``: write the demo's plan, log and truth; serve its sites."""

from __future__ import annotations

import argparse
import asyncio
import json
import sys
from importlib import resources
from pathlib import Path

from .oldsite import POSTS, Site, build
from .server import serve

PORTS = (8702, 8703)


def prepare(folder: Path, site: Site, old_port: int, new_port: int) -> None:
    """Write ``folder/plan`` (with the access log in it) and ``folder/truth.json``."""
    plan = folder / "plan"
    plan.mkdir(parents=True, exist_ok=True)
    for name in ("plan.yaml", "pairs.csv"):
        text = resources.files("grandferry.demo").joinpath("plan", name).read_text("utf-8")
        text = text.replace(f":{PORTS[0]}", f":{old_port}").replace(f":{PORTS[1]}", f":{new_port}")
        (plan / name).write_text(text, "utf-8")
    (plan / "access.log").write_text("\n".join(site.log) + "\n", "utf-8")
    (folder / "truth.json").write_text(json.dumps(site.truth, ensure_ascii=False, indent=1), "utf-8")


def export(folder: Path, site: Site) -> None:
    """Write the old site as files for a web server: ``folder/{host}/…``, only what needs no query and no redirect."""
    for (host, key), answer in site.answers.items():
        if answer.status == 200 and "?" not in key:
            path = folder / host.partition(":")[0] / (key.lstrip("/") + ("index.html" if key.endswith("/") else ""))
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(answer.body)


def main() -> int:
    parser = argparse.ArgumentParser(prog="grandferry.demo")
    parser.add_argument("what", choices=["prepare", "serve", "export"])
    parser.add_argument("--data", type=Path, required=True)
    parser.add_argument("--old-port", type=int, default=PORTS[0])
    parser.add_argument("--new-port", type=int, default=PORTS[1])
    parser.add_argument("--posts", type=int, default=POSTS)
    args = parser.parse_args()
    site = build(args.old_port, args.new_port, args.posts)
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
