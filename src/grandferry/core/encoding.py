"""Bytes to text the way a browser decides it: BOM, then the server's header, then ``<meta>``, then a look.

Follows the WHATWG Encoding and HTML standards (labels through ``webencodings``; prescan of the first
bytes for ``<meta charset>``). Where nothing is declared: UTF-8 when the bytes are valid UTF-8, else
windows-1252, and the choice is said to be doubtful.
"""

from __future__ import annotations

import codecs
import re
from dataclasses import dataclass

import webencodings

PRESCAN = 4096
_META = re.compile(rb"<meta[^>]+?charset\s*=\s*[\"']?\s*([A-Za-z0-9_:.-]+)", re.I)
_HEADER = re.compile(r"charset\s*=\s*[\"']?([^\s;\"']+)", re.I)
_COMMENT = re.compile(rb"<!--.*?-->", re.S)


@dataclass(frozen=True, slots=True)
class Decoded:
    """``text`` without BOM; ``encoding`` by its WHATWG name; ``how`` it was decided; ``doubtful`` with a reason or
    ""."""

    text: str
    encoding: str
    how: str
    doubtful: str = ""

    def source(self, body: bytes) -> bytes:
        """The text as UTF-8: of the ``body`` it was decoded from, itself when it is that."""
        if self.encoding == "utf-8" and not self.doubtful and self.how != "byte order mark":
            return body
        return self.text.encode("utf-8", "surrogatepass")


def _named(label: str) -> str:
    found = webencodings.lookup(label)
    return str(found.name) if found else ""


def _read(body: bytes, name: str) -> tuple[str, bool]:
    """Text and whether every byte was right in that encoding."""
    codec = webencodings.lookup(name).codec_info.name
    try:
        return body.decode(codec), True
    except UnicodeDecodeError:
        return body.decode(codec, "replace"), False


def decode(body: bytes, content_type: str = "") -> Decoded:
    """The text of an HTML or text body. ``content_type`` is the server's header ("" when absent)."""
    for mark, name in (
        (codecs.BOM_UTF8, "utf-8"),
        (codecs.BOM_UTF16_LE, "utf-16le"),
        (codecs.BOM_UTF16_BE, "utf-16be"),
    ):
        if body.startswith(mark):
            return Decoded(body[len(mark) :].decode(name, "replace"), name, "byte order mark")
    declared, how = "", ""
    match = _HEADER.search(content_type)
    if match:
        declared, how = _named(match[1]), "header"
    if not declared:
        found = _META.search(_COMMENT.sub(b"", body[:PRESCAN]))
        if found:
            declared, how = _named(found[1].decode("ascii", "replace")), "meta"
            if declared.startswith("utf-16"):
                declared = "utf-8"  # HTML standard: a meta that could be read at all is not UTF-16
    if declared:
        text, right = _read(body, declared)
        if right:
            return Decoded(text, declared, how)
        other = "utf-8" if declared != "utf-8" else "windows-1252"
        second, fits = _read(body, other)
        if fits and (other == "utf-8" or declared == "utf-8"):
            return Decoded(second, other, "bytes", f"declared {declared} by {how}, but the bytes are {other}")
        return Decoded(text, declared, how, f"some bytes are not valid {declared}")
    try:
        return Decoded(body.decode("utf-8"), "utf-8", "bytes")
    except UnicodeDecodeError:
        text, _ = _read(body, "windows-1252")
        return Decoded(text, "windows-1252", "bytes", "no encoding declared and not UTF-8: taken as windows-1252")
