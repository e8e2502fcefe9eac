"""Cells and names that other programs take as they are."""

from __future__ import annotations

import re


def safe_cell(value: object) -> object:
    """A cell that no spreadsheet takes for a formula."""
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + value
    return value


def file_name(text: str) -> str:
    """A name that any file system takes, made from a text."""
    plain = re.sub(r"[^\w.-]+", "-", text, flags=re.ASCII).strip("-.").lower()
    return plain[:60] or "crossing"
