"""An old site in the making: its answers, its ground truth, and the parts that all its pages share."""

from __future__ import annotations

import random
import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass, field
from html import escape
from typing import Any

from . import markup, pictures
from .material import Writer
from .outline import outline

OLD, FILES, NEW = "old.quillmere.localhost", "files.quillmere.localhost", "new.quillmere.localhost"
SEED = 20260401
NAME = "Quillmere Valley Railway"


@dataclass(slots=True)
class Answer:
    status: int = 200
    type: str = "text/html; charset=utf-8"
    body: bytes = b""
    location: str = ""


@dataclass(slots=True)
class Site:
    """``answers``: (host, path with query) -> answer. ``truth`` is never read by the tool."""

    answers: dict[tuple[str, str], Answer] = field(default_factory=dict)
    aliases: dict[str, str] = field(default_factory=dict)  # other names of a host
    locked: dict[str, tuple[str, str]] = field(default_factory=dict)  # folders behind a name and a password
    # what answers when it is asked: (host, key) -> answer; and the addresses of it that have an end
    makers: list[Callable[[str, str], Answer | None]] = field(default_factory=list)
    made: list[tuple[str, str]] = field(default_factory=list)
    whole: bool = False
    truth: dict[str, Any] = field(default_factory=lambda: {"pages": {}, "fates": {}, "files": {}, "dead_links": []})
    log: list[str] = field(default_factory=list)

    def answer(self, host: str, key: str) -> Answer | None:
        """What the old system says to a request, None when there is no such address."""
        path, _, query = key.partition("?")
        # it did not care for session parameters
        kept = "&".join(p for p in query.split("&") if p and not p.lower().startswith("phpsessid"))
        host, key = self.aliases.get(host, host), path + (f"?{kept}" if kept else "")
        found = self.answers.get((host, key))
        return found or next((made for made in (make(host, key) for make in self.makers) if made is not None), None)


def slug(title: str) -> str:
    text = unicodedata.normalize("NFKD", title.replace("&", " and ").replace("'", ""))
    return re.sub(r"[^a-z0-9]+", "-", "".join(c for c in text if ord(c) < 128).lower()).strip("-")


class Parts:
    """What all pages are made of. ``old`` and ``files`` are the hosts with their port, as addresses name them."""

    def __init__(self, old: str, files: str, new: str, seed: int = SEED):
        self.old, self.files, self.new = old, files, new
        self.seed = seed
        self.random = random.Random(seed)
        self.writer = Writer(seed)
        self.site = Site()
        self.taken: set[str] = set()

    def html(
        self,
        key: str,
        title: str,
        content: str,
        *,
        charset: str = "utf-8",
        declared: bool = True,
        lang: str = "en",
        head: str = "",
        body_class: str = "",
    ) -> None:
        page = (
            f'<!DOCTYPE html>\n<html lang="{lang}"><head>'
            + (f'<meta charset="{charset}">' if declared else "")
            + f"<title>{escape(title)} | {NAME}</title>\n"
            f'<meta name="generator" content="RailPages 2.3"><link rel="stylesheet" href="/style.css">{head}'
            f'<script src="/flip.js"></script></head>\n<body class="{body_class}">\n'
            f'<div id="top"><a href="/"><img src="http://{self.files}/badge.svg" alt="{NAME}"></a>\n'
            '<ul class="nav"><li><a href="/news/">News</a></li><li><a href="/engines.aspx">Engines</a></li>'
            '<li><a href="/visit/timetable.htm">Visit</a></li><li><a href="/help/">Questions</a></li>'
            '<li><a href="/about/history.htm">About</a></li><li><a '
            'href="/Volunteer/Roles.htm">Volunteer</a></li></ul></div>\n'
            f'<div id="content">{content}</div>\n'
            '<div id="cookies">We keep a cookie in the tin. <a href="javascript:void(0)">Fine</a></div>\n'
            '<div id="foot">Quillmere Valley Railway, The Goods Yard, Quillmere. '
            '<a href="/about/contact.htm">Write to us</a> <a href="http://elsewhere.localhost/badge">Made with '
            "RailPages</a>"
            "</div></body></html>\n"
        )
        type_ = f"text/html; charset={charset}" if declared else "text/html"
        self.put(self.old, key, Answer(200, type_, page.encode(charset, "xmlcharrefreplace")))

    def put(self, host: str, key: str, answer: Answer) -> None:
        self.site.answers[(host, key)] = answer

    def picture(self, name: str, number: int, host: str = "") -> str:
        body = pictures.engine_picture(number)
        self.put(host or self.files, name, Answer(200, "image/png", body))
        return f"http://{host or self.files}{name}"

    def place(self, path: str) -> str:
        made, number = path, 2
        while made in self.taken:
            made, number = f"{path}-{number}", number + 1
        self.taken.add(made)
        return made

    def true(
        self,
        key: str,
        kind: str,
        template: str,
        fields: dict[str, Any],
        body: list[Any],
        new: str,
        fate: str = "moved",
        style: str = "clean",
    ) -> None:
        words = markup.words_of(body)
        if style == "double":
            words = [w.replace("£", "&pound;") for w in words]
        self.site.truth["pages"][key] = {
            "kind": kind,
            "template": template,
            "fields": fields,
            "words": words,
            "new": new,
            "blocks": outline(body, style),
            "style": style,
        }
        self.fate(key, "stays" if new == key else fate, new)

    def fate(self, key: str, fate: str, new: str = "") -> None:
        self.site.truth["fates"][key] = [fate, new]
