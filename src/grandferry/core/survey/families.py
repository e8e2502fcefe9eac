"""Families: what sort of thing an address is, so that a person can say which sorts go over at all.

Accounts of people and orders are told by their folders and stay out unless somebody asks for them.
"""

from __future__ import annotations

from ..filetypes import family_of_type
from ..patterns import compile_pattern

PEOPLE, ORDERS = "accounts of people", "orders"
PERSONAL = (PEOPLE, ORDERS)
# below a folder of people, or a program that shows one of them; a page of that name ("our members") is a page like
# others
_PEOPLE = r"(?i)/(?:users?|members?|profiles?|customers?|subscribers?)(?:/[^/?]+|(?:\.\w+)?\?)"
_ORDERS = r"(?i)/(?:orders?|checkout|basket|cart|invoices?)(?:/|\.(?:aspx?|php|jsp|cgi)|\?|$)"
# what stands within pages: counted piece by piece, by facts of the same names
WITHIN = ("forms", "comments", "menus")
FAMILIES = (
    "pages",
    "pictures",
    "documents",
    "sound and film",
    "styles",
    "scripts",
    "feeds and maps",
    *WITHIN,
    *PERSONAL,
)


def family_of(key: str, type_: str, mime: str) -> str:
    """The family of an address by its key (path with query), its sort (page, file, redirect …) and its type; "" for
    what is none, like a redirect."""
    if type_ == "page":
        if compile_pattern(_PEOPLE).search(key):
            return PEOPLE
        return ORDERS if compile_pattern(_ORDERS).search(key) else "pages"
    if type_ != "file":
        return ""
    return family_of_type(mime)
