"""Code kept as code: ``pre`` and its old relatives, byte for byte, with the language when it is named."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ...page import Node
from ...references import PICTURES, runs_script
from ..blocks import Block, CodeBlock, Link, Paragraph, Text
from .base import Reader

_SHOWN = PICTURES | frozenset(["audio", "video", "embed", "object", "iframe"])
TAGS = frozenset(["pre", "listing", "xmp", "plaintext"])
_LANGUAGE = re.compile(r"^(?:language|lang|highlight(?:-source)?|brush|sourceCode|code)[-:_]([\w+#.-]+)(?:;.*)?$", re.I)
_NAMED_BY = ("data-language", "data-lang", "data-code-language", "data-programming-language")
_NONE = frozenset("default none block wrapper snippet box area inline source".split())
# named by a bare class, or in place of a human language: only what is known for a language of programs
_KNOWN = frozenset(
    """abap ada apache applescript asm awk bash basic batch c c# c++ clojure cmake cobol coffeescript console
    cpp csharp css d dart delphi diff dockerfile elixir elm erlang f# fortran fsharp go golang graphql groovy
    haskell html http ini java javascript js json jsx julia kotlin latex less lisp lua makefile markdown matlab
    nginx objective-c objectivec ocaml octave pascal perl php powershell prolog protobuf puppet python python3 r
    ruby rust sass scala scheme scss sh shell smalltalk sql swift tcl tex toml ts tsx typescript vb vbnet
    verilog vhdl vim xml xquery yaml yml zsh""".split()
)


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    parts = _parts(node, reader)
    if not any(_text(part).strip() for part in parts) and not _is_empty_code(node):
        return reader.flow([n for n in node.children if n.tag])
    shown: list[Node] = []  # pictures and films among the code come after it
    for n in reader.page.inside(node):
        if shown and n.n <= shown[-1].last:
            continue
        if n.tag in _SHOWN or (n.tag == "a" and _links_a_picture(n, reader)):
            shown.append(n)
    for wrap in reversed(reader.wraps):
        parts = [p for p in wrap.lay(tuple(parts)) if isinstance(p, Text | Link)] if wrap.link else parts
    block = CodeBlock(tuple(parts), _language(node), node.n)
    anchors = tuple(a for n in reader.page.inside(node)[1:] if n.tag and (a := reader.anchor(n)) is not None)
    return [*([Paragraph(anchors, node.n)] if anchors else []), block, *reader.flow(shown)]


def _is_empty_code(node: Node) -> bool:
    """Whether a block says that it is code, though there is none in it."""
    inner = [child for child in node.children if child.tag]
    return len(inner) == 1 and inner[0].tag == "code" and not any(child.tag for child in inner[0].children)


def _links_a_picture(link: Node, reader: Reader) -> bool:
    inside = reader.page.inside(link)[1:]
    return any(n.tag in _SHOWN for n in inside) and not any(n.text.strip() for n in inside if not n.tag)


def _text(part: Text | Link) -> str:
    return part.text if isinstance(part, Text) else "".join(t.text for t in part.content if isinstance(t, Text))


def _parts(node: Node, reader: Reader) -> list[Text | Link]:
    """The texts in ``node`` as they are, those inside a link held by it."""
    parts: list[Text | Link] = []
    for child in node.children:
        if child.n in reader.removed:
            continue
        if not child.tag:
            if child.text:
                parts.append(Text(child.text.replace("\r\n", "\n").replace("\r", "\n"), child.n))
        elif child.tag == "br":
            parts.append(Text("\n", child.n))
        else:
            inner = _parts(child, reader)
            href = child.get("href").strip() if child.tag == "a" else ""
            if href and inner and not runs_script(href) and not any(isinstance(p, Link) for p in inner):
                words = tuple(p for p in inner if isinstance(p, Text))
                parts.append(Link(reader.link(href), words, child.get("title"), child.n))
            else:
                parts.extend(inner)
    return parts


def _language(node: Node) -> str:
    """The language a class or attribute names, on the element, its code child or the box around it."""
    candidates = [node, *(c for c in node.children if c.tag == "code")]
    if node.parent is not None:
        candidates.append(node.parent)
        if node.parent.parent is not None and node.parent.tag == "div":
            candidates.append(node.parent.parent)
    for candidate in candidates:
        named = next((value for name in _NAMED_BY if (value := candidate.get(name).strip())), "")
        if named:
            return named.split()[0]
        bare = [candidate.get("lang"), *candidate.classes] if candidate.tag in (*TAGS, "code") else []
        for name, following in zip(candidate.classes, [*candidate.classes[1:], ""], strict=False):
            if name.lower() in ("brush:", "language:", "lang:") and following:  # a list of settings in a class
                return following.rstrip(";")
            if name.startswith("language-") and len(name) > 9 and name[9:].lower() not in _NONE:
                return name[9:]
            match = _LANGUAGE.match(name)
            if match and match[1].lower() not in _NONE:
                return match[1]
        for name in bare:
            if name.lower() in _KNOWN:
                return name.lower()
    return ""
