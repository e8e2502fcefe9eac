"""All open addresses held against the new shore at once; taken at a threshold, marked as suggested, and undone."""

from __future__ import annotations

from typing import Any

import httpx

from grandferry.core.side import Side
from grandferry.store import crossings, route
from grandferry.store import suggested as store
from grandferry.work.survey import ownerlists
from tests.api.test_api import client
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

__all__ = ["client"]

TOLD = (
    "The first train leaves the town at ten past nine and waits at the quay until the ferry is in. On Sundays nobody "
    "is in the booking office before noon, so please buy a ticket from the guard, who has change for small notes."
)
NAMES = ("red-lamp", "quiet-tunnel", "old-signal", "winter-coal", "broken-gauge", "last-whistle")
OLD: dict[str, Any] = {
    "/": "<title>Home | Sheds</title>" + "".join(f"<a href=/news/2019/{n}.htm>{n}</a>" for n in NAMES)
    + "<a href=/gone.htm>g</a><a href=/print.php?id=4>p</a>"
    + "<a href=/d.asp?no=17>d</a>",
    "/d.asp?no=17": f"<title>Timetable, leaflet 3 | Sheds</title><p>{TOLD}",
    **{
        f"/news/2019/{n}.htm": f"<title>{n.replace('-', ' ')} | Sheds</title><h1>{n}</h1>"
        for n in NAMES
    },
    "/gone.htm": "<title>Opening hours | Sheds</title><p>x",
    "/print.php?id=4": "<title>red lamp | Sheds</title><p>x",
}  # fmt: skip
NEW: dict[str, Any] = {
    "/": "<title>New</title>"
    + "".join(f"<a href=/stories/{n}>{n}</a>" for n in NAMES)
    + "<a href=/privacy>p</a><a href=/come/when>w</a>",
    "/come/when": f"<title>When we run</title><nav>Home and all the rest of it</nav><p>{TOLD}",
    **{f"/stories/{n}": f"<title>{n.replace('-', ' ')}</title><h1>{n}</h1>" for n in NAMES},
    "/privacy": "<title>Privacy</title>",
}


def surveyed(cross: Make, work: Run, old: dict[str, Any], new: dict[str, Any]) -> int:
    """A crossing whose two sites are surveyed, and nothing of it decided."""
    with apps(pages_app(old), pages_app(new)) as (first, second):
        plan = {"old": {"start": f"http://127.0.0.1:{first}/"}, "survey": {"sitemaps": False}}
        crossing = cross(plan | {"interim": f"http://127.0.0.1:{second}/", "new": {"survey": {"sitemaps": False}}})
        for job in ("survey", "sort", "lift", "route"):
            work(job, crossing)
        work("survey", crossing, side="new")
    return crossing


def test_open_addresses_are_paired_at_once(cross: Make, work: Run, client: httpx.Client) -> None:
    crossing = surveyed(cross, work, OLD, NEW)
    told = work("suggest", crossing)
    assert told["open"] == 10 and told["sure"] >= 7 and told["rules"] == 1
    at = f"/api/crossings/{crossing}"
    found = client.get(f"{at}/suggested", params={"at_least": 0.9}).json()
    pairs = {row["key"]: row["new"] for row in found["rows"]}
    beside = client.get(f"{at}/likely", params={"address": "/d.asp?no=17"}).json()
    assert beside[0]["new"] == "/come/when" and any(why.startswith("says the same") for why in beside[0]["reasons"])
    assert {f"/news/2019/{n}.htm": f"/stories/{n}" for n in NAMES}.items() <= pairs.items()
    assert pairs["/print.php?id=4"] == "/stories/red-lamp", "two old ones may become one page"
    assert pairs["/d.asp?no=17"] == "/come/when", "called otherwise, and it says the same"
    (reasons,) = [row["reasons"] for row in found["rows"] if row["new"] == "/come/when"]
    assert any(reason.startswith("says the same: ") for reason in reasons)
    assert "/gone.htm" not in pairs and found["counts"][2] == found["total"] == len(pairs)
    (rule,) = client.get(f"{at}/suggested/rules").json()
    assert (rule["new"], rule["settles"], rule["disagrees"], rule["catches"]) == ("/stories/{1}", 6, [], [])
    assert client.get(f"{at}/suggested", params={"search": "TUNNEL"}).json()["total"] == 1

    ids = [row["id"] for row in found["rows"] if row["key"] == "/print.php?id=4"]
    assert client.post(f"{at}/suggested", json={"ids": ids}).json()["taken"] == 1
    taken = client.post(f"{at}/suggested", json={"at_least": 0.9}).json()
    made = {pair.old: pair for pair in crossings.load_pairs(crossing)}
    assert set(made) == set(pairs) and all(pair.reason.startswith("suggested, ") for pair in made.values())
    work("route", crossing)
    assert client.get(f"{at}/suggested", params={"at_least": 0.9}).json()["total"] == 0, "what is decided is not open"
    assert client.post(f"{at}/suggested", json={}).json() == {"taken": 0, "revision": taken["revision"]}
    assert client.post(f"{at}/suggested", json={"at_least": 0.2}).status_code == 422
    for _ in range(2):
        client.post(f"{at}/undo")
    assert not crossings.load_pairs(crossing)


