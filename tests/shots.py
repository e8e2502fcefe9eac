"""``./ferry shots``: one picture of every main view, from the demo alone, into docs/screenshots."""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
from pathlib import Path

from grandferry.demo.wider import WHOLE
from tests.browser.chrome import Browser, browser
from tests.browser.conftest import ROOT, Application, application

OUT = ROOT / "docs" / "screenshots"
VIEWS = {
    "crossings": ("/", "All crossings"),
    "manifest": ("/c/1/manifest", "Evidence"),
    "survey": ("/c/1/survey?open={engine}", "Open old"),
    "survey-scope": ("/c/1/survey?tab=scope", "What is left out"),
    "survey-soundings": ("/c/1/survey?tab=soundings", "On trial"),
    "survey-kept-out": ("/c/1/survey?tab=kept", "what it is"),
    "survey-new": ("/c/1/survey?side=new&open={moved}", "New shore"),
    "sort": ("/c/1/sort", "pages like"),
    "lift": ("/c/1/lift?kind=news&field=published", "Coverage"),
    "refit": ("/c/1/refit?item={lossy}", "This page"),
    "refit-shared": ("/c/1/refit?tab=shared&step=2", "the version that is read"),
    "route-open": ("/c/2/route", "unaccounted, by shape"),
    "route-rules": ("/c/1/route?tab=rules", "Try-box"),
    "route-rounds": ("/c/1/route?tab=rounds", "checked, 0 left"),
    "route-write": ("/c/1/route?tab=write", "hand over"),
    "land": ("/c/1/land", "Landings"),
    "media": ("/c/1/media?tab=grid&open={picture}", "place"),
}
DARK = ("manifest", "lift")


def second(app: Application) -> int:
    """A crossing in the middle of the work: kinds and fields are there, nothing is decided by hand yet."""
    plan = app.api("GET", "/crossings/1/plan")["plan"]
    made = app.api("POST", "/crossings", json={"name": "Quillmere, second try", "start": app.old})["id"]
    plan = {**plan, "name": "Quillmere, second try", "kinds": plan["kinds"][:2]}
    plan["route"]["rules"] = []
    known = app.api("GET", f"/crossings/{made}/plan")["revision"]
    app.api("PUT", f"/crossings/{made}/plan", json={"plan": plan, "revision": known})
    app.run(made, "survey", "sort", "lift", "refit", "route")
    return int(made)


def settle(page: Browser) -> None:
    """Wait until lists are filled and previews are drawn."""
    page.until("![...document.querySelectorAll('.list .c')].some(c => c.innerText === '…')")
    time.sleep(1.2)


def main() -> int:
    with (
        tempfile.TemporaryDirectory(prefix="grandferry-shots-") as temporary,
        application(Path(temporary) / "demo", demo=True, size=WHOLE) as app,
    ):
        app.run(1, "sound", pages=4)
        app.run(1, "survey", "sort", "lift", "refit", "route", "land", "check")
        app.run(1, "survey", side="new")
        second(app)
        engine = app.api("GET", "/crossings/1/addresses", params={"search": "/engines.aspx?id=4"})["rows"][0]["id"]
        new = app.api("GET", "/crossings/1/addresses", params={"side": "new", "search": "/engines/captain-idris"})
        moved = new["rows"][0]["id"]
        bodies = app.api("GET", "/crossings/1/bodies", params={"limit": 200, "order": "key"})["rows"]
        picture = app.api("GET", "/crossings/1/media", params={"only": "twins"})["rows"][0]["id"]
        lossy = max(bodies, key=lambda b: b["removed"])["item"]
        OUT.mkdir(parents=True, exist_ok=True)
        shutil.rmtree(OUT)
        OUT.mkdir()
        for scheme, names in (("light", tuple(VIEWS)), ("dark", DARK)):
            with browser(scheme=scheme) as page:
                for name in names:
                    path, text = VIEWS[name]
                    page.go(app.base + path.format(engine=engine, lossy=lossy, moved=moved, picture=picture))
                    page.sees(text)
                    settle(page)
                    page.shot(OUT / (f"{name}.png" if scheme == "light" else f"{name}-dark.png"))
        print(f"{len(list(OUT.glob('*.png')))} pictures in {OUT.relative_to(ROOT)}", file=sys.stderr)
    return 0


if __name__ == "__main__":
    sys.exit(main())
