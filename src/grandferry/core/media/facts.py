"""What a file is by its content: its type by its first bytes, a picture's size in pixels, and what is wrong with it."""

from __future__ import annotations

import re
import warnings
from enum import StrEnum
from typing import BinaryIO, NamedTuple

from ..filetypes import family_of_type, same_type, type_by_content

HEAD = 4096  # bytes that tell a type
MOST_PIXELS = 100_000_000  # of a picture that is opened
_SVG_SIZE = re.compile(rb"""<svg\b[^>]{0,4000}""", re.I | re.S)
_NUMBER = r"\s*=\s*[\"']\s*([\d.]{1,12})\s*(?:px)?\s*[\"']"
_VIEW_BOX = re.compile(r"viewBox\s*=\s*[\"']\s*[-\d.]+[\s,]+[-\d.]+[\s,]+([\d.]+)[\s,]+([\d.]+)")


class Fault(StrEnum):
    """What is wrong with a file, by its content."""

    EMPTY = "empty"  # it has no byte
    PAGE = "page"  # an HTML page came where a file was asked for
    OTHER = "other"  # of another type than it is said to be
    BROKEN = "broken"  # a picture that cannot be read
    LARGE = "large"  # a picture of more pixels than are opened


class Facts(NamedTuple):
    """``mime``: the type by the content, as said where that tells nothing; pixels, 0 where there are none."""

    mime: str
    width: int = 0
    height: int = 0
    fault: str = ""


def look(stream: BinaryIO, said: str, size: int) -> Facts:
    """Look at a file of ``size`` bytes that is said to be of a type. Only its head is read, but for pictures; none is
    decoded."""
    if not size:
        return Facts(said, fault=Fault.EMPTY)
    head = stream.read(HEAD)
    found = type_by_content(head)
    if found == "text/html" and said != found:
        return Facts(found, fault=Fault.PAGE)
    mime = found or said
    fault = Fault.OTHER if found and said and not same_type(found, said) else ""
    if mime == "image/svg+xml":
        return Facts(mime, *_svg_size(head), fault)
    if family_of_type(mime) != "pictures":
        return Facts(mime, fault=fault)
    from PIL import Image, UnidentifiedImageError  # a survey without new pictures need not wait for it

    stream.seek(0)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of many pixels; they are counted here
            with Image.open(stream) as picture:
                width, height = picture.size
    except Image.DecompressionBombError:
        return Facts(mime, fault=Fault.LARGE)
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, EOFError, OverflowError):
        # of a type that is not opened here, nothing but that is known
        known = found in ("image/png", "image/jpeg", "image/gif", "image/webp", "image/bmp", "image/tiff") or not found
        return Facts(mime, fault=Fault.BROKEN if known else fault)
    return Facts(mime, width, height, Fault.LARGE if width * height > MOST_PIXELS else fault)


def _svg_size(head: bytes) -> tuple[int, int]:
    match = _SVG_SIZE.search(head)
    tag = match[0].decode("utf-8", "replace") if match else ""
    sizes = [re.search(rf"\b{name}{_NUMBER}", tag) for name in ("width", "height")]
    if all(sizes):
        return tuple(int(float(one[1])) for one in sizes if one)  # type: ignore[return-value]
    box = _VIEW_BOX.search(tag)
    try:
        return (int(float(box[1])), int(float(box[2]))) if box else (0, 0)
    except (ValueError, OverflowError):
        return 0, 0
