"""Whether a landing page says what the old page said: proof must be proof, on pages of any site."""

from __future__ import annotations

import hashlib

import pytest

from grandferry.core.route.fate import Decision
from grandferry.core.route.judge import Hop, Known, Trail, judge
from grandferry.core.route.says import MADE_UP, Common, Says, file_says, is_error_page, likeness, page_says
from grandferry.core.route.verdicts import Seen
from grandferry.core.survey.glance import glance

TOPICS = {
    "Beekeeping in winter": "clusters of bees need honey stores wrapped hives shelter wind mice guards snow brood "
    "oxalic varroa candy feeding entrance ventilation damp",
    "Grafting old apple trees": "scion rootstock whip tongue cambium wax tape dormant budding orchard variety russet "
    "pippin knife union spring sap",
    "Mending dry stone walls": "throughstones hearting batter coping foundation course hammer frame gap footing "
    "limestone pinning lintel stile slope drainage",
    "Коптильня своими руками": "кирпич дымоход опилки ольха температура решётка рыба мясо соль сутки топка поддувало "
    "заслонка щепа сухая",
    "冬の養蜂": "蜜蜂は冬に集まって巣箱の中で暖を取ります。蜂蜜の蓄えと風よけが必要です。湿気を避けるために換気をします。",
}


def old_page(title: str, words: str) -> str:
    return (
        f"<title>{title} – Hollow Farm</title><div id=menu><a href=/>Home</a> <a href=/all>All advice of the farm</a></div>"
        f"<div class=advice><h2>{title}</h2><p>{words}</p></div><p>Hollow Farm, on the hill. Call us any day.</p>"
    )


def new_page(title: str, body: str) -> str:
    return (
        f"<title>{title} | The Farm</title><header><nav><a href=/>Start</a><a href=/guides>Guides</a></nav></header>"
        f"<main><h1>{title}</h1>{body}</main><footer>Imprint, privacy, a letter each month</footer>"
    )


def says(html: str) -> Says:
    return page_says(glance(html))


_PAGES = {title: says(old_page(title, words)) for title, words in TOPICS.items()}
COMMON = Common(_PAGES.values())
OLD = {title: COMMON.own_of(page) for title, page in _PAGES.items()}
LINKS = "".join(
    f"<li><a href=/guides/{n}>{title}</a>" for n, title in enumerate([*TOPICS, "Hay", "Wool", "Eggs", "Lamb"])
)


@pytest.mark.parametrize("title", TOPICS)
def test_the_same_content_in_another_design_is_the_right_page(title: str) -> None:
    found = likeness(OLD[title], says(new_page(title, f"<p>{TOPICS[title]}</p>")), COMMON)
    assert (found.is_, found.seen, found.title) == ("right", Seen.WORDS, True) and found.percent > 90
    renamed = likeness(OLD[title], says(new_page("Our guide", f"<p>{TOPICS[title]}</p>")), COMMON)
    assert renamed.is_ == "right" and not renamed.title


@pytest.mark.parametrize("title", TOPICS)
def test_another_page_is_wrong_whatever_its_design(title: str) -> None:
    for other, words in TOPICS.items():
        if other != title:
            assert likeness(OLD[title], says(new_page(other, f"<p>{words}</p>")), COMMON).is_ == "wrong"
            assert likeness(OLD[title], _PAGES[other], COMMON).is_ == "wrong", "the old design does not make it alike"


@pytest.mark.parametrize("title", TOPICS)
def test_the_right_title_over_nothing_or_other_words_is_for_a_person(title: str) -> None:
    for body in ("", "<p>This guide will come soon.</p>", "<p>" + " ".join(f"filler{n}" for n in range(60)) + "</p>"):
        found = likeness(OLD[title], says(new_page(title, body)), COMMON)
        assert found.is_ == "doubtful" and found.title


def test_half_of_the_words_decide_with_the_title_and_are_doubtful_without() -> None:
    title = "Mending dry stone walls"
    half = " ".join(TOPICS[title].split()[:8])
    assert likeness(OLD[title], says(new_page(title, f"<p>{half}</p>")), COMMON).is_ == "right"
    assert likeness(OLD[title], says(new_page("Walls", f"<p>{half}</p>")), COMMON).is_ == "doubtful"


