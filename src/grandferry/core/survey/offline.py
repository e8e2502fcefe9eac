"""A captured site as files that can be opened without any server: a safe and stable name for every address, and pages
and style sheets whose references lead to those files.

A name depends on nothing but its address, so a later copy gives the same names. What a file system may not take, or may
take for another name (letter case, blanks, quotes, percent signs, queries), is replaced and told apart by a short hash.
"""

from __future__ import annotations

import hashlib
import os.path
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from urllib.parse import quote, unquote

from selectolax.lexbor import LexborHTMLParser, LexborNode

from ..address import Address
from ..css import with_addresses
from ..filetypes import ending_for
from ..page import open_page
from ..references import Attributes, Spelled, addresses, carriers_of, refresh_target, srcset
from .links import MARKED, carriers
from .marks import Marks

LONGEST = 80  # characters of one part of a name
WHOLE = 220  # … of all of it: what is unpacked below some folder has to stay within 260 where that is the limit
_FILE_LIKE = re.compile(r"\.[a-z0-9]{1,8}\Z")
_SAFE = re.compile(r"[a-z0-9](?:[a-z0-9_.-]*[a-z0-9_-])?")
_UNSAFE = re.compile(r"[^a-z0-9_.-]+")
_DEVICES = re.compile(r"(?:con|prn|aux|nul|com\d|lpt\d)(?:\.|$)")  # names that Windows keeps for itself
_PAGE_ENDS = (".html", ".htm")
_CSS_CHARSET = re.compile(r"""^\s*@charset\s+["'][^"']*["']\s*;""", re.I)
_MARKS = Marks(MARKED)


def _hash(text: str) -> str:
    return hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=4).hexdigest()


def _part(text: str) -> str:
    """One part of a path as a safe name; a part that had to be changed carries a hash of what it was."""
    plain = unquote(text)
    if text == plain and len(text) <= LONGEST and _SAFE.fullmatch(text) and not _DEVICES.match(text):
        return text
    stem, dot, ending = plain.lower().rpartition(".")
    if not dot or not re.fullmatch(r"[a-z0-9]{1,8}", ending):
        stem, dot, ending = plain.lower(), "", ""
    stem = _UNSAFE.sub("-", stem).replace("..", "-").strip("-.")[:LONGEST]
    return f"{stem + '-' if stem else ''}{_hash(text)}{dot}{ending}"


def _folder(text: str) -> str:
    """A folder's name. One that ends as files do is told apart from the file of that name."""
    part = _part(text) or "_"
    return f"{part}_" if _FILE_LIKE.search(part) else part


def local_name(address: Address, page: bool, mime: str = "") -> str:
    """The file of an address within a copy, with ``/`` between its parts: below a folder of its host, pages ending in
    .html."""
    host = _part(address.host.replace(":", "_"))
    *folders, last = address.path.split("/")[1:]
    name = _part(last) if last else "index"
    if address.query:
        stem, dot, ending = name.rpartition(".") if "." in name else (name, "", "")
        shown = _UNSAFE.sub("-", unquote(address.query).lower()).strip("-.")[:40]
        name = f"{stem}{'-' + shown if shown else ''}-{_hash(address.query)}{dot}{ending}"
    if page and not name.endswith(_PAGE_ENDS):
        name += ".html"
    elif not page and "." not in name:
        name += f".{ending_for(mime)}"  # so that a folder of the same name can stand beside it
    elif page and name.endswith(".htm"):
        name += "l"
    whole = "/".join([host, *map(_folder, folders), name])
    if len(whole) <= WHOLE:
        return whole
    stem, dot, ending = name.rpartition(".")
    known = hashlib.blake2b(address.key.encode("utf-8", "surrogatepass"), digest_size=8).hexdigest()
    return f"{host[:LONGEST]}/_long/{stem[:LONGEST]}-{known}{dot}{ending}"


@dataclass(frozen=True, slots=True)
class Place:
    """An address and what is kept of it: ``page`` or a file of type ``mime``."""

    address: Address
    page: bool
    mime: str


