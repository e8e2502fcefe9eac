"""Menus read as a tree: what stands above a page, as a visitor walks."""

from __future__ import annotations

from grandferry.core.route.menus import Entry, Led, above, menus_of

NESTED = """
<p><a href=/elsewhere>no menu</a>
<nav class="breadcrumbs"><a href=/>Home</a> <a href=/visit>Visit</a></nav>
<nav><a class=logo href=/>Home</a><ul>
 <li><a href=/news/>News</a>
 <li><a href=/visit> Your  <b>visit</b></a><div class=panel><ul><li><a href=/visit/fares>Fares</a></ul></div>
 <li><span>The line</span><ul><li><a href=/line/map>Map</a><ol><li><a href=/line/map/big>Large</a></ol></ul>
 <li>Nothing here
</ul></nav>
<div id=menu><h4>Services</h4><ul><li><a href=/hire title=Hire><img src=h.png></a></ul></div>
"""


def test_entries_with_their_depth_and_headings_without_a_page() -> None:
    first, second = menus_of(NESTED)
    assert first == [
        Entry("Home", "/", 0, False),
        Entry("News", "/news/", 1, True),
        Entry("Your visit", "/visit", 1, True),
        Entry("Fares", "/visit/fares", 3, True),
        Entry("The line", "", 1, True),
        Entry("Map", "/line/map", 3, True),
        Entry("Large", "/line/map/big", 5, True),
    ]
    assert second == [Entry("Services", "", 0, True), Entry("Hire", "/hire", 1, True)]
    assert menus_of("<nav><p>no link</nav><p>x") == menus_of("") == []


def led(html: str) -> list[list[Led]]:
    return [[Led(e.label, e.href, e.level, e.opens) for e in menu] for menu in menus_of(html)]


def test_what_stands_above_a_page_is_found_along_the_entries() -> None:
    top = "<li><a href=/news>News</a><li><a href=/visit>Visit</a>"
    pages = {
        "/": f"<nav><ul>{top}</ul></nav>",
        # what lies below an entry is shown on its page alone: within the menu, or in one of its own
        "/visit": "<nav><ul><li><a href=/news>News</a><li><a href=/visit>Visit</a>"
        "<ul><li><a href=/visit/fares>Fares</a></ul></ul></nav>",
        "/news": f"<nav><ul>{top}</ul></nav><ul class=menu><li><a href=/news>All</a><li><a href=/news/2020>2020</a>"
        "<li><a href=/news/2021>2021</a></ul>",
        "/news/2020": "<ul class=menu><li><a href=/news/2020>2020</a><li><a href=/news/2021>2021</a>"
        "<li><a href=/late>Late</a><li><a href=/news>All</a></ul>",
    }
    read: list[str] = []

    def menus(key: str) -> list[list[Led]]:
        read.append(key)
        return led(pages.get(key, ""))

    found = above("/", menus)
    assert found == {
        "/": (),
        "/news": (),
        "/visit": (),
        "/visit/fares": ("Visit",),
        "/news/2020": ("News",),
        "/news/2021": ("News",),
        "/late": ("News",),  # beside one that is there
    }
    assert read == ["/", "/news", "/visit", "/news/2020", "/news/2021", "/visit/fares", "/late"]
    assert above("/", menus, most=1) == {"/": (), "/news": (), "/visit": ()}
