"""What was altered in a folder with an editor, seen and taken in."""

from __future__ import annotations

from pathlib import Path

from .chrome import Browser
from .conftest import Application

WORD = "Put right by hand."


def test_what_was_altered_in_the_folder_is_taken_in(crossed: Application, copied: int, page: Browser) -> None:
    at = f"/crossings/{copied}"
    known = crossed.api("GET", f"{at}/plan")
    known["plan"]["land"] = {"target": "markdown", "folder": "by hand"}
    crossed.api("PUT", f"{at}/plan", json=known)
    page.go(f"{crossed.base}/c/{copied}/land?tab=altered")
    page.sees("Nothing has landed in")
    crossed.run(copied, "land")
    page.go(f"{crossed.base}/c/{copied}/land?tab=altered")
    page.sees("Every file is as it was written.")
    assert page.axe() == []
    folder = Path(crossed.api("GET", f"{at}/landed")["place"])
    mine = sorted(folder.glob("content/**/*.md"))[0]
    text = mine.read_text("utf-8")
    mine.write_text(text.rstrip("\n") + f"\n\n{WORD}\n", "utf-8")
    other = sorted(folder.glob("content/**/*.md"))[1]
    other.write_text(other.read_text("utf-8").replace("---\n", "---\neditor: Jo\n", 1), "utf-8")
    page.go(f"{crossed.base}/c/{copied}/land?tab=altered")
    page.sees("2 files are not as they were written")
    page.sees("no: no field is called so")
    page.click("Take in 1")
    page.sees("1 difference of 1 item taken in; 1 is left.")
    page.until("document.querySelectorAll('[aria-label=\"Altered there\"] tbody tr').length === 1")
    crossed.run(copied, "land")
    assert WORD in mine.read_text("utf-8") and "editor: Jo" in other.read_text("utf-8")
    said = crossed.api("GET", f"{at}/edits")
    assert [WORD in str(row["value"]) for row in said] == [True]
    crossed.api("POST", f"{at}/undo")
    assert crossed.api("GET", f"{at}/edits") == []
    assert page.problems() == []
