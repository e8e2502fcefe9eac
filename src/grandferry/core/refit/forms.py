"""Forms told apart by what they ask, whatever page they stand on."""

from __future__ import annotations

import hashlib
import json
from dataclasses import astuple

from .blocks import Form


def mark_of(form: Form) -> str:
    """What a form is told by: its method, its fields, and its words (the first 12 hex digits of their SHA-256)."""
    words = " ".join("".join(text.text for text in form.words).split())
    said = json.dumps([form.method, [astuple(one) for one in form.fields], words], ensure_ascii=False)
    return hashlib.sha256(said.encode("utf-8", "surrogatepass")).hexdigest()[:12]