def test_a_design_that_a_tenth_of_the_site_has_is_no_content() -> None:
    """Many pages of another make beside them do not turn their menus into words of their own."""
    plain = [says(f"<title>Minutes {n}</title><p>" + " ".join(f"m{n}w{k}" for k in range(30))) for n in range(200)]
    common = Common([*_PAGES.values(), *plain])
    for title, page in _PAGES.items():
        old = common.own_of(page)
        assert likeness(old, says(new_page(title, f"<p>{TOPICS[title]}</p>")), common).percent > 90
        other = next(name for name in TOPICS if name != title)
        assert likeness(old, _PAGES[other], common).is_ == "wrong"


@pytest.mark.parametrize("title", TOPICS)
def test_front_page_and_list_are_known_for_what_they_are(title: str) -> None:
    front = likeness(OLD[title], says(new_page("Welcome", "<p>Fresh from the farm</p>")), COMMON, front=True)
    assert (front.is_, front.seen) == ("wrong", Seen.FRONT)
    listed = likeness(OLD[title], says(new_page("Guides", f"<ul>{LINKS}</ul>")), COMMON)
    assert listed.is_ != "right" and listed.seen is Seen.LIST
    whole = likeness(OLD[title], says(new_page("Welcome", f"<p>{TOPICS[title]}</p>")), COMMON, front=True)
    assert whole.is_ == "right", "all of it may have gone to the front page"


def test_a_page_of_few_words_is_known_by_its_title() -> None:
    page = "<title>Lamb</title><div id=menu><a href=/>Home</a> <a href=/all>All advice of the farm</a></div>"
    old = COMMON.own_of(says(f"{page}<h2>Lamb</h2><img src=l.jpg>"))
    assert likeness(old, says(new_page("Lamb", "<img src=/l.jpg>")), COMMON).seen is Seen.TITLE_ALONE
    other = likeness(old, says(new_page("Wool", "<img src=/w.jpg>")), COMMON)
    assert (other.is_, other.seen) == ("doubtful", Seen.FEW_WORDS)


def test_files_are_held_against_each_other_by_their_bytes() -> None:
    def file(mime: str, content: bytes) -> Says:
        return file_says(mime, hashlib.sha256(content).hexdigest())

    old = file("image/jpeg", b"bee")
    assert likeness(old, file("image/jpeg", b"bee"), COMMON).seen is Seen.SAME_BYTES
    assert likeness(old, file("image/webp", b"smaller"), COMMON).is_ == "doubtful"
    assert likeness(old, file("application/pdf", b"bee too"), COMMON).is_ == "wrong"
    assert likeness(old, says(new_page("Bee", "")), COMMON) == ("wrong", Seen.OTHER_SORT, 0, False)
    assert likeness(None, file("image/jpeg", b"x"), COMMON).seen is Seen.NOTHING


@pytest.mark.parametrize(
    ("heading", "is_error"),
    [
        ("404 Not Found", True),
        ("Error 404", True),
        ("Page not found", True),
        ("Seite nicht gefunden", True),
        ("Page introuvable", True),
        ("This page does not exist", True),
        ("Engine 404 of 1911", False),
        ("The lost key that was found", False),
    ],
)
def test_a_page_that_calls_itself_an_error_is_one(heading: str, is_error: bool) -> None:
    assert says(f"<title>The Farm</title><h1>{heading}</h1>").names_an_error is is_error
    trail = Trail((Hop(200, ""),), says=says(new_page(heading, "<p>Try the search.</p>")))
    found = judge("/x", Decision("stays", "/x"), trail, "http://new.test", Known(COMMON, OLD["Beekeeping in winter"]))
    assert found.verdict == ("soft error" if is_error else "wrong page")


def test_an_error_page_is_known_again_though_it_repeats_the_address() -> None:
    def error(asked: str) -> Says:
        return says(new_page("Oh dear", f"<p>We looked for {asked} and have nothing there.</p>"))

    made_up = error(MADE_UP)
    for asked in ("/advice/bees.htm", "/a/b/c?d=e&f=10", "/%E5%86%AC"):
        assert is_error_page(error(asked), made_up, asked)
    title = "Beekeeping in winter"
    assert not is_error_page(says(new_page(title, f"<p>{TOPICS[title]}</p>")), made_up, "/advice/bees.htm")
    assert not is_error_page(says(new_page("Oh dear", f"<p>{TOPICS[title]}</p>")), made_up, "/advice/bees.htm")


def test_nothing_known_of_the_old_page_is_said_and_counts() -> None:
    trail = Trail((Hop(200, ""),), says=OLD["Beekeeping in winter"])
    found = judge("/known-from-a-log", Decision("stays", "/x"), trail, "http://new.test", Known(COMMON))
    assert found.verdict == "same" and found.likeness is not None and found.likeness.seen is Seen.NOTHING
