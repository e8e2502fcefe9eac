"""Blocks as the plain lists in which the demo's ground truth holds them (``grandferry.demo.outline``)."""

from __future__ import annotations

from typing import Any

from grandferry.core.refit import blocks as b
from grandferry.demo.outline import Run, joined


def outlined(blocks: tuple[Any, ...]) -> list[list[Any]]:
    """A body's blocks."""
    return [_one(block) for block in blocks]


def _runs(content: tuple[Any, ...], marks: str = "", href: str = "") -> list[Run]:
    made: list[Run] = []
    for thing in content:
        match thing:
            case b.Text():
                made.append([thing.text, marks, href])
            case b.Styled(style=("strong" | "em") as style):
                more = "".join(sorted({*marks, style[0]}))
                made += _runs(thing.content, more, href)
            case b.Styled():
                made += _runs(thing.content, marks, href)
            case b.Link():
                made += _runs(thing.content, marks, thing.href)
            case b.NoteRef():
                made += [[words, "^", thing.name] for words, _, _ in _runs(thing.content)]
            case b.Picture():
                made.append([thing.alt, "picture", thing.src])
            case b.Anchor():
                pass
            case _:
                made.append([f"<{type(thing).__name__}>", marks, href])
    return made


def _text(content: tuple[Any, ...]) -> list[Run]:
    return joined(_runs(content))


def _items(found: b.List) -> list[Any]:
    made = []
    for item in found.items:
        inner = [one for one in item.blocks if isinstance(one, b.List)]
        rest = [one for one in item.blocks if not isinstance(one, b.List)]
        assert len(rest) == 1 and isinstance(rest[0], b.Paragraph) and len(inner) < 2
        made.append([_text(rest[0].content), _items(inner[0]) if inner else []])
    return made


def _said(blocks: tuple[Any, ...]) -> list[Run]:
    """What a cell or a picture's paragraph says: one paragraph, or nothing."""
    assert all(isinstance(block, b.Paragraph) for block in blocks) and len(blocks) < 2
    return _text(blocks[0].content) if blocks else []


def _one(block: Any) -> list[Any]:
    def inner(blocks: tuple[Any, ...]) -> list[list[Any]]:
        return outlined(blocks)

    match block:
        case b.Heading():
            return ["Heading", block.level, _text(block.content)]
        case b.Paragraph():
            return ["Paragraph", _text(block.content)]
        case b.List():
            return ["List", block.ordered, _items(block)]
        case b.Table():
            rows = [[[_said(c.blocks), c.colspan, c.rowspan, c.header] for c in row.cells] for row in block.rows]
            return ["Table", rows]
        case b.CodeBlock():
            return ["CodeBlock", block.language, block.text]
        case b.Quote():
            return ["Quote", inner(block.blocks)]
        case b.Figure():
            shown = [["Picture", src, alt] for alt, _, src in _said(block.blocks)]
            return ["Figure", shown, _text(block.caption)]
        case b.Divider():
            return ["Divider"]
        case b.Definitions():
            entries = [[_text(e.terms[0]), inner(e.meanings[0])] for e in block.entries]
            assert all(len(e.terms) == len(e.meanings) == 1 for e in block.entries)
            return ["Definitions", entries]
        case b.Disclosure():
            return ["Disclosure", _text(block.summary), inner(block.blocks)]
        case b.Embed():
            tracks = [track.src for track in block.tracks]
            poster = block.poster if block.poster else ""
            return ["Embed", block.sort, block.src, block.title, poster, tracks]
        case b.FileLink():
            return ["FileLink", block.link.href, _text(block.link.content)]
        case b.Island():
            return ["Island", block.tag, " ".join("".join(word.text for word in block.words).split())]
        case b.Callout():
            return ["Callout", block.sort, _text(block.title), inner(block.blocks)]
        case b.Tabs():
            return ["Tabs", [[_text(tab.label), inner(tab.blocks)] for tab in block.tabs]]
        case b.Columns():
            return ["Columns", [inner(column.blocks) for column in block.columns]]
        case b.Gallery():
            return ["Gallery", [[s.picture.src, s.picture.alt, s.href] for s in block.shots]]
        case b.Button():
            return ["Button", block.href, _text(block.content)]
        case b.Form():
            fields = [[f.name, f.label, f.sort, f.required, list(f.options)] for f in block.fields]
            return ["Form", block.action, block.method, fields]
        case b.Footnotes():
            return ["Footnotes", [[note.name, inner(note.blocks)] for note in block.notes]]
        case b.Passage():
            return ["Passage", block.language, inner(block.blocks)]
    raise AssertionError(type(block).__name__)
