"""What a draft proposes: kinds out of groups, steps for what bodies share; and what becomes of it when a person changes
it."""

from __future__ import annotations

import pytest

from grandferry.core.kinds import KindPlan, Proposed, SortRule, Step
from grandferry.core.made import made_from
from grandferry.core.page import Page, parse
from grandferry.core.plan import Plan
from grandferry.core.proposed import as_decided, decided_alone
from grandferry.core.refit.furniture import Body, furniture_steps, title_steps
from grandferry.core.route.slug import Unfilled, fill, old_path
from grandferry.core.sort.drafting import draft_kinds
from grandferry.core.sort.proposal import Proposal


def offer(name: str, right: int, missed: int = 0, wrong: int = 0) -> Proposal:
    return Proposal(name, SortRule(below=f"/{name}/"), right, missed, wrong)


def test_groups_become_kinds_the_surest_rule_first_and_the_rest_has_one_of_its_own() -> None:
    made = draft_kinds([offer("all", 40, 0, 20), offer("story", 30, 2), offer("odd", 1)], {"story"})
    assert [(one.kind.name, one.groups) for one in made] == [("story_2", (1,)), ("all", (0,)), ("page", (2,))]
    assert made[0].kind.proposed == Proposed(right=30, missed=2) and made[0].kind.address == "/{path}"
    assert made[-1].kind.rules == [SortRule(below="/")], "what no other takes"
    assert made[-1].kind.proposed == Proposed(right=0, wrong=3), "and nothing speaks for it"
    assert [one.kind.name for one in draft_kinds([offer("story", 30)], ())] == ["story"], "nothing is left over"
    assert draft_kinds([], ()) == []


@pytest.mark.parametrize(
    ("key", "path"),
    [
        ("/", ""),
        ("/about/", "about/"),
        ("/docs/intro.html", "docs/intro"),
        ("/docs/Index.PHP", "docs/"),
        ("/v1.2/notes", "v1.2/notes"),
        ("/list.aspx?page=2&sort=up", "list-page-2-sort-up"),
        ("/a%20b/caf%C3%A9.htm", "a b/café"),
    ],
)
def test_an_old_address_as_a_path(key: str, path: str) -> None:
    assert old_path(key) == path


def test_a_path_keeps_its_slashes_in_a_pattern_and_may_be_empty() -> None:
    assert fill("/{path}", {"path": old_path("/a%20b/c.htm")}) == "/a%20b/c"
    assert fill("/{path}", {"path": old_path("/")}) == "/"
    assert fill("/{path}", {"path": "News & more/x"}) == "/news-and-more-x", "a field of that name is a field"
    with pytest.raises(Unfilled):
        fill("/{path}", {"path": ""})


def plan_of(**kind: object) -> Plan:
    fields = [{"name": "title", "type": "line", "locators": [{"css": "h1"}], "proposed": {"right": 8, "missed": 1}}]
    made = {"name": "story", "rules": [{"below": "/s/"}], "fields": fields, "proposed": {"right": 9}} | kind
    step = {"name": "share", "remove": ".share", "proposed": {"right": 9}}
    old = {"start": "http://a.test/"}
    return Plan.model_validate({"format": 1, "name": "x", "old": old, "kinds": [made], "refit": {"steps": [step]}})


def test_what_a_person_changes_is_theirs_and_the_rest_is_still_proposed() -> None:
    before = plan_of()
    assert as_decided(plan_of(), before) == before
    labelled = as_decided(plan_of(label="Stories"), before)
    assert labelled.kinds[0].proposed is None and labelled.kinds[0].fields[0].proposed == Proposed(right=8, missed=1)
    renamed = as_decided(plan_of(name="tale"), before)
    assert renamed.kinds[0].proposed is None and renamed.refit.steps[0].proposed is not None
    other = [{"name": "title", "type": "line", "locators": [{"css": "h2"}], "proposed": {"right": 8, "missed": 1}}]
    field = as_decided(plan_of(fields=other), before)
    assert field.kinds[0].fields[0].proposed is None and field.kinds[0].proposed is not None
    assert decided_alone(before).kinds == [] and decided_alone(before).refit.steps == []
    assert [kind.name for kind in decided_alone(labelled).kinds] == ["story"]


