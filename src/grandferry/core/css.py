"""The addresses in style sheets, replaced. On RE2, since a style sheet is anybody's text: the time is linear in it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from .patterns import compile_pattern, whole

_URL = r"""(?i)url\(\s*(?:"([^"]*)"|'([^']*)'|([^)"'\s]*))\s*\)"""
_IMPORT = r"""(?i)@import\s+(?:"([^"]*)"|'([^']*)')"""
_COMMENT = r"(?s)/\*.*?\*/"


def _given(match: Any) -> str:
    return next((group for group in match.groups() if group is not None), "").strip()


def _quoted(text: str) -> str:
    return text.replace("\\", "%5C").replace('"', "%22").replace("\n", "")


def without_comments(css: str) -> str:
    return str(compile_pattern(_COMMENT).sub(" ", whole(css)))


def with_addresses(css: str, find: Callable[[str], str]) -> str:
    """A style sheet in which every address is what ``find`` makes of it (it is given "" for an empty one)."""
    css = compile_pattern(_URL).sub(lambda m: f'url("{_quoted(find(_given(m)))}")', whole(css))
    return str(compile_pattern(_IMPORT).sub(lambda m: f'@import "{_quoted(find(_given(m)))}"', css))
