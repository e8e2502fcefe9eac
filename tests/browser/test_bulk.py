"""Changes over many items on screen: counted with befores and afters, made, in the history, taken back; what a run
would change, before it is accepted."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from tests.ports.test_records import export, item

from .chrome import Browser
from .conftest import Application

FORM = "form[aria-label='Change over many items']"


def titles(crossed: Application, crossing: int) -> list[Any]:
    items = crossed.api("GET", f"/crossings/{crossing}/items", params={"kind": "engine", "limit": 50})["rows"]
    found = []
    for row in items:
        fields = crossed.api("GET", f"/crossings/{crossing}/items/{row['id']}")["fields"]
        field = next(f for f in fields if f["field"] == "builder")
        found.append(field["edited"] if field["edited_at"] else field["lifted"])
    return found


def test_a_change_over_many_items(crossed: Application, copied: int, page: Browser) -> None:
    before = titles(crossed, copied)
    some = sum("Brindle" in value for value in before)
    assert some > 2
    page.go(f"{crossed.base}/c/{copied}/lift?kind=engine")
    page.until("document.querySelectorAll('.held').length > 5")
    page.keys("b")
    page.sees("Change many\n12 items")
    page.choose("What", "find and replace", FORM)
    page.choose("Field", "builder", FORM)
    page.write("Find", "Brindle", FORM)
    page.write("Replace by", "Brundle", FORM)
    page.until(
        "document.querySelector('[data-testid=looked]')?.innerText.includes(arguments[0])", f"{some} of 12 change"
    )
    assert page.js("return document.querySelectorAll('[data-testid=looked] .value').length") == 3
    assert titles(crossed, copied) == before, "nothing is changed by looking"
    page.click(f"Change {some}")
    page.sees(f"“Brindle” replaced by “Brundle” in builder: {some} of 12 in engine. Z takes it back.")
    assert titles(crossed, copied) == [value.replace("Brindle", "Brundle") for value in before]
    page.js("document.activeElement.blur()")
    page.keys("b")
    page.until("[...document.querySelectorAll('.hand')].some(e => e.innerText.includes('by hand'))")
    page.click("history")
    page.sees("“Brindle” replaced by “Brundle”")
    page.sees("before it as it was found")
    crossed.api("POST", f"/crossings/{copied}/undo")
    assert titles(crossed, copied) == before


def test_what_a_run_would_change_is_shown_before_it_is_accepted(
    crossed: Application, copied: int, page: Browser
) -> None:
    known = crossed.api("GET", f"/crossings/{copied}/plan")
    engine = next(k for k in known["plan"]["kinds"] if k["name"] == "engine")
    next(f for f in engine["fields"] if f["name"] == "builder")["locators"] = [{"label": "Built"}]
    changed = {"plan": known["plan"], "revision": known["revision"], "text": "builder read elsewhere"}
    crossed.api("PUT", f"/crossings/{copied}/plan", json=changed)
    before = titles(crossed, copied)
    page.go(f"{crossed.base}/c/{copied}/lift?kind=engine")
    page.until("document.querySelectorAll('.held').length > 5")
    page.keys("w")
    page.click("Compare", within="[aria-label=Differences]")
    page.sees("12 values differ on 12 of")
    assert titles(crossed, copied) == before, "nothing is lifted yet"
    page.click("Lift what changed")
    page.sees("compare again to see what differs now")
    page.sees("Lifting · 12 done")
    assert all(value.isdigit() for value in titles(crossed, copied))
    page.click("Compare", within="[aria-label=Differences]")
    page.sees("Nothing differs.")


def test_an_export_is_read_as_records_and_taken_for_fields(
    crossed: Application, copied: int, page: Browser, tmp_path: Path
) -> None:
    start = crossed.api("GET", f"/crossings/{copied}/plan")["plan"]["old"]["start"].rstrip("/")
    keys = [row["key"] for row in crossed.api("GET", f"/crossings/{copied}/items", params={"kind": "engine"})["rows"]]
    items = [
        item(n, state="draft" if n == 3 else "publish").replace(f"http://a.test/{n}<", f"{start}{keys[n]}<")
        for n in range(4)
    ]
    (tmp_path / "engines.xml").write_bytes(export(*items, item(9, "shed_log")))
    as_records(page, f"{crossed.base}/c/{copied}", tmp_path / "engines.xml")
    page.sees("5 records, 2021-05-01 to 2021-05-10")
    page.sees("shed_log publish 1")
    page.until("[...document.querySelectorAll('.check')].some(e => e.innerText.trim() === 'draft')")
    page.js("[...document.querySelectorAll('.check')].find(e => e.innerText.trim() === 'draft').click()")
    page.click("Take 4 for fields to read from")
    page.sees("Taken; 3 of 4 are of pages that are captured, 1 has an address on another host.")
    assert crossed.api("GET", f"/crossings/{copied}/records")[0]["joined"] == 3
    wanted = {"name": "by", "type": "line", "locators": [{"record": "author"}]}
    told = crossed.api("POST", f"/crossings/{copied}/fields/cover", json={"field": wanted, "kind": "engine"})
    assert told["states"] == {"filled": 3, "empty": 9}


def as_records(page: Browser, crossing: str, path: Path) -> None:
    page.go(f"{crossing}/survey?tab=lists")
    page.until("!!document.querySelector(\"input[aria-label='A list, table or log']\")")
    page.js("return document.querySelector(\"input[aria-label='A list, table or log']\")").send_keys(str(path))
    page.click("as records")


def test_a_kind_is_made_of_the_drafts_of_an_export(
    crossed: Application, copied: int, page: Browser, tmp_path: Path
) -> None:
    (tmp_path / "blog.xml").write_bytes(export(*(item(n, state="draft") for n in range(3)), item(9, "shed_log")))
    as_records(page, f"{crossed.base}/c/{copied}", tmp_path / "blog.xml")
    page.click("Take 4 for fields to read from")
    page.sees("4 records without a captured page")
    page.click("make a kind of them", "link")
    page.sees("Records without a page on the old shore")
    page.until("[...document.querySelectorAll('.card .linkish')].length >= 2")
    page.click("make a kind of them")  # of the first: post
    page.write("Name of the kind", "Old draft")
    page.click("Make it of 3")
    page.sees("all in a kind")
    kinds = crossed.api("GET", f"/crossings/{copied}/kinds")["kinds"]
    assert next(kind["pages"] for kind in kinds if kind["name"] == "old_draft") == 3


def test_what_a_mapping_loses_is_told_before_it_is_saved(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/land?tab=target")
    page.click("+ field")
    page.sees("left out, of")
    page.write("is called there", "headline")
    page.sees("filled in")
    page.choose("and holds", "number")
    page.sees("do not fit and stay away")
    page.sees("not a number")