def test_saying_yes_to_a_proposal_makes_nothing_behind() -> None:
    proposed = plan_of().kinds[0]
    fields = [field.model_copy(update={"proposed": None}) for field in proposed.fields]
    kept = proposed.model_copy(update={"proposed": None, "fields": fields})
    assert made_from(1, proposed, [proposed.fields]) == made_from(1, kept, [kept.fields])
    assert made_from(1, kept) != made_from(1, kept.model_copy(update={"address": "/x"}))


def test_how_sure_a_proposal_is() -> None:
    assert Proposed(right=9, missed=1, wrong=1).confidence == pytest.approx(0.9)
    assert Proposed(right=0).confidence == 0


def steps(*bodies: str) -> list[tuple[str, str]]:
    return steps_of([[f"<main>{body}</main>" for body in bodies]])


def steps_of(kinds: list[list[str]]) -> list[tuple[str, str]]:
    pages: list[list[Page]] = [[parse(source) for source in kind] for kind in kinds]
    made: list[Step] = furniture_steps(
        [[Body(p, p.select("main"), [n.n for n in p.select("h1")]) for p in kind] for kind in pages]
    )
    return [(step.remove, step.name) for step in made]


def test_boxes_that_say_the_same_in_most_bodies_are_steps() -> None:
    share = (
        "<div class=share><span class=label>Share this page with others</span><ul class=on><li><a>Here</a></ul></div>"
    )
    texts = [f"<h1>T{n}</h1><p>Text {n} of its own.</p>" for n in range(6)]
    assert steps(*(text + share for text in texts)) == [("div.share", "share: Share this page with others …")]
    assert steps(*(text + share for text in texts[:2]), *texts[2:]) == [], "on too few of them"
    assert steps(*(f"{text}<div class=note>Note number {n} is this.</div>" for n, text in enumerate(texts))) == []


def test_what_stands_around_bodies_is_furniture_also_when_it_varies_but_nothing_that_is_lifted() -> None:
    def page(n: int) -> str:
        head = f"<div class=top><h1>Title {n}</h1><div class=crumbs>Home / {n}</div></div>"
        side = f"<div id=side class=box><h3>Latest</h3><p>News {n} of the day</div>"
        return f"{head}<div class=all><main><p>Text {n}</main>{side}</div><footer>Foot {n}</footer>"

    pages = [page(n) for n in range(4)]
    assert {remove for remove, _ in steps_of([pages])} == {"div.crumbs", "#side", "footer"}
    assert ("#side", "side, around the body") in steps_of([pages])
    read = [f"<div class=sum><b class=amount>{n}</b></div><main><p>Text {n}</p></main>" for n in range(4)]
    bodies = [Body(p, p.select("main"), [p.select("div.sum")[0].n]) for p in map(parse, read)]
    assert furniture_steps([bodies]) == [], "what a field is read from goes over, with all that is in it"
    other = [f"<main><div id=side>Content of {n} is here</div><footer>so is this {n}</footer></main>" for n in range(3)]
    assert {remove for remove, _ in steps_of([pages, other])} == {"div.crumbs", "div.box"}
    assert steps_of([[pages[0]]]) == [("footer", "footer, around the body")], "of one page only what names itself"


def test_links_without_words_in_headings_are_a_step() -> None:
    def page(n: int, inside: str = "") -> str:
        heads = "".join(
            f"<h2><div>Part {n} {k}</div><div class=ways><span id=w{k}><a href=#p{k}><span class=i></span></a><a href=/e>"
            f"<i></i></a>{inside}</span></div></h2><p>Text {n} {k} of it.</p>"
            for k in range(3)
        )
        return f"<main><h1>T {n}</h1>{heads}</main>"

    name = "ways, links without words in headings"
    assert steps_of([[page(n) for n in range(4)]]) == [("div.ways", name)]
    assert steps_of([[page(n, "<img src=/x.png>") for n in range(4)]]) == [], "a picture says something"
    other = [f"<main><h1>U</h1><div class=ways><a href=/{n}>Way {n}</a></div></main>" for n in range(3)]
    assert steps_of([[page(n) for n in range(4)], other]) == [], "nor what holds words elsewhere"


