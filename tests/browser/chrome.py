"""Debian's Chromium, headless, driven through ChromeDriver."""

from __future__ import annotations

import os
import shutil
import signal
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.common.exceptions import JavascriptException, TimeoutException
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

os.environ["SE_OFFLINE"] = "true"
os.environ["SE_AVOID_STATS"] = "true"
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
FLAGS = """--headless=new --no-sandbox --disable-gpu --disable-quic --disable-background-networking
--disable-component-update --disable-sync --disable-extensions --disable-default-apps --no-first-run
--no-default-browser-check --password-store=basic --lang=en-GB --force-color-profile=srgb
--disable-features=Translate,OptimizationHints,MediaRouter --disable-backgrounding-occluded-windows
--disable-renderer-backgrounding --disable-background-timer-throttling --window-size=1280,943""".split()
RESOLVE = "--host-resolver-rules=MAP *.localhost 127.0.0.1, MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost"
WATCH = (
    "window.__viol=[];document.addEventListener('securitypolicyviolation',e=>__viol.push(e.effectiveDirective+' '+e.blockedURI));"
    "window.__errs=[];addEventListener('error',e=>__errs.push(String(e.message)));"
    "addEventListener('unhandledrejection',e=>__errs.push(String(e.reason)))"
)
_UNUSABLE = """
const rgba = (text) => { const n = text.match(/[\\d.]+/g).map(Number); return [n[0], n[1], n[2], n[3] ?? 1]; };
const over = (a, b) => [0, 1, 2].map((k) => a[k] * a[3] + b[k] * (1 - a[3])).concat(1);
const light = (c) => { const v = c.slice(0, 3).map((x) => x / 255).map((x) => x <= 0.03928 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4);
  return 0.2126 * v[0] + 0.7152 * v[1] + 0.0722 * v[2]; };
const behind = (el) => el ? over(rgba(getComputedStyle(el).backgroundColor), behind(el.parentElement)) : [255, 255, 255, 1];
return [...document.querySelectorAll('button:disabled,[role=button][aria-disabled=true],[role=menuitem][aria-disabled=true]')]
  .filter((el) => el.getClientRects().length && el.innerText.trim()).map((el) => {
    const back = behind(el);
    let text = rgba(getComputedStyle(el).color);
    text[3] *= Number(getComputedStyle(el).opacity);
    const [a, b] = [light(over(text, back)), light(back)].sort((x, y) => y - x);
    return [el.innerText.trim(), Math.round((a + 0.05) / (b + 0.05) * 100) / 100, el.title || el.getAttribute('aria-label') || ''];
  });
"""
NAME = "window.localStorage.getItem('grandferry.name')||localStorage.setItem('grandferry.name','Mara Quill')"


