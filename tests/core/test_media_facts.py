"""Files as what they are by their content, whatever they are called; nothing is decoded, nothing raises."""

from __future__ import annotations

import io
import struct
import zlib

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from grandferry.core.filetypes import same_type, type_by_content
from grandferry.core.media.facts import Facts, look


def picture(form: str, width: int = 30, height: int = 20) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), "teal").save(out, form)
    return out.getvalue()


def huge(width: int, height: int) -> bytes:
    """A PNG of a few bytes that says it has so many pixels."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(b"")) + chunk(b"IEND", b"")


def facts(content: bytes, said: str) -> Facts:
    return look(io.BytesIO(content), said, len(content))


@pytest.mark.parametrize(
    ("form", "mime"),
    [("PNG", "image/png"), ("JPEG", "image/jpeg"), ("GIF", "image/gif"), ("WEBP", "image/webp"), ("TIFF", "image/tiff"), ("BMP", "image/bmp")],
)  # fmt: skip
def test_a_picture_is_known_by_its_content(form: str, mime: str) -> None:
    assert facts(picture(form), mime) == Facts(mime, 30, 20)
    assert facts(picture(form), "application/octet-stream") == Facts(mime, 30, 20), "a type that says nothing is no lie"
    assert facts(picture(form), "application/pdf") == Facts(mime, 30, 20, "other")


@pytest.mark.parametrize(
    ("content", "said", "found"),
    [
        (b"", "image/png", Facts("image/png", fault="empty")),
        (b"<!DOCTYPE html><title>Not found", "image/png", Facts("text/html", fault="page")),
        (b"\xef\xbb\xbf \n<html>", "application/pdf", Facts("text/html", fault="page")),
        (picture("PNG")[:20], "image/png", Facts("image/png", fault="broken")),
        (b"no picture at all", "image/jpeg", Facts("image/jpeg", fault="broken")),
        (huge(20_000, 20_000), "image/png", Facts("image/png", 0, 0, "large")),
        (huge(11_000, 10_000), "image/png", Facts("image/png", 11_000, 10_000, "large")),
        (b'<svg width="10px" height="20">', "image/svg+xml", Facts("image/svg+xml", 10, 20)),
        (b'<?xml version="1.0"?><svg viewBox="0 0 64 32">', "text/xml", Facts("image/svg+xml", 64, 32, "other")),
        (b"<svg>", "image/svg+xml", Facts("image/svg+xml")),
        (b"%PDF-1.7", "application/pdf", Facts("application/pdf")),
        (b"PK\x03\x04", "application/vnd.openxmlformats-officedocument.wordprocessingml.document", Facts("application/zip")),
        (b"plain words", "text/plain", Facts("text/plain")),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_file(content: bytes, said: str, found: Facts) -> None:
    assert facts(content, said) == found


def test_types_that_begin_alike_are_no_lie() -> None:
    assert same_type("video/mp4", "audio/mp4") and same_type("application/gzip", "image/svg+xml")
    assert same_type("image/jpeg", "image/jpg") and not same_type("image/png", "image/jpeg")
    assert type_by_content(b"BM") == "" and type_by_content(b"") == ""


@given(st.binary(max_size=200), st.sampled_from(["image/png", "image/svg+xml", "", "video/mp4"]))
def test_nothing_raises(content: bytes, said: str) -> None:
    for start in (b"", b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"GIF89a", b"RIFF....WEBP", b"<svg viewBox='", b"II*\0"):
        found = facts(start + content, said)
        assert found.width >= 0 and found.height >= 0
