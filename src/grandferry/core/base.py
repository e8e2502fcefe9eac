"""The address that the references of a page are joined to (HTML standard 4.2.3, ``base``)."""

from __future__ import annotations

from .address import Scope
from .page import Page


def base_of(page: Page, url: str, scope: Scope) -> str:
    """Its own address, unless the page names another."""
    found = scope.normal(page.base, url) if page.base else None
    return url if found is None else str(found)
