"""Proposing the part of a page that is its own content.

An element that says so (``main``, ``role=main``, a lone ``article``) is believed. Else the element is
taken that holds the most words outside links, each level up paying for the linked words it brings in.
"""

from __future__ import annotations

from ..page import Node, Page

_NEVER = frozenset(["nav", "header", "footer", "aside", "form"])


def find_region(page: Page) -> Node:
    """The proposed region (the body when nothing stands out)."""
    body = page.body
    said = [n for n in page.nodes if n.tag == "main" or n.get("role") == "main"]
    if len(said) == 1:
        return said[0]
    articles = [n for n in page.nodes if n.tag == "article"]
    if len(articles) == 1:
        return articles[0]
    size = len(page.nodes)
    plain = [0] * size
    linked = [0] * size
    for node in page.nodes:
        if node.tag or not node.visible:
            continue
        words = len(node.text.split())
        if not words:
            continue
        chain = []
        up = node.parent
        barred = in_link = False
        while up is not None:
            chain.append(up.n)
            in_link = in_link or up.tag == "a"
            barred = barred or up.tag in _NEVER
            up = up.parent
        for n in chain:
            if in_link or barred:
                linked[n] += words
            else:
                plain[n] += words
    best, best_score = body, -1.0
    for node in page.inside(body):
        if node.tag in ("div", "td", "section", "article", "body", "center", "font") and plain[node.n]:
            # a box must beat its holder: fewer linked words for nearly the same plain ones
            score = plain[node.n] - 0.8 * linked[node.n]
            if score > best_score:
                best, best_score = node, score
            elif score == best_score and best.n <= node.n <= best.last:
                best = node
    return best
