"""The password that a workspace asks for when it is served to other machines: kept as a hash, in a file that only its
owner reads (scrypt, RFC 7914)."""

from __future__ import annotations

import hashlib
import hmac
import os
import secrets
from pathlib import Path

from grandferry.core.errors import FerryError

from .db import StoreError, workspace_folder

FILE = "password"
LEAST = 12  # signs
MOST = 500
_COST = {"n": 2**15, "r": 8, "p": 1, "maxmem": 2**26}


def _file() -> Path:
    return workspace_folder() / FILE


def is_kept() -> bool:
    """Whether the workspace has a password."""
    return _file().is_file()


def keep(word: str) -> None:
    """Keep a password, in the place of the one there was. Raises FerryError for one that is too short or too long."""
    if not LEAST <= len(word) <= MOST:
        raise FerryError(f"A password has {LEAST} to {MOST} characters.", "Several words are easier to keep in mind.")
    salt = secrets.token_bytes(16)
    line = f"scrypt {salt.hex()} {hashlib.scrypt(word.encode(), salt=salt, **_COST).hex()}\n"
    fresh = _file().with_suffix(".new")
    fresh.unlink(missing_ok=True)
    with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as handle:
        handle.write(line)
    os.replace(fresh, _file())


def fits(word: str) -> bool:
    """Whether this is the password; it takes a tenth of a second to tell. Raises StoreError when the file cannot be
    read."""
    try:
        _, salt, kept = _file().read_text("ascii").split()
        made = hashlib.scrypt(word[:MOST].encode(), salt=bytes.fromhex(salt), **_COST)
        return hmac.compare_digest(made, bytes.fromhex(kept))
    except (OSError, ValueError) as problem:
        raise StoreError(f"The file of the password cannot be read: {problem}.", "Set it anew.") from None
