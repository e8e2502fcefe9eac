"""Which picture an ``img`` shows in the end: not the one that keeps its place, when the real one is known."""

from __future__ import annotations

from ...page import Node, Page, after, before
from ...references import picture_source, stands_in


def shown_picture(node: Node, page: Page) -> str:
    """The address of the picture, as written: the element's own, unless that only keeps the place of another; else one
    of the sources around it (``picture``), or what stands for it where no script runs (``noscript``)."""
    own = picture_source(node.tag, node.attrs)
    if node.tag != "img" or (own and not stands_in(own)):
        return own
    around = node.parent
    if around is not None and around.tag == "picture":
        for source in around.children:
            if source.tag == "source" and (found := picture_source(source.tag, source.attrs)) and not stands_in(found):
                return found
    return _without_scripts(node if around is None or around.tag != "picture" else around, page) or own


def _without_scripts(node: Node, page: Page) -> str:
    """The picture in the ``noscript`` right before or after an element."""
    for side in (after(node), before(node)):
        one = next((n for n in side if n.tag or n.text.strip()), None)
        if one is not None and one.tag == "noscript":
            found = (picture_source(n.tag, n.attrs) for n in page.inside(one) if n.tag == "img")
            if real := next((source for source in found if source and not stands_in(source)), ""):
                return real
    return ""
