"""Pages whose content only a script brings, told from pages that say little."""

from __future__ import annotations

import pytest

from grandferry.core.survey.glance import glance

MENU = "<nav><ul>" + "".join(f"<li><a href=/{n}>Part number {n} of the site</a>" for n in range(20)) + "</ul></nav>"
FOOT = "<footer><p>The society of knot makers, founded long ago, open on all days but one</p><a href=/x>Imprint</a></footer>"
DRAWN = "<script>document.getElementById('here').innerHTML = draw()</script>"


@pytest.mark.parametrize(
    "body",
    [
        f"{MENU}<div id=here></div>{FOOT}{DRAWN}",
        f"<div id=here></div>{DRAWN}",
        f"<header class=masthead><a href=/>Home</a>{MENU}</header><main><h1>Knots</h1><div id=here></div></main>{FOOT}{DRAWN}",
        f"<div class='site-nav'>{MENU}</div><div id=here>Loading, please wait</div><div id=page-footer>{FOOT}</div>{DRAWN}",
        f"{MENU}<div id=app></div><script src=/app.js></script><noscript><iframe src=//x.test/n.html></iframe></noscript>",
    ],
)
def test_menu_and_foot_are_no_content_of_the_page(body: str) -> None:
    facts = glance(f"<title>x</title><body>{body}</body>").facts
    assert facts.bare and facts.built_by_scripts and "content may be built in the browser" in facts.findings()


@pytest.mark.parametrize(
    "body",
    [
        f"{MENU}<p>Knots hold because of friction between two turns of rope.</p>{FOOT}{DRAWN}",
        f"{MENU}<img src=/reef.png alt=Reef>{FOOT}{DRAWN}",
        f"{MENU}<form><input name=q></form>{FOOT}{DRAWN}",
        f"{MENU}<iframe src=https://maps.test/></iframe>{FOOT}{DRAWN}",
        f"{MENU}<div id=here></div>{FOOT}",
        f"{MENU}<script type=application/ld+json>{{}}</script>{FOOT}",
        f"<div class=page-with-nav><h1>Knots</h1><p>{'word ' * 30}</p></div>{DRAWN}",
        f"{MENU}<ul><li><a href=/a>One</a><li><a href=/b>Two</a></ul>{FOOT}{DRAWN}",
    ],
)
def test_a_page_that_shows_something_without_scripts_is_none(body: str) -> None:
    assert not glance(f"<title>x</title><body>{body}</body>").facts.built_by_scripts
