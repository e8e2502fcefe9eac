"""What all commands share: exit codes, sentences for errors, progress on stderr, JSON on stdout."""

from __future__ import annotations

import functools
import json
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any, ParamSpec, TypeVar

import typer
from rich.console import Console
from rich.progress import BarColumn, MofNCompleteColumn, Progress, SpinnerColumn, TextColumn, TimeElapsedColumn

from grandferry.core.errors import FerryError, StageFailed

DONE, OPEN, WRONG_USE = 0, 1, 2
stderr = Console(stderr=True, highlight=False)
P = ParamSpec("P")
R = TypeVar("R")
Data = Annotated[Path | None, typer.Option("--data", help="the workspace's folder")]
AsJson = Annotated[bool, typer.Option("--json", help="machine-readable result on stdout")]


def default_data() -> Path:
    """Where workspaces lie when nobody says: ``$GRANDFERRY_DATA``, else ``~/grandferry``."""
    return Path(os.environ.get("GRANDFERRY_DATA") or Path.home() / "grandferry")


def say(text: str) -> None:
    """A line for a person, on stderr."""
    stderr.print(text, markup=False, soft_wrap=True)


def print_json(value: Any) -> None:
    sys.stdout.write(json.dumps(value, ensure_ascii=False, indent=1) + "\n")


def guarded(command: Callable[P, R]) -> Callable[P, R]:
    """Turn errors meant for a person into one sentence on stderr; exit code 2, or 1 for a stage that failed."""

    @functools.wraps(command)
    def inner(*args: P.args, **kwargs: P.kwargs) -> R:
        try:
            return command(*args, **kwargs)
        except StageFailed as problem:
            say(str(problem))
            raise typer.Exit(OPEN) from None
        except FerryError as problem:
            say(str(problem))
            raise typer.Exit(WRONG_USE) from None
        except BrokenPipeError:
            raise typer.Exit(OPEN) from None
        except KeyboardInterrupt:
            say("Stopped. What was done so far is kept; the same command goes on from there.")
            raise typer.Exit(130) from None

    return inner


@contextmanager
def progress() -> Iterator[Callable[[str, dict[str, Any]], None]]:
    """A bar a stage on stderr; gives the function that shows a stage's counters."""
    shown = Progress(
        SpinnerColumn(),
        TextColumn("{task.description:<8}"),
        BarColumn(),
        MofNCompleteColumn(),
        TimeElapsedColumn(),
        TextColumn("{task.fields[more]}"),
        console=stderr,
        transient=False,
        disable=not stderr.is_terminal,
    )
    tasks: dict[str, Any] = {}
    with shown:

        def watch(kind: str, counters: dict[str, Any]) -> None:
            if kind not in tasks:
                tasks[kind] = shown.add_task(kind, total=None, more="")
            more = " ".join(
                f"{name} {value}" for name, value in counters.items() if name in ("failed", "refused") and value
            )
            shown.update(tasks[kind], completed=counters.get("done", 0), total=counters.get("all"), more=more)

        yield watch
