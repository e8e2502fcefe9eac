"""The new shore as a tree: a place moved by dragging and by keys, seen beforehand, taken back."""

from __future__ import annotations

from selenium.webdriver.common.keys import Keys

from .chrome import Browser
from .conftest import Application

TREE = "[aria-label='Addresses of the new shore']"
DRAG = """
const [from, onto] = [...arguments].map((path) => [...document.querySelectorAll('[draggable=true]')].find(
  (e) => e.innerText.split('\\n')[0].trim() === path || e.innerText.includes(path)));
const data = new DataTransfer();
for (const [el, type] of [[from, 'dragstart'], [onto, 'dragover'], [onto, 'drop']])
  el.dispatchEvent(new DragEvent(type, {bubbles: true, cancelable: true, dataTransfer: data}));
"""


def test_a_folder_dragged_below_another_moves_with_what_leads_there(
    crossed: Application, copied: int, page: Browser
) -> None:
    def places() -> set[str]:
        rows = crossed.api("GET", f"/crossings/{copied}/items?kind=engine&limit=50")["rows"]
        return {row["new_path"].rpartition("/")[0] for row in rows}

    page.go(f"{crossed.base}/c/{copied}/route?tab=shore")
    page.until("document.querySelectorAll('[draggable=true]').length > 3")
    page.js(DRAG, "/engines", "/news")
    page.until("document.querySelector('form[aria-label=\"Move it\"] input')?.value === '/news/engines'")
    page.sees("/news/engines/{slug}")
    page.sees("15 old addresses")
    assert page.axe() == [] and places() == {"/engines"}
    page.click("Move", "button", "form[aria-label='Move it']")
    page.sees("/engines moved to /news/engines: 15 old addresses")
    page.until(
        "fetch('/api/jobs?crossing=' + location.pathname.split('/')[2]).then(r => r.json())"
        ".then(j => j.every(x => !['queued','running'].includes(x.state)))"
    )
    assert places() == {"/news/engines"}
    # by keys: an item below another, refused where something stands already
    page.write("find a new address or title", "lady-osmer")
    page.click("/news/engines/lady-osmer", "button", TREE)
    page.js("document.activeElement.blur()")
    page.keys("m")
    page.keys("/news/engines/thrush")
    page.sees("1 of the new addresses is taken already: /news/engines/thrush")
    page.keys(Keys.CONTROL, "a")
    page.keys("/osmer")
    page.sees("1 pair would say so")
    assert page.problems() == []
