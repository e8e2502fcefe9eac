"""The old site's pages in other clothes: as templates of other times and makers would have written them."""

from __future__ import annotations

import hashlib
import re

from selectolax.lexbor import LexborHTMLParser

BOXES = re.compile(r"<(/?)(?:section|article|header|footer|nav|ul|li|figure|figcaption|h2|h3|dl|dt|dd)\b")
SKINS = ("as it is", "boxes", "bare")


def skinned(html: str, skin: str, page: str) -> str:
    """A page in another skin: nested boxes with generated class names, some of them new on each page, or tables without
    any class or id."""
    if skin == "as it is":
        return html
    tree = LexborHTMLParser(html)
    for node in list(tree.root.traverse()) if tree.root is not None else []:
        names = (node.attributes.get("class") or "").split()
        for name in ("class", "id"):
            if name in node.attributes:
                del node.attrs[name]
        if skin == "boxes" and names:
            fixed = (hashlib.md5(name.encode()).hexdigest()[:6] for name in names)
            node.attrs["class"] = " ".join(
                ["x" + name for name in fixed] + ["p" + hashlib.md5(page.encode()).hexdigest()]
            )
    made = str(tree.html)
    if skin == "boxes":
        return BOXES.sub(r"<\1div", made)
    return re.sub(r"<div\b[^>]*>", "<table><tr><td>", made).replace("</div>", "</td></tr></table>")
