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
