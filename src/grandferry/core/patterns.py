"""Patterns a person writes, run on RE2 so that none can hang the tool (time linear in the text).

Dialect: RE2 syntax (no look-around, no back-references inside the pattern).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import lru_cache
from typing import Any

import re2

from .errors import PatternError

_QUIET = re2.Options()
_QUIET.log_errors = False


@lru_cache(maxsize=4096)
def compile_pattern(pattern: str) -> Any:
    """The compiled pattern (an RE2 object with ``search``, ``match``, ``fullmatch``).

    Raises PatternError naming the pattern and RE2's own reason.
    """
    try:
        return re2.compile(pattern, options=_QUIET)
    except re2.error as problem:
        reason = problem.args[0]
        if isinstance(reason, bytes):
            reason = reason.decode("utf-8", "replace")
        raise PatternError(
            f"The pattern “{pattern}” cannot be read: {reason}.",
            "Patterns are RE2: no look-around and no back-references.",
        ) from None


def set_of(patterns: Iterable[str]) -> Callable[[str], int]:
    """A function that tells the first of all patterns that a whole text fits, -1 for none."""
    found = all_of(patterns)
    return lambda text: min(found(text), default=-1)


def all_of(patterns: Iterable[str]) -> Callable[[str], Sequence[int]]:
    """A function that tells all patterns that a whole text fits, by position: one walk over the text, however many
    patterns there are (RE2::Set). Each must have been compiled before."""
    options = re2.Options()
    options.log_errors = False
    options.max_mem = 1 << 28  # bytes; with too few a set finds nothing, without a word
    found = re2.Set.FullMatchSet(options)
    for pattern in patterns:
        found.Add(pattern)
    found.Compile()
    return lambda text: sorted(found.Match(text) or ())


def check_replacement(pattern: str, text: str) -> None:
    """Raise PatternError where a replacement (``\\1``, ``\\g<name>``) names a group that the pattern has not got, or
    cannot be read."""
    compiled = compile_pattern(pattern)
    groups = ["()"] * compiled.groups
    for name, number in compiled.groupindex.items():
        groups[number - 1] = f"(?P<{name}>)"
    try:
        re2.compile("".join(groups)).sub(text, "")
    except (IndexError, ValueError, re2.error):
        raise PatternError(
            f"The replacement “{text}” cannot be read with the pattern “{pattern}”.",
            f"It has {compiled.groups} group{'s' * (compiled.groups != 1)}; a backslash is written twice.",
        ) from None


_SIGNS = frozenset("\\.+*?()|[]{}^$")


def whole(text: str) -> str:
    """The text without lone surrogates, which RE2 does not take."""
    return text.encode("utf-8", "replace").decode()


def escape(text: str) -> str:
    """The pattern that holds for a text as it is written, easy to read: only signs with a meaning are escaped."""
    return "".join(f"\\{char}" if char in _SIGNS else char for char in text)