def test_menus_in_bodies_are_furniture_also_when_their_entries_differ() -> None:
    def page(n: int) -> str:
        entries = "".join(f"<li><a href=/{n}/{k}>Part {k} of {n}</a> <i>(new)</i></li>" for k in range(5))
        return f"<main><div class=navbar><ul>{entries}</ul></div><h1>T {n}</h1><p>Text of the page {n}.</p></main>"

    pages = [page(n) for n in range(4)]
    assert steps_of([pages]) == [("div.navbar", "navbar, a menu in the body")]
    said = "<p>" + "A sentence of a text that is longer than any entry of a menu would ever be. " * 2
    texts = [f"<main><div class=navbar><a href=/>Up</a>{said}{n}</div></main>" for n in range(3)]
    assert steps_of([pages, texts]) == [], "what is a text on pages of another kind is left alone"


def test_a_menu_is_told_by_its_entries_where_its_name_says_nothing_and_may_have_long_ones() -> None:
    def page(n: int, name: str, end: str = "") -> str:
        bar = "".join(
            f"[<a href=/{n}/{k}>{one}</a>]" for k, one in enumerate(["Overview", "Types", "Classes", "Index"])
        )
        return f"<main><p class={name}>{bar} of unit {n}{end}</p><h1>T {n}</h1><p>Text of the page {n}.</p></main>"

    assert steps_of([[page(n, "strip") for n in range(5)]]) == [("p.strip", "strip, a menu in the body")]
    links = [
        f"<main><h1>T {n}</h1><p>Text {n}.</p><p class=see><a href=/a>A {n}</a>, <a href=/b>B {n}</a>, <a href=/c>C {n}</a></main>"
        for n in range(5)
    ]
    assert steps_of([links]) == [], "what each page leads to by itself is its own"
    far = "".join(f"<a href=/{k}>A long entry of this menu, of many words {k}</a> " for k in range(3))
    heads = [f"<main><div class=header><p>Next: {far}{n}</p></div><h1>T {n}</h1><p>Text {n}.</main>" for n in range(4)]
    assert steps_of([heads]) == [("div.header", "header, a menu in the body")]


def test_a_step_for_one_kind_takes_nothing_from_another() -> None:
    note = "<div class=note>The same words on all of them</div>"
    one = [f"<main><p>Text {n}</p>{note}</main>" for n in range(4)]
    assert steps_of([one]) == [("div.note", "note: The same words on all …")]
    assert steps_of([one, [f"<main><div class=note>Note {n} of its own</div></main>" for n in range(4)]]) == []


def test_labels_and_headings_that_say_the_same_are_not_taken_for_furniture() -> None:
    texts = [f"<h2 class=top>What you need</h2><div class=label>Author</div><p>Text {n}." for n in range(6)]
    assert steps(*texts) == []
    buttons = [f"<div class=go><a href=/>Print</a></div><p>Text {n}." for n in range(6)]
    assert steps(*buttons) == [("div.go", "go: Print")]


def test_a_kind_of_a_draft_is_one_that_works() -> None:
    kinds: list[KindPlan] = [one.kind for one in draft_kinds([offer("a", 9, 1), offer("b", 2)], ())]
    assert all(kind.label and kind.items == "one" for kind in kinds)


def test_the_title_is_taken_out_of_bodies_where_its_selector_finds_nothing_else() -> None:
    def bodies(*pages: str, title: str = "T {}") -> list[Body]:
        parsed = [parse(page) for page in pages]
        return [Body(p, p.select("main"), title=title.format(n), by="h1") for n, p in enumerate(parsed)]

    some = [f"<main><h1>T  {n}<a>¶</a></h1><p>Text {n}</p></main>" for n in range(4)]
    steps = title_steps(bodies(*some))
    assert [(step.name, step.remove) for step in steps] == [("the title, a field of its own", "h1")]
    assert steps[0].proposed == Proposed(right=4)
    assert title_steps(bodies(*some, "<main><h1>Another</h1></main>")) == [], "no heading of a text is taken"
    assert title_steps(bodies(*(f"<h1>T {n}</h1><main><p>Text</p></main>" for n in range(4)))) == [], "it is in no body"
