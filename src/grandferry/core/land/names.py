"""Names of files within a folder: made from addresses, taken by every file system, each but once."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from urllib.parse import unquote

from ..filetypes import PAGE_ENDINGS

PART = 120  # bytes of one part of a name: file systems take 255, and what is put beside it needs some
WHOLE = 220  # characters of all of it
_UNSAFE = re.compile(r'[\x00-\x1f\x7f-\x9f<>:"|?*\\\u200b-\u200f\u2028-\u202e\u2066-\u2069\ufeff\ud800-\udfff]+')
_DEVICES = re.compile(r"(?:con|prn|aux|nul|com\d|lpt\d)(?:\.|$)", re.I)  # names that Windows keeps for itself


def file_part(text: str) -> str:
    """One part of a path as a name; "" for a text of which nothing is left. Letters of every script stay."""
    plain = _UNSAFE.sub("-", unicodedata.normalize("NFC", text)).strip(". ")
    while len(plain.encode()) > PART:
        plain = plain[: max(1, len(plain) - max(1, (len(plain.encode()) - PART) // 4))].rstrip(". ")
    return f"{plain}-" if _DEVICES.match(plain) else plain


def plain_path(address: str) -> str:
    """A path without its query and mark, decoded."""
    return unquote(address.partition("?")[0].partition("#")[0])


def without_ending(address: str) -> str:
    """A path without the ending of a page, its query, its first and last slash, decoded: ``news/2021/a``."""
    path = plain_path(address).strip("/")
    head, slash, tail = path.rpartition("/")
    stem, dot, ending = tail.rpartition(".")
    return f"{head}{slash}{stem}" if dot and stem and ending.lower() in PAGE_ENDINGS else path


def served_file(address: str, ends: str) -> str:
    """The file that a server gives for an address, with its first slash, decoded: ``/a/`` is ``/a/index.html``; an
    address without an ending as ``ends`` says (folder or file)."""
    path = plain_path(address)
    tail = path.rpartition("/")[2]
    if not tail:
        return f"{path}index.html"
    if re.search(r"\.[A-Za-z0-9]{1,8}$", tail):
        return path
    return f"{path}/index.html" if ends == "folder" else f"{path}.html"


def spelled(pattern: str, values: Mapping[str, str]) -> str:
    """A pattern of a profile with its parts, whatever a file system makes of it."""
    return re.sub(r"\{(\w+)\}", lambda m: values.get(m[1], ""), pattern)


def filled(pattern: str, values: Mapping[str, str]) -> str:
    """A pattern of a profile with its parts, as a name with ``/`` between its parts that stays within its folder. A
    file that would have no name but its ending is called ``index``."""
    made = spelled(pattern, values)
    *folders, last = made.split("/")
    stem, dot, ending = last.rpartition(".")
    if not dot:
        stem, ending = last, ""
    stem = file_part(stem) or "index"
    named = [part for part in map(file_part, folders) if part]
    while named and len("/".join(named)) + len(stem) > WHOLE:
        named.pop(1 if len(named) > 1 else 0)
    return "/".join([*named, f"{stem}.{file_part(ending)}" if ending else stem])


class Taken:
    """Names that are taken, by what a file system that tells no letter case apart makes of them."""

    def __init__(self) -> None:
        self._taken: set[str] = set()
        self._folders: set[str] = set()

    @staticmethod
    def _same(name: str) -> str:
        return unicodedata.normalize("NFC", name).casefold()

    def one(self, name: str) -> str:
        """The name, or with a number where it is taken, or is that of a folder."""
        stem, dot, ending = name.rpartition(".")
        if not dot or "/" in ending:
            stem, dot, ending = name, "", ""
        made, number = name, 1
        while (same := self._same(made)) in self._taken or same in self._folders or self._below_a_file(same):
            number += 1
            made = f"{stem}-{number}{dot}{ending}"
            if self._below_a_file(self._same(made)):  # a file is called as one of its folders
                stem = stem.replace("/", "-")
        self._taken.add(same)
        parts = same.split("/")
        self._folders.update("/".join(parts[:n]) for n in range(1, len(parts)))
        return made

    def _below_a_file(self, same: str) -> bool:
        parts = same.split("/")
        return any("/".join(parts[:n]) in self._taken for n in range(1, len(parts)))
