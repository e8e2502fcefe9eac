"""Sitemaps (sitemaps.org protocol: index, urlset, text; also gzipped) and the links of Atom and RSS feeds.

XML is read without entities and without the network.
"""

from __future__ import annotations

import zlib
from dataclasses import dataclass

from lxml import etree

SIZE_CAP = 52_428_800  # the protocol's own limit, unpacked


@dataclass(frozen=True, slots=True)
class Sitemap:
    """Addresses of pages, addresses of further sitemaps, and a sentence when it could not be read whole."""

    pages: tuple[str, ...]
    sitemaps: tuple[str, ...]
    fault: str = ""


def _unpack(body: bytes) -> bytes:
    if body[:2] == b"\x1f\x8b":
        return zlib.decompressobj(47).decompress(body, SIZE_CAP)
    return body


def _tree(body: bytes) -> etree._Element | None:
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, recover=True)
    try:
        return etree.fromstring(body, parser)
    except (etree.XMLSyntaxError, ValueError):
        return None


def read_sitemap(body: bytes) -> Sitemap:
    """Read a sitemap of any of its forms. Never raises; what cannot be read is said in ``fault``."""
    try:
        body = _unpack(body)
    except zlib.error as problem:
        return Sitemap((), (), f"broken gzip ({problem})")
    if body.lstrip()[:1] != b"<":
        lines = [line.strip() for line in body.decode("utf-8-sig", "replace").splitlines()]
        good = tuple(line for line in lines if line.startswith(("http://", "https://")))
        return Sitemap(good, (), "" if good or not body.strip() else "neither XML nor a list of addresses")
    root = _tree(body)
    if root is None:
        return Sitemap((), (), "not readable as XML")
    pages, further = [], []
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        name = etree.QName(element).localname
        holder = element.getparent()
        text = (element.text or "").strip()
        if name == "loc" and text and holder is not None:
            (further if etree.QName(holder).localname == "sitemap" else pages).append(text)
    name = etree.QName(root).localname
    fault = "" if name in ("urlset", "sitemapindex") else f"its root is <{name}>, not a sitemap"
    return Sitemap(tuple(pages), tuple(further), fault)


def read_feed(body: bytes) -> tuple[str, ...]:
    """The addresses of the entries of an Atom (RFC 4287) or RSS feed, () when it is none."""
    root = _tree(body)
    if root is None or etree.QName(root).localname.lower() not in ("feed", "rss", "rdf"):
        return ()
    found = []
    for element in root.iter():
        if isinstance(element.tag, str) and etree.QName(element).localname == "link":
            address = (element.get("href") or element.text or "").strip()
            if address and element.get("rel", "alternate") == "alternate":
                found.append(address)
    return tuple(found)