def test_a_list_serves_where_the_new_site_cannot_be_walked(cross: Make, work: Run) -> None:
    with apps(pages_app(OLD)) as (old,):
        plan = {"old": {"start": f"http://127.0.0.1:{old}/"}, "survey": {"sitemaps": False}}
        crossing = cross(plan | {"interim": "http://new.test/"})
        work("survey", crossing)
    work("route", crossing)
    assert work("suggest", crossing)["named"] == 0
    side = Side(crossing, "new")
    path = ownerlists.new_place()
    lines = "".join(f"http://new.test/n/{number},{name.replace('-', ' ')}\n" for number, name in enumerate(NAMES))
    path.write_text(f"Address,Page title\n{lines}http://new.test/leaflet.pdf,red lamp\n", "utf-8")
    looked = ownerlists.looked_at(path)
    assert (looked.form, looked.address, looked.title) == ("table", 0, 1)
    ownerlists.take(side, path, "new.csv", "table", looked.address, looked.visits, [], "Ann", looked.title)
    assert work("suggest", crossing)["new"] == len(NAMES), "a file is no page"
    total, found = store.window(crossing, 0.9, 1.0, "", 0, -1)
    assert {one.key: one.new for one in found} == {
        **{f"/news/2019/{name}.htm": f"/n/{number}" for number, name in enumerate(NAMES)},
        "/print.php?id=4": "/n/0",
    }
    path = ownerlists.new_place()
    sitemap = "".join(f"<url><loc>http://new.test/stories/{name}</loc></url>" for name in NAMES)
    path.write_text(f'<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">{sitemap}</urlset>', "utf-8")
    ownerlists.take(side, path, "sitemap.xml", "lines", 0, -1, [], "Ann")
    assert work("suggest", crossing)["new"] == 2 * len(NAMES)


def test_numbers_that_became_names_are_taken_as_one_table(cross: Make, work: Run, client: httpx.Client) -> None:
    named = {n: name.replace("-", " ").title() for n, name in enumerate(NAMES)}
    old = {"/": "".join(f"<a href=/item.aspx?id={n}>{n}</a>" for n in (*named, 90))} | {
        f"/item.aspx?id={n}": f"<title>{name}</title><h1>{name}</h1>" for n, name in named.items()
    }
    old["/item.aspx?id=90"] = "<title>Something of its own</title>"
    new = {"/": "".join(f"<a href=/things/{name}>{name}</a>" for name in NAMES)} | {
        f"/things/{name}": f"<title>{named[n]}</title><h1>{named[n]}</h1>" for n, name in enumerate(NAMES)
    }
    crossing = surveyed(cross, work, old, new)
    assert work("suggest", crossing)["rules"] == 0
    at = f"/api/crossings/{crossing}"
    (table,) = client.get(f"{at}/suggested/tables").json()
    assert (table["old"], table["new"], table["settles"]) == ("/item.aspx?id=#", "/things/", len(NAMES))
    assert table["left"] == ["/item.aspx?id=90"] and table["least"] >= 0.5
    taken = client.post(f"{at}/suggested", json={"ids": table["ids"], "at_least": 0.5}).json()["taken"]
    assert taken == len(NAMES)
    made = {pair.old: pair.new for pair in crossings.load_pairs(crossing)}
    assert made == {f"/item.aspx?id={n}": f"/things/{name}" for n, name in enumerate(NAMES)}
    work("route", crossing)
    assert client.get(f"{at}/suggested/tables").json() == []


def test_a_rule_is_taken_with_lines_for_what_goes_elsewhere(cross: Make, work: Run, client: httpx.Client) -> None:
    changed = NEW | {"/": NEW["/"].replace("/stories/red-lamp", "/features/red-lamp")}
    changed["/features/red-lamp"] = changed.pop("/stories/red-lamp")
    crossing = surveyed(cross, work, OLD, changed)
    work("suggest", crossing)
    at = f"/api/crossings/{crossing}"
    (rule,) = client.get(f"{at}/suggested/rules").json()
    assert rule["disagrees"] == ["/news/2019/red-lamp.htm"]
    taken = client.post(f"{at}/suggested/rules", json={"old": rule["old"]}).json()
    assert taken["text"] == f"rule {rule['old']}, before it 1 line for what goes elsewhere"
    work("route", crossing)
    made = {key: one.target for key, one in route.decisions(crossing).items()}
    assert made["/news/2019/red-lamp.htm"] == "/features/red-lamp"
    assert made["/news/2019/old-signal.htm"] == "/stories/old-signal"
    again = client.post(f"{at}/suggested/rules", json={"old": rule["old"]})
    assert again.status_code >= 400 and "in the plan already" in again.text
    assert client.post(f"{at}/suggested/rules", json={"old": "/x"}).status_code == 404
