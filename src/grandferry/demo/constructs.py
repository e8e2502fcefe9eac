"""Constructs of newer pages, and of pages pasted from an office, as the old site wrote them.

As in ``markup`` a block is a tuple: ("callout", sort, title, text), ("tabs", [(label, text)]), ("columns", [text]),
("gallery", [(small, alt, large)]), ("button", href, text), ("form", action, [(name, label, type, required, options)]),
("noted", [text or note], [(name, text)]): a paragraph that calls notes and the notes below it, ("bullets", items) typed
by hand, ("pasted", items) from an office, ("fold", id, summary, text), ("shown", src, alt) where no script runs,
("sized", small, large, alt, caption), ("film", src, poster, track), ("foreign", language, text).
"""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from typing import Any

Inline = Callable[[str], str]
BLANK = "/img/blank.gif"


def _form(action: str, fields: list[tuple[str, str, str, bool, list[str]]]) -> str:
    rows = []
    for name, label, sort, required, options in fields:
        said = f'id="f-{name}" name="{name}"' + (" required" if required else "")
        if sort == "select":
            inner = "".join(f"<option>{escape(one)}</option>" for one in options)
            field = f"<select {said}>{inner}</select>"
        elif sort == "textarea":
            field = f"<textarea {said}></textarea>"
        else:
            field = f'<input type="{sort}" {said}>'
        rows.append(f'<p><label for="f-{name}">{escape(label)}</label> {field}</p>')
    return (
        f'<form action="{escape(action)}" method="post">{"".join(rows)}<p><input type="submit" value="Send"></p></form>'
    )


def _noted(parts: list[Any], notes: list[tuple[str, str]], inline: Inline) -> str:
    text = "".join(
        inline(part) if isinstance(part, str) else f'<sup><a href="#{part[0]}" id="to-{part[0]}">{part[1]}</a></sup>'
        for part in parts
    )
    below = "".join(
        f'<li id="{name}">{inline(said)} <a href="#to-{name}" title="to where it is called">&#8617;</a></li>'
        for name, said in notes
    )
    return f'<p>{text}</p><ol class="notes">{below}</ol>'


def render(block: tuple[Any, ...], inline: Inline) -> str:
    """A block as HTML. Raises ValueError for one that is not of these."""
    match block:
        case ("callout", sort, title, text):
            return f'<div class="note {sort}"><p class="title">{inline(title)}</p><p>{inline(text)}</p></div>'
        case ("tabs", tabs):
            heads = "".join(f'<li><a href="#tab{n}">{inline(label)}</a></li>' for n, (label, _) in enumerate(tabs))
            panels = "".join(f'<div id="tab{n}"><p>{inline(text)}</p></div>' for n, (_, text) in enumerate(tabs))
            return f'<div class="tabs"><ul>{heads}</ul><div>{panels}</div></div>'
        case ("columns", texts):
            inner = "".join(f'<div class="col-{12 // len(texts)}"><p>{inline(text)}</p></div>' for text in texts)
            return f'<div class="row">{inner}</div>'
        case ("gallery", shots):
            shown = (f'<a href="{large}"><img src="{small}" alt="{escape(alt)}"></a>' for small, alt, large in shots)
            return f'<div class="shots">{" ".join(shown)}</div>'
        case ("button", href, text):
            return f'<p><a class="button" href="{href}">{inline(text)}</a></p>'
        case ("form", action, fields):
            return _form(action, fields)
        case ("noted", parts, notes):
            return _noted(parts, notes, inline)
        case ("bullets", items):
            return "<p>" + "<br>\n".join(f"&#8226; {inline(item)}" for item in items) + "</p>"
        case ("pasted", items):
            return "\n".join(
                f'<p class="MsoListParagraph" style="mso-list:l0 level1 lfo1"><![if !supportLists]><span '
                f'style="mso-list:Ignore">{n}.<span>&nbsp;&nbsp;&nbsp;</span></span><![endif]>{inline(item)}<o:p></o:p></p>'
                for n, item in enumerate(items, 1)
            )
        case ("fold", name, summary, text):
            switch = f'<h3><a href="#{name}" data-toggle="collapse">{inline(summary)}</a></h3>'
            return f'{switch}<div id="{name}" class="collapse"><p>{inline(text)}</p></div>'
        case ("shown", src, alt):
            picture = f'<img src="{src}" alt="{escape(alt)}">'
            return f'<p><img class="later" src="{BLANK}" alt="{escape(alt)}"><noscript>{picture}</noscript></p>'
        case ("sized", small, large, alt, caption):
            sources = f'src="{BLANK}" srcset="{small} 320w, {large} 960w"'
            return f'<figure><img {sources} alt="{escape(alt)}"><figcaption>{inline(caption)}</figcaption></figure>'
        case ("film", src, poster, track):
            said = f'<track src="{track}" kind="captions" srclang="en" label="English">'
            return f'<video src="{src}" poster="{poster}" controls>{said}</video>'
        case ("foreign", language, text):
            return f'<div lang="{language}"><p>{inline(text)}</p></div>'
    raise ValueError(block[0])


def texts_of(block: tuple[Any, ...]) -> list[str]:
    """The texts of a block in the order in which they are read."""
    match block:
        case ("callout", _, title, text) | ("fold", _, title, text):
            return [title, text]
        case ("tabs", tabs):
            return [text for tab in tabs for text in tab]
        case ("columns", texts) | ("bullets", texts) | ("pasted", texts):
            return list(texts)
        case ("button", _, text) | ("foreign", _, text) | ("sized", _, _, _, text):
            return [text]
        case ("form", _, fields):
            return [text for _, label, _, _, options in fields for text in (label, *options)]
        case ("noted", parts, notes):
            called = "".join(part if isinstance(part, str) else part[1] for part in parts)
            return [called, *(f"{said} \u21a9" for _, said in notes)]
    return []
