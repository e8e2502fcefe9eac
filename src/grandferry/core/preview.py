"""A captured page made safe to look at: numbered nodes to HTML in which nothing runs and nothing leaves.

Every element carries its node number (``data-gf``), so that a place on screen is a place in the account. What could
act is left out; addresses of pictures and styles go through ``resource``, which answers with an address of our own
store or "" when it holds none. The page is shown in a sandbox under a policy of its own as well: this is the first of
three walls, not the only one.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from .css import with_addresses, without_comments
from .page import Node, Page
from .references import ATTRIBUTES, PICTURES, Shows, media_source, picture_source, references
from .refit.serialise import VOID, escape_attribute, escape_text

Resource = Callable[[str], str]

GONE = frozenset(
    "script noscript template base object embed applet param source track animate set animatemotion animatetransform "
    "discard portal fencedframe frameset frame noframes noembed".split()
)
PLACEHOLDER = frozenset(["iframe", "video", "audio", "canvas", "object", "embed", "applet", "frame"])
PLAIN = {"xmp": "pre", "plaintext": "pre", "listing": "pre"}
STYLED_LINKS = frozenset(["stylesheet"])
DROPPED = (ATTRIBUTES - {"style"}) | frozenset(
    "href action formaction target ping download sizes integrity nonce crossorigin http-equiv autofocus is slot "
    "sandbox allow usemap ismap dynsrc manifest profile classid codebase archive formtarget data-gf autoplay "
    "contenteditable accesskey tabindex popover popovertarget commandfor command loading fetchpriority "
    "referrerpolicy".split()
)
_NAME = re.compile(r"[a-zA-Z][a-zA-Z0-9_:.-]*\Z")


_MARKUP = re.compile(r"<(?=[A-Za-z/!?])|&(?=[A-Za-z#])")
_ESCAPED = {"<": "\\3c ", "&": "\\26 "}  # CSS syntax 3, section 4.3.7


def safe_css(css: str, resource: Resource) -> str:
    """A style sheet in which every address is one of our own store's, or nothing; with nothing that is markup, wherever
    it stands: the text of a style element is markup itself in foreign content (HTML standard 13.2.6.5)."""
    css = with_addresses(without_comments(css), resource)
    return _MARKUP.sub(lambda found: _ESCAPED[found[0]], css).replace("-->", "")


def preview_html(
    page: Page,
    resource: Resource,
    *,
    head: str = "",
    doctype: bool = True,
    marks: Mapping[int, tuple[str, str]] | None = None,
) -> str:
    """The page as HTML. ``head`` (our own markup) comes before anything of the page's; ``marks``: number of a text
    node -> (class, words shown on hover) for texts to be set off."""
    out = ["<!doctype html>" if doctype else "", head]
    _write(page.root, resource, marks or {}, out)
    return "".join(out)


def _write(node: Node, resource: Resource, marks: Mapping[int, tuple[str, str]], out: list[str]) -> None:
    if not node.tag:
        mark = marks.get(node.n)
        text = escape_text(node.text)
        if mark:
            out.append(
                f'<gf-mark class="{escape_attribute(mark[0])}" title="{escape_attribute(mark[1])}" '
                f'data-gf="{node.n}">{text}</gf-mark>'
            )
        else:
            out.append(text)
        return
    tag = node.tag.lower()
    if tag in PLACEHOLDER:
        out.append(f'<gf-box data-gf="{node.n}">{escape_text(_named(node))}</gf-box>')
        return
    if tag in GONE or tag == "meta" or not _NAME.match(tag):
        # an unknown or acting wrapper goes; what can be seen inside a frameset has no page of its own
        if tag in ("frameset", "noframes"):
            for child in node.children:
                _write(child, resource, marks, out)
        return
    if tag == "link":
        address = resource(node.get("href")) if node.get("rel").strip().lower() in STYLED_LINKS else ""
        if address:
            media = f' media="{escape_attribute(node.get("media"))}"' if node.get("media") else ""
            out.append(f'<link rel="stylesheet" href="{escape_attribute(address)}"{media}>')
        return
    if tag == "style":
        out.append(f"<style>{safe_css(''.join(c.text for c in node.children if not c.tag), resource)}</style>")
        return
    shown = PLAIN.get(tag, tag)
    out.append(f'<{shown} data-gf="{node.n}"{_attributes(node, tag, resource)}>')
    if shown in VOID:
        return
    if shown in ("pre", "textarea"):
        out.append("\n")  # the parser drops the first line break after these
    for child in node.children:
        _write(child, resource, marks, out)
    out.append(f"</{shown}>")


def _attributes(node: Node, tag: str, resource: Resource) -> str:
    parts = []
    behind = _laid_behind(node, tag)
    style = node.get("style")
    if behind:  # a script would lay it behind the element
        style += ';background-image:url("' + behind.replace('"', "%22") + '")'
    for name, value in node.attrs.items():
        low = name.lower()
        if low in DROPPED or low == "style" or low.startswith(("on", "xlink:")) or not _NAME.match(name):
            continue
        parts.append(f" {name}" if value is None else f' {name}="{escape_attribute(value)}"')
    if style:
        parts.append(f' style="{escape_attribute(safe_css(style, resource))}"')
    if tag in PICTURES:
        source = picture_source(tag, node.attrs)
        address = resource(source) if source else ""
        if address:
            parts.append(f' src="{escape_attribute(address)}"')
    background = node.get("background")
    if background and (address := resource(background)):
        parts.append(f' background="{escape_attribute(address)}"')
    if tag == "a" and node.get("href"):
        parts.append(f' data-href="{escape_attribute(node.get("href")[:500])}"')
    if tag in ("input", "button", "select", "textarea"):
        parts.append(" disabled")
    return "".join(parts)


def _laid_behind(node: Node, tag: str) -> str:
    """The picture that a script would lay behind an element, or put into an empty one; "" when there is none."""
    if ATTRIBUTES.isdisjoint(node.attrs):
        return ""
    for ref in references(tag, node.attrs):
        if ref.lazy and (ref.shows is Shows.BACKGROUND or not (node.children or tag in PICTURES)):
            return ref.raw
    return ""


def _named(node: Node) -> str:
    source = media_source(node.tag, node.attrs)
    return f"{node.tag}: {source[:120]}" if source else node.tag