def local_names(places: Iterable[Place]) -> dict[str, str]:
    """url -> file for all of a copy; where two would share a file, each but the first by address gets its hash too."""
    names: dict[str, str] = {}
    taken: set[str] = set()
    for place in sorted(places, key=lambda p: str(p.address)):
        url = str(place.address)
        name = local_name(place.address, place.page, place.mime)
        if name in taken:
            stem, dot, ending = name.rpartition(".")
            name = f"{stem}-{_hash(url)}{dot}{ending}"
        taken.add(name)
        names[url] = name
    return names


def way(source: str, target: str) -> str:
    """The reference from one file of a copy to another, percent-encoded as a browser wants it."""
    return quote(os.path.relpath(target, os.path.dirname(source) or "."))


# a reference as written -> what to write in its place
Find = Callable[[str], str]


def rewrite_css(css: str, find: Find) -> str:
    """A style sheet with its references replaced."""
    return with_addresses(_CSS_CHARSET.sub("", css), lambda raw: find(raw) if raw else raw)


def rewrite_page(html: str, find: Find) -> str:
    """A page's source with its references replaced, to be written as UTF-8. Raises UnreadablePage."""
    parser = open_page(html)
    done: set[int] = set()
    for node in parser.css(carriers(_MARKS.within(html.encode("utf-8", "surrogatepass")))):
        if node.mem_id not in done:
            done.add(node.mem_id)
            _rewrite(node, node.tag or "", find)
    _say_utf8(parser)
    return parser.html or ""


def _rewrite(node: LexborNode, tag: str, find: Find) -> None:
    attrs = node.attributes
    if tag == "base":
        node.decompose()
        return
    if tag == "style":
        css = node.text()
        if "url(" in css.lower() or "@import" in css.lower():
            made = LexborHTMLParser(f"<style>{rewrite_css(css, find).replace('</', '<')}</style>").css_first("style")
            if made is not None:
                for name, value in attrs.items():
                    made.attrs[name] = value or ""
                node.replace_with(made)
        return
    changed: dict[str, str] = {}
    rel = (attrs.get("rel") or "").lower().split()
    if tag == "link" and attrs.get("href") and not {"dns-prefetch", "preconnect"} & set(rel):
        changed["href"] = find((attrs["href"] or "").strip())
    if tag == "meta":
        _rewrite_meta(attrs, changed, find)
    for carrier, value in carriers_of(tag, attrs):
        written = addresses(carrier, value)
        if not written or written[0].startswith("#"):
            continue
        if carrier.spelled is Spelled.SET:
            changed[carrier.attribute] = _rewrite_set(value, find)
        elif carrier.spelled is Spelled.CSS or written[0] != value.strip():
            changed[carrier.attribute] = rewrite_css(value, find)
        else:
            changed[carrier.attribute] = find(written[0])
    for name, value in changed.items():
        node.attrs[name] = value
    if changed:
        for name in ("integrity", "crossorigin"):
            if name in attrs:
                del node.attrs[name]


def _rewrite_meta(attrs: Attributes, changed: dict[str, str], find: Find) -> None:
    content = attrs.get("content") or ""
    if (attrs.get("http-equiv") or "").lower() == "refresh":
        target = refresh_target(content)
        if target:
            changed["content"] = f"{re.split('[;,]', content)[0]};url={find(target)}"
    elif (attrs.get("property") or attrs.get("name") or "").lower() in ("og:image", "twitter:image") and content:
        changed["content"] = find(content.strip())


def _rewrite_set(value: str, find: Find) -> str:
    for url in sorted({url for url, _ in srcset(value)}, key=len, reverse=True):
        value = re.sub(rf"(?<![^\s,]){re.escape(url)}(?=[\s,]|$)", lambda _, u=url: find(u), value)  # type: ignore[misc]
    return value


def _say_utf8(parser: LexborHTMLParser) -> None:
    """Whatever encoding the page named, it is written in UTF-8 now, and says so first."""
    for node in parser.css("meta[charset],meta[http-equiv='content-type' i]"):
        node.decompose()
    head = parser.head
    mark = LexborHTMLParser('<meta charset="utf-8">').css_first("meta")
    if head is not None and mark is not None:
        first = head.child
        if first is not None:
            first.insert_before(mark)
        else:
            head.insert_child(mark)
