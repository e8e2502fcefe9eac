"""Signed addresses of captured things: the preview's origin carries no cookie, so each address carries its own
leave."""

from __future__ import annotations

import hashlib
import hmac
import secrets

_KEY = secrets.token_bytes(32)  # of this process: an address does not outlive it


def sign(*parts: object) -> str:
    text = "/".join(str(part) for part in parts)
    return hmac.new(_KEY, text.encode(), hashlib.sha256).hexdigest()[:40]


def signed(given: str, *parts: object) -> bool:
    return hmac.compare_digest(given.encode(), sign(*parts).encode())
