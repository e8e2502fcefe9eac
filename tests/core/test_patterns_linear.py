"""Every pattern of Python's own engine, which goes back over what it has read, takes time in line with its text."""

from __future__ import annotations

import ast
import importlib
import importlib.util
import pkgutil
import re
import signal
import time
from collections.abc import Iterator
from pathlib import Path
from types import FrameType
from typing import Any

import pytest

import grandferry

SCANS = ("search", "sub", "subn", "finditer", "findall", "split")  # begin anew at every place of the text
SHORT, LONG = 3_000, 12_000  # signs
LIMIT = 2.0  # seconds
# what is cut to a length before it is looked at
CUT = {"grandferry.core.survey.systems._VERSION", "grandferry.core.references:_size"}


def modules() -> Iterator[tuple[str, Path]]:
    for found in pkgutil.walk_packages(grandferry.__path__, "grandferry."):
        spec = importlib.util.find_spec(found.name)
        if spec and spec.origin and ".demo" not in found.name:
            yield found.name, Path(spec.origin)


def within(tree: ast.AST, node: ast.AST) -> str:
    """The name of the function that a call stands in, and its line there."""
    functions = [f for f in ast.walk(tree) if isinstance(f, ast.FunctionDef) and node in ast.walk(f)]
    return functions[-1].name if functions else str(getattr(node, "lineno", 0))


def patterns() -> Iterator[tuple[str, Any, bool]]:
    """(where, the pattern, whether it scans) of all that are compiled in a module or stand in a call."""
    for name, path in modules():
        source = path.read_text("utf-8")
        if "re." not in source:
            continue
        tree = ast.parse(source)
        held = {
            key: value
            for key, value in vars(importlib.import_module(name)).items()
            if isinstance(value, re.Pattern) and f"\n{key} = re.compile(" in source
        }
        for key, value in held.items():
            yield (
                f"{name}.{key}",
                value,
                any(f"{key}.{scan}(" in source for scan in SCANS) or bool(re.search(rf"[(,]\s*{key}\s*[,)]", source)),
            )
        for node in ast.walk(tree):
            if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Attribute) or not node.args:
                continue
            of, given = node.func.value, node.args[0]
            called = isinstance(of, ast.Name) and of.id == "re" and node.func.attr in (*SCANS, "match", "fullmatch")
            if called and isinstance(given, ast.Constant) and isinstance(given.value, str):
                yield f"{name}:{within(tree, node)}", re.compile(given.value), node.func.attr in SCANS


def pieces(pattern: str) -> set[str]:
    """Texts that the pattern's own signs suggest, to be repeated."""
    return {
        *re.findall(r"[A-Za-z0-9_]{2,}|[^\w\s\\]", pattern),
        *(" ", "a", "1", "A", "\n", "a ", "<a", "&", "-", "a.", "1 "),
    }


class TooLong(Exception):
    pass


def _too_long(_: int, __: FrameType | None) -> None:
    raise TooLong


def seconds(pattern: Any, scans: bool, text: str | bytes) -> float:
    before = time.process_time()
    if scans:
        for _ in pattern.finditer(text):
            pass
    pattern.match(text)
    pattern.fullmatch(text)
    return time.process_time() - before


ALL = sorted(patterns(), key=lambda found: found[0])


def test_the_patterns_are_found() -> None:
    assert len(ALL) > 80 and any(":" in where for where, _, _ in ALL) and any(scans for _, _, scans in ALL)


@pytest.mark.parametrize(("where", "pattern", "scans"), ALL, ids=[where for where, _, _ in ALL])
def test_four_times_the_text_takes_about_four_times_as_long(where: str, pattern: Any, scans: bool) -> None:
    if where in CUT:
        pytest.skip("it is given so many signs at the most")
    had = signal.signal(signal.SIGALRM, _too_long)
    source = pattern.pattern
    try:
        for piece in sorted(pieces(source if isinstance(source, str) else source.decode("latin-1"))):
            texts = [piece * (number // len(piece)) for number in (SHORT, LONG)]
            short, long = (text if isinstance(source, str) else text.encode("latin-1") for text in texts)
            signal.setitimer(signal.ITIMER_REAL, LIMIT)
            try:
                once = min(seconds(pattern, scans, short) for _ in range(2))
                more = seconds(pattern, scans, long)
            except TooLong:
                pytest.fail(f"{piece!r} repeated takes longer than {LIMIT} s")
            finally:
                signal.setitimer(signal.ITIMER_REAL, 0)
            assert more < 12 * max(once, 0.002), f"{piece!r} repeated: {once * 1000:.1f} ms, then {more * 1000:.1f} ms"
    finally:
        signal.signal(signal.SIGALRM, had)