class Browser:
    """A page in view. Things are found by what a person reads: a role and a name, a label, a text."""

    def __init__(self, driver: Any):
        self.driver = driver

    def go(self, url: str) -> None:
        self.driver.get(url)

    def js(self, script: str, *values: Any) -> Any:
        return self.driver.execute_script(script, *values)

    def until(self, expression: str, *values: Any, seconds: float = 20) -> Any:
        """Wait for a JavaScript expression to be true; gives its value."""
        wait = WebDriverWait(self.driver, seconds, 0.05, ignored_exceptions=[JavascriptException])
        try:
            return wait.until(lambda d: d.execute_script("return " + expression, *values))
        except TimeoutException:
            text = self.js("return document.body.innerText")[:1500]
            raise AssertionError(f"never true: {expression} {values}\nOn screen:\n{text}") from None

    def sees(self, text: str, seconds: float = 20) -> None:
        self.until("document.body.innerText.includes(arguments[0])", text, seconds=seconds)

    def find(self, name: str, role: str = "button", within: str = "body", seconds: float = 20) -> WebElement:
        """The visible, enabled element of a role whose name begins with ``name``."""
        script = """(() => {
          const norm = (s) => (s || '').replace(/\\s+/g, ' ').trim();
          const tags = {button: 'button,[role=button],a.MuiButton-root', link: 'a', menuitem: '[role=menuitem]',
            field: 'input,textarea,[role=combobox]', option: '[role=option]', row: '[role=row]', any: '*',
            treeitem: '[role=treeitem]'}[arguments[1]];
          for (const box of document.querySelectorAll(arguments[2])) for (const el of box.querySelectorAll(tags)) {
            if (el.disabled || el.getAttribute('aria-disabled') === 'true' || !el.getClientRects().length) continue;
            const label = el.labels && el.labels[0] ? el.labels[0].innerText : '';
            const by = (el.getAttribute('aria-labelledby') || '').split(' ').map((i) => document.getElementById(i)?.innerText || '').join(' ');
            const names = [el.getAttribute('aria-label'), label, by, el.innerText, el.placeholder].map(norm).filter(Boolean);
            if (names.some((n) => n === arguments[0] || n.startsWith(arguments[0]))) return el;
          }
          return null;
        })()"""
        found = self.until(
            script.replace("(() => {", "(function () {").replace("})()", "}).apply(null, arguments)"),
            name,
            role,
            within,
            seconds=seconds,
        )
        return found

    def click(self, name: str, role: str = "button", within: str = "body", seconds: float = 20) -> None:
        for attempt in range(3):
            element = self.find(name, role, within, seconds)
            try:
                self.js("arguments[0].scrollIntoView({block:'nearest'})", element)
                element.click()
                return
            except Exception:
                if attempt == 2:
                    raise

    def write(self, label: str, text: str, within: str = "body") -> None:
        element = self.find(label, "field", within)
        element.send_keys(Keys.CONTROL, "a")
        element.send_keys(Keys.DELETE)
        element.send_keys(text)

    def choose(self, label: str, option: str, within: str = "body") -> None:
        """Take an option of a select."""
        box = (
            "[...document.querySelectorAll(arguments[0] + ' .MuiFormControl-root')].find(e => "
            "e.innerText.split('\\n')[0].trim() === arguments[1])?.querySelector('[role=combobox]')"
        )
        self.until(f"!!{box}", within, label)
        self.js(f"return {box}", within, label).click()
        found = "[...document.querySelectorAll('[role=option]')].find(e => e.innerText.trim() === arguments[0])"
        self.until(f"!!{found}", option)
        self.js(f"return {found}", option).click()
        self.until("document.querySelectorAll('[role=listbox]').length === 0")

    def keys(self, *keys: str) -> None:
        """Keys to whatever has the focus."""
        self.driver.switch_to.active_element.send_keys(*keys)

    def resize(self, width: int, height: int) -> None:
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
        )

    def shot(self, path: str | Path) -> None:
        self.driver.execute_async_script(
            "const done=arguments[0];document.fonts.ready.then(()=>requestAnimationFrame(()=>requestAnimationFrame(done)))"
        )
        self.driver.save_screenshot(str(path))

    def axe(self) -> list[str]:
        """Serious and critical findings of the accessibility check on the whole page."""
        self.js(AXE.read_text("utf-8"))
        return list(
            self.driver.execute_async_script(
                "const done=arguments[0];axe.run(document,{resultTypes:['violations'],iframes:false}).then(r=>done(r.violations"
                ".filter(v=>['serious','critical'].includes(v.impact)).map(v=>v.id+': '+v.nodes.slice(0,5).map(n=>n.target.join(' ')+"
                "' '+(n.any[0]?.message||'')).join(' | '))))"
            )
        )

    def unusable(self) -> list[tuple[str, float, str]]:
        """(name, contrast of its text with what is behind it, reason it gives) of every control in view that cannot be
        used (WCAG 2.2, relative luminance)."""
        return [tuple(one) for one in self.js(_UNUSABLE)]

    def problems(self) -> list[str]:
        """Violations of the page's policy, and errors no code caught."""
        return list(self.js("return [...window.__viol, ...window.__errs]"))

    def all_text(self, css: str) -> list[str]:
        return [e.text for e in self.driver.find_elements(By.CSS_SELECTOR, css)]


@contextmanager
def browser(width: int = 1280, height: int = 800, scheme: str = "light", named: bool = True) -> Iterator[Browser]:
    """A browser with a fresh profile; ``named``: the name of the person at work is known to it."""
    profile = tempfile.mkdtemp(prefix="grandferry-browser-")
    options = Options()
    options.binary_location = "/usr/bin/chromium"
    for flag in [*FLAGS, RESOLVE, f"--user-data-dir={profile}"]:
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    pid = driver.service.process.pid
    try:
        driver.set_page_load_timeout(30)
        driver.set_script_timeout(30)
        made = Browser(driver)
        made.resize(width, height)
        driver.execute_cdp_cmd(
            "Emulation.setEmulatedMedia",
            {
                "features": [
                    {"name": "prefers-reduced-motion", "value": "reduce"},
                    {"name": "prefers-color-scheme", "value": scheme},
                ]
            },
        )
        script = WATCH + (";try{" + NAME + "}catch{}" if named else "")
        driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": script})
        yield made
    finally:
        try:
            driver.quit()
        except Exception:
            os.kill(pid, signal.SIGKILL)
        shutil.rmtree(profile, ignore_errors=True)
