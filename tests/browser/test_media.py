"""Media and forms by mouse and keys: what a person says of a file, of a form, and what pictures are for."""

from __future__ import annotations

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .chrome import Browser
from .conftest import Application

KEPT = "document.querySelector('.crops .focus i') && document.querySelector('.crops').innerText"


def test_a_role_is_made_and_a_file_spoken_of(crossed: Application, page: Browser) -> None:
    rows = crossed.api("GET", "/crossings/1/media", params={"search": "pictures", "order": "pixels"})["rows"]
    number = rows[0]["id"]
    page.go(f"{crossed.base}/c/1/media?tab=roles")
    page.click("One more role")
    page.write("name of role 3", "badge")
    page.write("width of role 3", "900")
    page.write("shape of role 3", "round")
    page.sees("not saved: roles and sizes")
    page.click("Save")
    page.sees("“round” is no shape")
    page.write("shape of role 3", "1:1")
    page.click("Save")
    page.until("!document.body.innerText.includes('not saved')")

    page.go(f"{crossed.base}/c/1/media?open={number}")
    page.sees("click on what crops should keep in view")
    page.choose("What it is for", "badge", ".of-file")
    page.driver.find_element(By.CSS_SELECTOR, ".crops .focus").click()
    page.until(f"({KEPT}).includes('crops keep 50% 50%')")
    page.keys(Keys.ARROW_LEFT, Keys.ARROW_DOWN)
    page.until(f"({KEPT}).includes('crops keep 45% 55%')")
    assert page.js("return document.querySelector('.cut img').style.objectPosition") == "45% 55%"
    page.write("Text that stands for it", "A fireman")
    assert page.axe() == []
    page.click("Save", within=".of-file")
    page.sees("too small for its role")
    said = crossed.api("GET", f"/crossings/1/media/{number}")["said"]
    assert (said["role"], said["focus"], said["alt"]) == ("badge", "45% 55%", "A fireman")

    page.go(f"{crossed.base}/c/1/media?only=unsuited")
    page.until("document.querySelectorAll('.list .r').length === 1")
    page.keys("j", "x")
    page.write("why the chosen files stay behind", "only looks")
    page.click("Leave behind")
    page.until("document.querySelector('.list').innerText.includes('set aside: only looks')")
    for _ in range(3):
        crossed.api("POST", "/crossings/1/undo")
    assert crossed.api("GET", f"/crossings/1/media/{number}")["said"]["role"] == ""
    assert page.problems() == []


def test_a_form_is_said_to_be_wired_up(crossed: Application, page: Browser) -> None:
    page.go(f"{crossed.base}/c/1/refit?tab=forms")
    page.sees("1 waits to be wired up")
    page.sees("Where we may answer* email")
    page.write("a word on the form of /about/contact.htm", "as /letters")
    page.driver.find_element(By.CSS_SELECTOR, "td [role=combobox]").click()
    page.click("wired up", "option")
    page.sees("0 wait to be wired up")
    (said,) = crossed.api("GET", "/crossings/1/forms")
    assert (said["state"], said["note"]) == ("wired up", "as /letters")
    crossed.api("POST", "/crossings/1/undo")
    assert crossed.api("GET", "/crossings/1/forms")[0]["state"] == ""
    assert page.problems() == []
