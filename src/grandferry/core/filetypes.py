"""Endings, media types and families of files: the one table that everything which tells files apart asks.

Types after the IANA media type registry; those that servers commonly name otherwise stand behind the registered one.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Literal, NamedTuple

FileFamily = Literal["pictures", "documents", "sound and film", "styles", "scripts", "feeds and maps"]


class FileType(NamedTuple):
    """One type of file: the endings names of it have (the usual one first), its media types (the registered one first),
    its family."""

    endings: tuple[str, ...]
    types: tuple[str, ...]
    family: FileFamily


def _type(endings: str, types: str, family: FileFamily) -> FileType:
    return FileType(tuple(endings.split()), tuple(types.split()), family)


TABLE: tuple[FileType, ...] = (
    _type("jpg jpeg jpe jfif", "image/jpeg image/jpg image/pjpeg", "pictures"),
    _type("png", "image/png image/x-png", "pictures"),
    _type("gif", "image/gif", "pictures"),
    _type("svg svgz", "image/svg+xml", "pictures"),
    _type("webp", "image/webp", "pictures"),
    _type("avif", "image/avif", "pictures"),
    _type("ico", "image/vnd.microsoft.icon image/x-icon", "pictures"),
    _type("bmp", "image/bmp image/x-ms-bmp", "pictures"),
    _type("tif tiff", "image/tiff", "pictures"),
    _type("heic heif", "image/heic image/heif", "pictures"),
    _type("css", "text/css", "styles"),
    _type(
        "js mjs", "text/javascript application/javascript application/x-javascript application/ecmascript", "scripts"
    ),
    _type("map", "application/source-map", "scripts"),
    _type("wasm", "application/wasm", "scripts"),
    _type("json", "application/json", "scripts"),
    _type("webmanifest", "application/manifest+json", "scripts"),
    _type("xml", "application/xml text/xml", "feeds and maps"),
    _type("rss", "application/rss+xml", "feeds and maps"),
    _type("atom", "application/atom+xml", "feeds and maps"),
    _type("kml kmz", "application/vnd.google-earth.kml+xml", "feeds and maps"),
    _type("pdf", "application/pdf application/x-pdf", "documents"),
    _type("doc dot", "application/msword", "documents"),
    _type("docx", "application/vnd.openxmlformats-officedocument.wordprocessingml.document", "documents"),
    _type("xls", "application/vnd.ms-excel", "documents"),
    _type("xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "documents"),
    _type("ppt pps", "application/vnd.ms-powerpoint", "documents"),
    _type("pptx", "application/vnd.openxmlformats-officedocument.presentationml.presentation", "documents"),
    _type("odt", "application/vnd.oasis.opendocument.text", "documents"),
    _type("ods", "application/vnd.oasis.opendocument.spreadsheet", "documents"),
    _type("odp", "application/vnd.oasis.opendocument.presentation", "documents"),
    _type("rtf", "application/rtf text/rtf", "documents"),
    _type("txt", "text/plain", "documents"),
    _type("csv", "text/csv", "documents"),
    _type("ics", "text/calendar", "documents"),
    _type("vcf", "text/vcard text/x-vcard", "documents"),
    _type("epub", "application/epub+zip", "documents"),
    _type("ps eps", "application/postscript", "documents"),
    _type("zip", "application/zip application/x-zip-compressed", "documents"),
    _type("gz", "application/gzip application/x-gzip", "documents"),
    _type("tgz", "application/x-compressed-tar", "documents"),
    _type("bz2", "application/x-bzip2", "documents"),
    _type("xz", "application/x-xz", "documents"),
    _type("7z", "application/x-7z-compressed", "documents"),
    _type("rar", "application/vnd.rar application/x-rar-compressed", "documents"),
    _type("tar", "application/x-tar", "documents"),
    _type("mp3", "audio/mpeg audio/mp3", "sound and film"),
    _type("m4a", "audio/mp4 audio/x-m4a", "sound and film"),
    _type("ogg oga", "audio/ogg application/ogg", "sound and film"),
    _type("opus", "audio/opus", "sound and film"),
    _type("wav", "audio/wav audio/x-wav", "sound and film"),
    _type("flac", "audio/flac audio/x-flac", "sound and film"),
    _type("mid midi", "audio/midi", "sound and film"),
    _type("mp4 m4v", "video/mp4", "sound and film"),
    _type("webm", "video/webm", "sound and film"),
    _type("ogv", "video/ogg", "sound and film"),
    _type("mov", "video/quicktime", "sound and film"),
    _type("avi", "video/x-msvideo", "sound and film"),
    _type("wmv", "video/x-ms-wmv", "sound and film"),
    _type("mkv", "video/x-matroska", "sound and film"),
    _type("vtt", "text/vtt", "sound and film"),
    _type("woff2", "font/woff2", "styles"),
    _type("woff", "font/woff application/font-woff", "styles"),
    _type("ttf", "font/ttf application/x-font-ttf", "styles"),
    _type("otf", "font/otf", "styles"),
    _type("eot", "application/vnd.ms-fontobject", "styles"),
    _type("swf", "application/x-shockwave-flash", "documents"),
    _type("jar", "application/java-archive", "documents"),
    _type("exe", "application/vnd.microsoft.portable-executable", "documents"),
)
PAGE_TYPES = frozenset(["text/html", "application/xhtml+xml"])
PAGE_ENDINGS = frozenset("html htm xhtml shtml php asp aspx jsp cfm".split())  # what names of pages end in
START_PAGES = ("index", "default", "home", "welcome")  # what the start page of a folder is called
UNKNOWN = "bin"  # the ending of a file of no known type

# what files begin with: where, the bytes, and the type
SIGNATURES: tuple[tuple[int, bytes, str], ...] = (
    (0, b"\x89PNG\r\n\x1a\n", "image/png"),
    (0, b"\xff\xd8\xff", "image/jpeg"),
    (0, b"GIF87a", "image/gif"),
    (0, b"GIF89a", "image/gif"),
    (8, b"WEBP", "image/webp"),
    (4, b"ftypavif", "image/avif"),
    (4, b"ftypheic", "image/heic"),
    (0, b"BM", "image/bmp"),
    (0, b"II*\0", "image/tiff"),
    (0, b"MM\0*", "image/tiff"),
    (0, b"\0\0\1\0", "image/vnd.microsoft.icon"),
    (0, b"%PDF-", "application/pdf"),
    (0, b"%!PS", "application/postscript"),
    (0, b"{\\rtf", "application/rtf"),
    (0, b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "application/msword"),
    (0, b"PK\3\4", "application/zip"),
    (0, b"\x1f\x8b", "application/gzip"),
    (0, b"7z\xbc\xaf\x27\x1c", "application/x-7z-compressed"),
    (0, b"Rar!\x1a\7", "application/vnd.rar"),
    (0, b"OggS", "audio/ogg"),
    (0, b"ID3", "audio/mpeg"),
    (0, b"\xff\xfb", "audio/mpeg"),
    (0, b"fLaC", "audio/flac"),
    (8, b"WAVE", "audio/wav"),
    (8, b"AVI ", "video/x-msvideo"),
    (0, b"\x1aE\xdf\xa3", "video/webm"),
    (4, b"ftypqt", "video/quicktime"),
    (4, b"ftyp", "video/mp4"),
    (0, b"wOF2", "font/woff2"),
    (0, b"wOFF", "font/woff"),
)
# types that begin alike: what is said tells them apart
_ALIKE = (
    frozenset(["application/zip", "application/epub+zip", "application/java-archive"]),
    frozenset(["application/gzip", "application/x-compressed-tar", "image/svg+xml"]),
    frozenset(["audio/ogg", "video/ogg", "audio/opus"]),
    frozenset(["video/mp4", "audio/mp4"]),
    frozenset(["video/webm", "video/x-matroska"]),
    frozenset(["image/heic", "image/avif"]),
    frozenset(["application/postscript", "application/msword"]),
)

_BY_ENDING = {ending: kind for kind in TABLE for ending in kind.endings}
_BY_TYPE = {type_: kind for kind in TABLE for type_ in kind.types}
_BY_CLASS: dict[str, FileFamily] = {
    "image": "pictures",
    "audio": "sound and film",
    "video": "sound and film",
    "font": "styles",
}
# what a person gets for themselves, rather than what a page is shown with
_CARRIED: frozenset[FileFamily] = frozenset(["documents", "sound and film"])
# the old site's looks and machinery: no content, and made anew by the new system
_MACHINERY: frozenset[FileFamily] = frozenset(["styles", "scripts", "feeds and maps"])
# for programs, by how they are called, though files of their types are a person's as well
_FOR_PROGRAMS = frozenset(f"{name}.txt" for name in ("robots", "ads", "app-ads", "llms", "humans", "security"))


def ending_of(address: str) -> str:
    """The ending of the last part of a path (what follows ``?`` and ``#`` aside), lower case, "" when it has none."""
    tail = address.partition("#")[0].partition("?")[0].rpartition("/")[2]
    stem, dot, ending = tail.rpartition(".")
    return ending.lower() if dot else ""


@lru_cache(16384)  # the same paths are linked again and again
def family_of_ending(ending: str) -> FileFamily | None:
    """The family of files that end so, None for an ending that nobody knows."""
    kind = _BY_ENDING.get(ending)
    return kind.family if kind is not None else None


def looks_like_file(path: str) -> bool:
    """Whether a path ends like a file that is no page."""
    return ending_of(path) in _BY_ENDING


def is_download(address: str) -> bool:
    """Whether an address ends like a document, an archive, a sound or a film: what a link to it hands over."""
    kind = _BY_ENDING.get(ending_of(address))
    return kind is not None and kind.family in _CARRIED


def family_of_type(mime: str) -> FileFamily:
    """The family of a media type; what nobody knows is a document."""
    kind = _BY_TYPE.get(mime)
    if kind is not None:
        return kind.family
    if mime.endswith("javascript"):
        return "scripts"
    if mime.endswith("xml"):
        return "feeds and maps"
    return _BY_CLASS.get(mime.partition("/")[0], "documents")


def is_machinery(mime: str, key: str) -> bool:
    """Whether a file, by its type and its address, belongs to the old site's looks and machinery: it is not carried."""
    if family_of_type(mime) in _MACHINERY:
        return True
    name = key.partition("?")[0].rpartition("/")[2].lower()
    return name in _FOR_PROGRAMS or ("sitemap" in name and name.endswith((".txt", ".gz")))


def ending_for(mime: str) -> str:
    """The usual ending of a media type, ``bin`` for one that nobody knows."""
    kind = _BY_TYPE.get(mime)
    return kind.endings[0] if kind is not None else UNKNOWN


# compressed in themselves, beside nearly all pictures, sounds and films
_PACKED = frozenset("application/pdf application/zip application/gzip application/x-gzip font/woff font/woff2".split())
_LOOSE = frozenset("image/svg+xml image/bmp audio/wav audio/x-wav text/vtt".split())


def is_packed(mime: str) -> bool:
    """Whether files of a type are compressed in themselves, so that packing them again gains nothing."""
    if mime in _LOOSE:
        return False
    return mime in _PACKED or family_of_type(mime) in ("pictures", "sound and film")


def type_by_content(head: bytes) -> str:
    """The type that the first bytes of a file tell, "" where they tell none (text, and what is not known)."""
    found = next((type_ for at, mark, type_ in SIGNATURES if head[at : at + len(mark)] == mark), "")
    if found:
        return "" if found == "image/bmp" and len(head) < 26 else found
    start = head.lstrip(b"\xef\xbb\xbf \t\r\n")[:1000].lower()
    if start.startswith((b"<!doctype html", b"<html")):
        return "text/html"
    if start.startswith(b"<svg") or (
        start.startswith((b"<?xml", b"<!--", b"<!doctype svg")) and b"<svg" in head.lower()
    ):
        return "image/svg+xml"
    return ""


def same_type(found: str, said: str) -> bool:
    """Whether a type that the content tells is the one that is said: the same under another name, or one that begins
    like it."""
    one, other = _BY_TYPE.get(found), _BY_TYPE.get(said)
    if found == said or (one is not None and one is other) or other is None:
        return True
    if found == "application/zip" and ("openxml" in said or "opendocument" in said or "kml" in said):
        return True
    if found == "application/msword" and said.startswith("application/vnd.ms-"):
        return True
    return any(one is not None and one.types[0] in alike and other.types[0] in alike for alike in _ALIKE)
