"""A file of an owner read in a process of its own, with bounds on its memory and time: some megabytes may unpack to
gigabytes. The process writes what it reads as lines of JSON; a sentence ends it early, null says that all was read."""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import threading
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from grandferry.core.errors import FerryError


def lines_apart(module: str, path: Path, seconds: float, beyond: FerryError, hint: str = "") -> Iterator[Any]:
    """What ``main(path)`` of a module writes. Raises FerryError with the sentence it ended with, or ``beyond`` when
    it ended without a word or took longer than ``seconds``."""
    start = f"import sys; from {module} import main; main(sys.argv[1])"
    reader = subprocess.Popen(
        [sys.executable, "-P", "-c", start, str(path.resolve())], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
    )
    clock = threading.Timer(seconds, reader.kill)
    clock.start()
    try:
        assert reader.stdout is not None
        ended = False
        for line in reader.stdout:
            told = json.loads(line)
            if isinstance(told, str):
                raise FerryError(told, hint)
            ended = told is None
            if not ended:
                yield told
        reader.wait()
        if not ended:
            raise beyond
    finally:
        clock.cancel()
        reader.kill()
        reader.wait()


def write_apart(lines: Iterable[Any], memory: int, seconds: int) -> None:
    """Write lines to standard output, under bounds of this process: bytes of address space, seconds of computing."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    for line in lines:
        sys.stdout.write(json.dumps(line))
        sys.stdout.write("\n")
