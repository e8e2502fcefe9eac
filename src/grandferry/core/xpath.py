"""XPath 1.0 over a page: libxml2's own, on a copy of the page's elements that know their numbers.

What could run for minutes on a page of any size is refused where it is written: an expression may look down the whole
page a few times, not anew from every element, and pages beyond a size are not asked at all.
"""

from __future__ import annotations

import re
from typing import Any

from lxml import etree

from .errors import PatternError, UnreadablePage
from .page import Node, Page

LARGEST = 60_000  # nodes of a page
WALKS = 4  # that an expression may take over all of the page (``//``, following, preceding, ...)
_WALK = re.compile(r"//|\b(?:descendant|descendant-or-self|following|preceding|ancestor|ancestor-or-self)\s*::")
_NUMBER = "gf"
_NAME = re.compile(r"[A-Za-z_][\w.-]*\Z")
# what XML cannot hold (XML 1.0 section 2.2)
_NO_XML = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def check_xpath(expression: str) -> None:
    """Raise PatternError where an expression cannot be read, or could take too long."""
    try:
        etree.XPath(expression)
    except (etree.XPathError, ValueError) as problem:
        raise PatternError(f"The XPath “{expression}” cannot be read: {problem}.", "Write XPath 1.0.") from None
    bare = re.sub(r"\"[^\"]*\"|'[^']*'", "''", expression)
    walks = list(_WALK.finditer(bare))
    within = 0
    for walk in walks:
        before = bare[: walk.start()]
        depth = before.count("[") - before.count("]")
        within += depth > 0
        from_root = walk[0] == "//" and not re.search(r"[\w.)\]*]\s*$", before)
        if depth > 1 or (depth and from_root) or within > 1:
            raise PatternError(
                f"The XPath “{expression}” looks over the whole page from every element.",
                "Within brackets look below the element itself (.//), and only once.",
            )
    if len(walks) > WALKS:
        raise PatternError(f"The XPath “{expression}” looks over the whole page more than {WALKS} times.")


def by_xpath(page: Page, expression: str) -> list[tuple[int, str | None]]:
    """What an expression finds: (number of the element, None) for an element, (number of the element that it is of,
    text) for an attribute or a text; (-1, text) for a value. Raises PatternError, UnreadablePage."""
    check_xpath(expression)
    if len(page.nodes) > LARGEST:
        raise UnreadablePage(f"The page holds more than {LARGEST:,} nodes, too many for XPath.", "Use a CSS selector.")
    root = _element(page.root)
    try:
        found = etree.XPath(expression)(root)
    except (etree.XPathError, ValueError) as problem:
        raise PatternError(f"The XPath “{expression}” cannot be read: {problem}.", "Write XPath 1.0.") from None
    if isinstance(found, bool):
        return [(-1, "yes")] if found else []
    if isinstance(found, float):
        return [(-1, str(int(found) if found.is_integer() else found))] if found == found else []
    if isinstance(found, str):
        return [(-1, found)] if found.strip() else []
    places: dict[tuple[int, str | None], None] = {}
    for one in found:
        if isinstance(one, etree._Element):
            places.setdefault((int(one.get(_NUMBER, "0")), None))
        elif (parent := _parent(one)) is not None:
            places.setdefault((int(parent.get(_NUMBER, "0")), str(one)))
    return list(places)


def _parent(text: Any) -> Any:
    """The element that a text or an attribute found is of; None where that is not known."""
    above = text.getparent() if hasattr(text, "getparent") else None
    return above.getparent() if above is not None and getattr(text, "is_tail", False) else above


def _element(node: Node) -> Any:
    """A copy of an element and all that it holds (without recursion: pages may be deep)."""
    made = _bare(node)
    open_ = [(node, made)]
    while open_:
        here, copy = open_.pop()
        last = None
        for child in here.children:
            if child.tag:
                last = _bare(child)
                copy.append(last)
                open_.append((child, last))
            elif text := _NO_XML.sub("", child.text):
                if last is None:
                    copy.text = (copy.text or "") + text
                else:
                    last.tail = (last.tail or "") + text
    return made


def _bare(node: Node) -> Any:
    made = etree.Element(node.tag if _NAME.match(node.tag) else "unknown")
    for name, value in node.attrs.items():
        if _NAME.match(name) and name != _NUMBER:
            made.set(name, _NO_XML.sub("", value or ""))
    made.set(_NUMBER, str(node.n))
    return made
