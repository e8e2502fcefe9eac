"""A survey as the served application makes it: its worker has started before anybody asks for one.

Run as a process of its own: ``python -m bench.served URL FOLDER``; prints pages and seconds as JSON.
"""

from __future__ import annotations

import json
import sys
import time
from pathlib import Path

from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs.running import run_job
from grandferry.work.jobs.supervisor import Supervisor
from grandferry.work.survey.sites import set_old_site

STARTING = 4.0  # seconds for a worker, and the process that its children are forked from, to have made their imports


def survey(url: str, folder: Path) -> dict[str, float]:
    """Pages, and the seconds of the job from its claim to its account; 16 at once, no pause between requests."""
    opened = open_workspace(folder)
    try:
        manners = {"delay": 0, "at_once": 16}
        crossing = set_old_site(url, manners=manners, bounds={}, permission="bench", aliases=[]).crossing
        with Supervisor(opened):
            time.sleep(STARTING)
            account = run_job("survey", crossing, {})
    finally:
        close_workspace()
    return {"pages": account["pages"], "seconds": account["seconds"]}


if __name__ == "__main__":
    print(json.dumps(survey(sys.argv[1], Path(sys.argv[2]))))
