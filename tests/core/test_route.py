"""Slugs, the redirect map, decisions, verdicts, fates."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grandferry.core.because import Why, because, led, read, sentence
from grandferry.core.errors import FerryError, PatternError
from grandferry.core.plan import Aside
from grandferry.core.route.decide import Old, decide, hidden_by_rules, redirects_for
from grandferry.core.route.evaluate import evaluate
from grandferry.core.route.fate import FATES, TABLE, Decision, fate_of
from grandferry.core.route.flaws import flaws
from grandferry.core.route.judge import Hop, Known, Trail, judge
from grandferry.core.route.redirects import map_of, neutral
from grandferry.core.route.says import Common, Says, page_says
from grandferry.core.route.slug import ReadyPath, Slugs, distinct, fill, slug
from grandferry.core.route.verdicts import VERDICTS
from grandferry.core.survey.families import family_of
from grandferry.core.survey.glance import glance
from grandferry.ports.servers import SERVERS


@pytest.mark.parametrize(
    ("title", "expected"),
    [
        ("A Day Out!", "a-day-out"),
        ("Café & Bar", "cafe-and-bar"),
        ("Straße", "strasse"),
        ("  ", ""),
        ("Pilgrim’s Rest", "pilgrims-rest"),
        ("山の 駅", "山の-駅"),
        ("x" * 90, "x" * 80),
        ("word " * 30, "-".join(["word"] * 16)),
    ],
)
def test_slugs(title: str, expected: str) -> None:
    assert slug(title) == expected


@pytest.mark.parametrize(
    "title,style,expected",
    [
        ("Привет, мир", {"script": "latin"}, "privet-mir"),
        ("Ελληνικά και ö", {"script": "latin"}, "ellinika-kai-o"),
        ("The lamp of the East", {"without": ["the", "OF"]}, "lamp-east"),
        ("The the", {"without": ["the"]}, "the-the"),
        ("one two three four", {"longest": 9}, "one-two"),
        ("unterirdisch", {"longest": 8}, "unterird"),
    ],
)
def test_slugs_as_a_kind_wants_them(title: str, style: dict[str, Any], expected: str) -> None:
    assert slug(title, Slugs.model_validate(style)) == expected


def test_parts_of_the_old_path() -> None:
    assert fill("/{folder}/{slug}", {"folder": ReadyPath("a/b"), "slug": "c"}) == "/a/b/c"
    assert fill("/{folder}/{slug}/", {"folder": ReadyPath(""), "slug": "c"}) == "/c/", "an empty part leaves none"


def test_addresses_from_a_pattern() -> None:
    values = {"slug": "a-b", "published": "2021-05-03", "section": "The Shop"}
    assert fill("/news/{published:%Y/%m}/{slug}", values) == "/news/2021/05/a-b"
    assert fill("/{section}/{slug}.html", values) == "/the-shop/a-b.html"
    with pytest.raises(PatternError, match="no value"):
        fill("/{missing}", values)
    with pytest.raises(PatternError, match="not a date"):
        fill("/{section:%Y}", values)
    assert (
        distinct("/a", {"/a", "/a-2"}) == "/a-3"
        and distinct("/a.pdf", {"/a.pdf"}) == "/a-2.pdf"
        and distinct("/b/", {"/b/"}) == "/b-2/"
        and distinct("/", {"/"}) == "/index-2/"
    )


MAP = map_of(
    [
        neutral("http://old.test/a.htm?x=1", "/with-query", 301, "exact"),
        neutral("/a.htm", "/a", 301, "exact"),
        neutral("/gone", "", 410, "exact"),
        neutral("/old", "/new", 301, "prefix"),
        neutral("/old/deep", "/deeper/", 308, "prefix"),
        neutral(r"/b/(\d+)/([a-z]+)\.htm", "/{2}/{1}", 301, "pattern"),
        neutral(r"/p\?id=(\d+)", "/p/{1}", 301, "pattern"),
    ]
)


@pytest.mark.parametrize(
    ("request_", "status", "location"),
    [
        ("/a.htm", 301, "/a"),
        ("/a.htm?x=1", 301, "/with-query"),
        ("/a.htm?utm=2", 301, "/a"),
        ("/gone", 410, ""),
        ("/old", 301, "/new"),
        ("/old/x/y", 301, "/new/x/y"),
        ("/old/deep/z", 308, "/deeper/z"),
        ("/b/12/ab.htm", 301, "/ab/12"),
        ("/p?id=7", 301, "/p/7"),
    ],
)
@pytest.mark.parametrize("server", ["csv", "nginx"])
def test_the_map_answers(request_: str, status: int, location: str, server: str) -> None:
    answer = SERVERS[server].answer(MAP, request_)
    assert answer is not None and (answer.status, answer.location) == (status, location)


@pytest.mark.parametrize("request_", ["/a", "/older", "/b/12/ab.htm/x", "/p?id=x", "/", "/A.htm"])
def test_the_map_says_nothing(request_: str) -> None:
    assert evaluate(MAP, request_) is None


def test_addresses_that_change_places_would_go_in_a_circle() -> None:
    """Nothing can answer both with a redirect to the other: nobody has decided, and it is said why."""
    lines = [("/a", "/b"), ("/b", "/c"), ("/c", "/a"), ("/into", "/a"), ("/x", "/y")]
    pairs = map_of(neutral(old, new, 301, "exact") for old, new in lines)
    olds = [Old(key) for key, _ in lines] + [Old("/p"), Old("/q")]
    swapped = {"/p": "/q", "/q": "/p"}  # by their items
    made = decide(olds, pairs=pairs, rules=map_of(()), asides=(), items=swapped, files={})
    assert {key for key, decision in made.items() if decision.fate is None} == {"/a", "/b", "/c", "/p", "/q"}
    assert sentence(made["/a"].reason) == "it would go in a circle: /b, where it is to lead, leads back to it"
    assert made["/x"].target == "/y" and made["/into"].target == "/a"
    assert not flaws(map_of(redirects_for(made, ())))


def test_nginx_ignores_case_but_never_in_a_circle() -> None:
    assert SERVERS["nginx"].answer(MAP, "/A.HTM") is not None
    lowered = map_of(
        [
            neutral("/News/X", "/news/x", 301, "exact"),
            neutral("/CASE", "/1", 301, "exact"),
            neutral("/case", "/2", 301, "exact"),
        ]
    )
    assert SERVERS["nginx"].answer(lowered, "/news/x") is None
    answers = [SERVERS["nginx"].answer(lowered, key) for key in ("/News/X", "/CASE", "/case")]
    assert [a.location if a else "" for a in answers] == ["/news/x", "/1", "/2"]


@pytest.mark.parametrize(
    ("old", "new", "status", "match", "reason"),
    [
        ("a/b", "/c", 301, "exact", "neither a path"),
        ("/a", "", 301, "exact", "no new address"),
        ("/a", "/b", 410, "exact", "gone"),
        ("/a", "b", 301, "exact", "neither a path"),
        ("(", "/b", 301, "pattern", "cannot be read"),
        ("/(a)", "/{2}", 301, "pattern", "1 groups"),
        ("/a", "javascript:x", 301, "exact", "neither a path"),
    ],
)
def test_bad_lines_have_their_sentence(old: str, new: str, status: int, match: str, reason: str) -> None:
    with pytest.raises(FerryError, match=reason):
        neutral(old, new, status, match)  # type: ignore[arg-type]


def test_targets_are_encoded_and_hosts_cut_from_the_old_side() -> None:
    line = neutral("https://old.test/über?q=1", "/neu/straße?a=b c#f", 301, "exact")
    assert (line.old, line.new) == ("/%C3%BCber?q=1", "/neu/stra%C3%9Fe?a=b%20c#f")
    assert neutral("/x", "https://else.test/y", 301, "exact").new == "https://else.test/y"
    assert "%7B" in neutral("/x", "/a{b}$c;\"'\r\n", 301, "exact").new


def test_flaws_are_named() -> None:
    lines = [("/a", "/b"), ("/b", "/c"), ("/x", "/y"), ("/y", "/x"), ("/a", "/d"), ("/s", "/s")]
    found = flaws(map_of([neutral(o, n, 301, "exact") for o, n in lines]))
    assert [(f.line, f.kind) for f in found] == [(0, "chain"), (2, "loop"), (3, "loop"), (4, "duplicate"), (5, "loop")]


def test_a_folder_moved_below_itself_is_a_circle() -> None:
    found = flaws(map_of([neutral("/old", "/old/new", 301, "prefix"), neutral("/a", "/b", 301, "prefix")]))
    assert [(f.line, f.kind) for f in found] == [(0, "loop")]


def test_decisions() -> None:
    pairs = map_of(
        [
            neutral("/hand", "/by-hand", 301, "exact"),
            neutral("/dead", "", 410, "exact"),
            neutral("/index.htm", "/", 301, "exact"),
        ]
    )
    rules = map_of([neutral("/sect", "/new-sect", 301, "prefix")])
    olds = [
        Old(k, t)
        for k, t in [
            ("/hand", ""),
            ("/dead", ""),
            ("/page", ""),
            ("/same", ""),
            ("/f.pdf", ""),
            ("/sect/x", ""),
            ("/go", "/go2"),
            ("/go2", "/page"),
            ("/l1", "/l2"),
            ("/l2", "/l1"),
            ("/away", "http://else.test/"),
            ("/css", ""),
            ("/nobody", ""),
            ("/", ""),
            ("/index.htm", ""),
        ]
    ]
    made = decide(
        olds,
        pairs=pairs,
        rules=rules,
        asides=[Aside(address="/css", reason="looks")],
        items={"/page": "/p", "/same": "/same", "/": "/"},
        files={"/f.pdf": "/media/f.pdf"},
    )
    short = {k: (d.fate, d.target, d.origin) for k, d in made.items()}
    assert short == {
        "/hand": ("moved", "/by-hand", "pair"),
        "/dead": ("retired", "", "pair"),
        "/page": ("moved", "/p", "item"),
        "/same": ("stays", "/same", "item"),
        "/f.pdf": ("moved", "/media/f.pdf", "file"),
        "/sect/x": ("moved", "/new-sect/x", "rule"),
        "/go": ("merged", "/p", "old redirect"),
        "/go2": ("merged", "/p", "old redirect"),
        "/l1": (None, "", ""),
        "/l2": (None, "", ""),
        "/away": (None, "", ""),
        "/css": ("set aside", "", "aside"),
        "/nobody": (None, "", ""),
        "/": ("stays", "/", "item"),
        "/index.htm": ("merged", "/", "pair"),
    }
    assert made["/l1"].reason == because(Why.CIRCLE)
    lines = redirects_for(made, [neutral("/sect", "/new-sect", 301, "prefix")])
    assert "/sect/x" not in {r.old for r in lines} and {r.old for r in lines} >= {"/hand", "/dead", "/go", "/sect"}
    assert all("old.test" not in r.old + r.new for r in lines)
    asked = {"pairs": map_of([]), "rules": rules, "asides": [], "files": {}}
    spelt = decide([Old("/sect/"), Old("/sect/index.htm", twin_of="/sect/")], items={"/sect/": "/s"}, **asked)
    assert spelt["/sect/index.htm"] == Decision("merged", "/s", "twin", because(Why.TWIN, "/sect/")), "before any rule"
    spelt = decide([Old("/b"), Old("/B", twin_of="/b")], items={}, **asked)
    assert spelt["/B"].fate is None, "where the page goes nowhere, it does not either"
    spelt = decide([Old("/d/"), Old("/sect/D", twin_of="/d/")], items={}, **asked)
    assert spelt["/sect/D"].target == "/new-sect/D", "unless a rule says where"
    greedy = map_of([neutral("/same", "/elsewhere", 301, "prefix")])
    assert hidden_by_rules(made, greedy) == ["/same"]


def test_every_fate_is_proven_by_one_verdict_and_by_no_other() -> None:
    for fate, proof in TABLE.items():
        decision = Decision(fate, "/x", reason="because")
        for verdict in VERDICTS:
            outcome = fate_of(decision, verdict, decision.signature, weighty=True)
            open_ = fate if verdict == "doubtful" else "unaccounted"
            assert (outcome.fate, outcome.proven) == ((fate, True) if verdict == proof else (open_, False))
            settled = fate_of(decision, verdict, decision.signature, weighty=True, accepted="it is a list by now")
            right = verdict == proof or (verdict in ("doubtful", "wrong page") and fate != "retired")
            assert settled.proven == right and (settled.fate == fate or not right)
        planned = fate_of(decision, None, "", weighty=True)
        assert (planned.fate, planned.proven) == (fate, False)
        changed = fate_of(Decision(fate, "/y", reason="because"), proof, decision.signature, weighty=True)
        assert (changed.fate, changed.proven) == (fate, False), "a changed decision is planned again"
    assert set(TABLE) | {"unaccounted"} == set(FATES)
    assert fate_of(Decision(None), "same", "|", weighty=False).fate == "unaccounted"
    assert fate_of(Decision("set aside"), None, "", weighty=True).fate == "unaccounted"
    assert fate_of(Decision("set aside"), None, "", weighty=False).fate == "set aside"


BASE = "http://new.test"


OWN = " ".join(f"word{n}" for n in range(40))
MENU = "Home News Contact Imprint Search the railway"
ERROR = page_says(glance(f"<title>Site</title><nav>{MENU}</nav><p>This place is empty, sorry."))


def says(title: str, words: str = OWN) -> Says:
    return page_says(glance(f"<title>{title}</title><nav>{MENU}</nav><h1>{title}</h1><p>{words}"))


OLD = says("Right")


def trail(*hops: tuple[int, str], title: str = "", ended: str = "", content: Says | None = None) -> Trail:
    last = hops[-1][0] if hops and not ended else 0
    said = (
        content or (says(title, OWN if title.startswith("Right") else f"{title} altogether")) if last == 200 else None
    )
    return Trail(tuple(Hop(s, loc) for s, loc in hops), ended, said)


@pytest.mark.parametrize(
    ("decision", "found", "verdict"),
    [
        (Decision("moved", "/n"), trail((301, BASE + "/n"), (200, ""), title="Right"), "as planned"),
        (Decision("moved", "/n"), trail((308, BASE + "/n"), (200, ""), title="Right – Site"), "as planned"),
        (Decision("moved", "/n"), trail((302, BASE + "/n"), (200, ""), title="Right"), "temporary"),
        (Decision("moved", "/n", status=307), trail((302, BASE + "/n"), (200, ""), title="Right"), "as planned"),
        (Decision("moved", "/n", status=302), trail((301, BASE + "/n"), (200, ""), title="Right"), "permanent"),
        (Decision("moved", "/n"), trail((301, BASE + "/m"), (301, BASE + "/n"), (200, ""), title="Right"), "chain"),
        (Decision("moved", "/n"), trail((301, BASE + "/n"), (404, "")), "target missing"),
        (Decision("moved", "/n"), trail((301, BASE + "/other"), (200, ""), title="Right"), "wrong place"),
        (Decision("moved", "/n"), trail((200, ""), title="Right"), "wrong place"),
        (Decision("moved", "/n"), trail((404, "")), "missing"),
        (Decision("moved", "/n"), trail((301, BASE + "/n"), (200, ""), title="Something else"), "wrong page"),
        (Decision("moved", "/n"), trail((301, BASE + "/n"), (200, ""), content=ERROR), "soft error"),
        (Decision("moved", "/n"), trail((301, BASE + "/a"), ended="loop"), "loop"),
        (Decision("moved", "/n"), trail(ended="failed"), "failed"),
        (Decision("moved", "/n"), trail((500, "")), "failed"),
        (Decision("stays", "/n"), trail((200, ""), title="Right"), "same"),
        (Decision("stays", "/n"), trail((200, ""), title="Wrong"), "wrong page"),
        (Decision("stays", "/n"), trail((301, BASE + "/x"), (200, ""), title="Right"), "wrong place"),
        (Decision("stays", "/n"), trail((404, "")), "missing"),
        (Decision("retired"), trail((410, "")), "gone"),
        (Decision("retired"), trail((404, "")), "missing"),
        (Decision("retired"), trail((200, "")), "not gone"),
        (
            Decision("merged", "http://else.test/x"),
            trail((301, "http://else.test/x"), (200, ""), title="Right"),
            "as planned",
        ),
    ],
)
def test_verdicts(decision: Decision, found: Trail, verdict: str) -> None:
    common = Common([OLD, *(says(f"Page {n}", f"other{n} words{n}") for n in range(9))])
    assert (
        judge("/n" if decision.fate == "stays" else "/o", decision, found, BASE, Known(common, OLD, ERROR))[0]
        == verdict
    )


def test_the_status_of_a_pair_or_rule_is_that_of_its_lines() -> None:
    pairs = map_of([neutral("/a", "/new-a", 308, "exact"), neutral("/b", "/new-b", 302, "exact")])
    rules = [neutral("/sect", "/new-sect", 307, "prefix")]
    olds = [Old(key) for key in ("/a", "/b", "/sect/x", "/sect/y")]
    made = decide(olds, pairs=pairs, rules=map_of(rules), asides=[], items={}, files={})
    assert [made[key].status for key in ("/a", "/b", "/sect/x")] == [308, 302, 307]
    lines = redirects_for(made, rules)
    assert {(line.old, line.status) for line in lines} == {("/a", 308), ("/b", 302), ("/sect", 307)}
    assert made["/b"].signature != replace(made["/b"], status=301).signature, "a check of the other proves nothing"


paths = st.text(alphabet="abAB09%/.-_~ ;{}$\"'\\é|?=&", min_size=1, max_size=20).map(lambda t: "/" + t)


@given(paths, paths)
def test_a_neutral_line_answers_for_its_own_old_address(old: str, new: str) -> None:
    try:
        line = neutral(old, new, 301, "exact")
    except FerryError:
        return
    for server in SERVERS.values():
        table = map_of([line])
        answer = server.answer(table, line.old)
        if server.cannot(table):
            assert answer is None
        else:
            assert answer is not None and answer.location == line.new
    assert line.new.isascii() and not set(' "{}\\|') & set(line.new)


def test_a_family_is_left_out_unless_a_pair_says_otherwise() -> None:
    olds = [Old("/a.pdf"), Old("/b.pdf"), Old("/c.pdf")]
    made = decide(
        olds,
        pairs=map_of([neutral("/b.pdf", "/new/b.pdf", 301, "exact")]),
        rules=map_of([]),
        asides=[],
        items={},
        files={key.key: f"/media{key.key}" for key in olds},
        left_out={"/a.pdf": "documents", "/b.pdf": "documents"},
    )
    assert (made["/a.pdf"].fate, sentence(made["/a.pdf"].reason)) == ("set aside", "left out on purpose: documents")
    assert (made["/b.pdf"].fate, made["/b.pdf"].origin) == ("moved", "pair") and made["/c.pdf"].fate == "moved"


@pytest.mark.parametrize(
    ("key", "sort", "mime", "family"),
    [
        ("/users/ann.htm", "page", "text/html", "accounts of people"),
        ("/user-guide.htm", "page", "text/html", "pages"),
        ("/shop/basket.aspx?id=1", "page", "text/html", "orders"),
        ("/borders/", "page", "text/html", "pages"),
        ("/about/accounts.htm", "page", "text/html", "pages"),
        ("/about/members.htm", "page", "text/html", "pages"),
        ("/member.php?id=7", "page", "text/html", "accounts of people"),
        ("/x.pdf", "file", "application/pdf", "documents"),
        ("/x", "redirect", "", ""),
    ],
)
def test_families(key: str, sort: str, mime: str, family: str) -> None:
    assert family_of(key, sort, mime) == family


def test_reasons_are_codes_and_their_sentences_are_made_where_they_are_shown() -> None:
    assert sentence("") == "" and read("") is None
    assert sentence(because(Why.LINE, "prefix", "/old")) == "prefix /old"
    assert read(because(Why.SAID, "tab\tin it")) == (Why.SAID, ("tab in it",))
    nested = led("/there", because(Why.FAMILY, "documents"))
    assert sentence(nested) == "leads to /there on the old site (left out on purpose: documents)"
    assert sentence(led("/there", "")) == "leads to /there on the old site"
    assert "answers 404" in sentence(because(Why.REFUTED, "moved", "missing"))
    enough = {Why.NO_DATE: 2, Why.LINE: 2, Why.REFUTED: 2}
    for why in Why:
        given = ["x"] * enough.get(why, 1)
        bare = why in (
            Why.GONE,
            Why.CIRCLE,
            Why.UNDECIDED,
            Why.NO_PATTERN,
            Why.NO_MENU,
            Why.BY_PAIR,
            Why.RETIRED,
            Why.MACHINERY,
        )
        assert sentence(because(why, *([] if bare else given))), why
    with pytest.raises(ValueError):
        sentence("a sentence of an older version")
