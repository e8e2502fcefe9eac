"""A hostile captured page in the preview: nothing of it runs, nothing leaves, nothing reaches the application."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from tests.servers import apps, pages_app

from .chrome import Browser
from .conftest import application


@contextmanager
def listener() -> Iterator[tuple[int, list[str]]]:
    """A server that only notes what it is asked for."""
    heard: list[str] = []

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            heard.append(f"{self.command} {self.path}")
            self.send_response(200)
            self.end_headers()
            self.wfile.write(b"window.parent && parent.postMessage('got you', '*')")

        do_POST = do_HEAD = do_PUT = do_GET

        def log_message(self, *_: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield server.server_address[1], heard
    finally:
        server.shutdown()


def hostile(out: str) -> str:
    """Every way in which a page could act or call home that we know of; ``out`` is the listener's address."""
    mark = "try{parent.document.title='owned'}catch(e){};top.name='owned';parent.postMessage({what:'pick',n:1},'*')"
    return f"""<!doctype html><html><head><title>Hostile</title>
<base href="{out}/base/">
<meta http-equiv="refresh" content="0;url={out}/refresh">
<meta http-equiv="Content-Security-Policy" content="script-src * 'unsafe-inline'">
<link rel="stylesheet" href="{out}/style.css"><link rel="preload" as="image" href="{out}/preload.png">
<link rel="prefetch" href="{out}/prefetch"><link rel="dns-prefetch" href="{out}"><link rel="preconnect" href="{out}">
<link rel="icon" href="{out}/icon.png"><link rel="manifest" href="{out}/manifest"><link rel="modulepreload" href="{out}/m.js">
<style>@import "{out}/import.css"; @import url({out}/import2.css); body {{ background: url("{out}/bg.png") }}
@font-face {{ font-family: x; src: url({out}/font.woff2) }} p {{ font-family: x; list-style: url('{out}/list.png') }}
p::after {{ content: url({out}/content.png) }} /* */ h1 {{ background: u\\72l({out}/escaped.png) }} </style>
<script>{mark}</script><script src="{out}/script.js"></script><script type="module" src="{out}/module.js"></script>
</head><body onload="{mark}" onpageshow="{mark}" onhashchange="{mark}" style="background: url({out}/inline.png)">
<h1 id="words" onclick="{mark}" onmouseover="{mark}">Words that can be read</h1>
<p>A paragraph.</p>
<img src="{out}/img.png" srcset="{out}/set.png 2x" onerror="{mark}" lowsrc="{out}/low.png">
<img src="x" onerror="{mark}"><picture><source srcset="{out}/source.png"><img src="{out}/picture.png"></picture>
<svg onload="{mark}"><script>{mark}</script><a xlink:href="javascript:{mark}"><text y="20">svg link</text></a>
<image href="{out}/svg.png" /><use href="{out}/use.svg#a" /><animate attributeName="href" values="javascript:{mark}" /></svg>
<a id="js" href="javascript:{mark}">javascript link</a> <a id="away" href="{out}/link" target="_top" ping="{out}/ping">top link</a>
<a id="blank" href="{out}/blank" target="_blank">new window</a> <a href="{out}/file" download id="down">download</a>
<form id="f" action="{out}/form" method="post" target="_top"><input name="a" value="b" autofocus onfocus="{mark}">
<button id="send" formaction="{out}/formaction">Send</button></form>
<iframe src="{out}/frame"></iframe><iframe srcdoc="<script>{mark}</script>"></iframe>
<object data="{out}/object"></object><embed src="{out}/embed"><applet code="x" codebase="{out}/applet"></applet>
<video src="{out}/video" poster="{out}/poster.png" autoplay></video><audio src="{out}/audio" autoplay></audio>
<table background="{out}/table.png"><tr><td background="{out}/td.png">cell</td></tr></table>
<input type="image" src="{out}/input.png"><details ontoggle="{mark}" open><summary>more</summary></details>
<noscript><img src="{out}/noscript.png"></noscript><template><img src="{out}/template.png"></template>
<plaintext><script>{mark}</script>"""


def test_nothing_of_a_hostile_page_runs_or_leaves(tmp_path: Path, page: Browser) -> None:
    site: dict[str, object] = {"/": "<title>Home</title><a href=/hostile>h</a>"}
    with listener() as (out, heard), apps(pages_app(site)) as (old,), application(tmp_path / "w") as app:
        site["/hostile"] = hostile(f"http://127.0.0.1:{out}")
        made = app.api("POST", "/crossings", json={"name": "Hostile", "start": f"http://127.0.0.1:{old}/"})
        number = made["id"]
        document = app.api("GET", f"/crossings/{number}/plan")
        document["plan"]["manners"]["delay"] = 0
        kind = {
            "name": "k",
            "rules": [{"below": "/"}],
            "fields": [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}],
        }
        document["plan"]["kinds"] = [kind]
        app.api("PUT", f"/crossings/{number}/plan", json=document)
        app.run(number, "survey", "sort", "lift")
        assert heard == [], "the survey itself stays on its host"
        rows = app.api("GET", f"/crossings/{number}/addresses", params={"search": "hostile"})["rows"]
        address = rows[0]["id"]
        # in the detail of the survey, and where fields are taught
        for view in (f"survey?open={address}", f"lift?page={address}&field=title"):
            page.go(f"{app.base}/c/{number}/{view}")
            page.until("document.querySelector('iframe.page') !== null")
            page.until("document.title === 'Grand Ferry'")
            time.sleep(1.5)  # what would run, would have run by now
            frame = page.driver.find_element("css selector", "iframe.page")
            page.driver.switch_to.frame(frame)
            assert "Words that can be read" in page.js("return document.body.innerText")
            assert page.js("return document.querySelectorAll('script').length") == 1, "only our bridge"
            assert page.js("return document.querySelectorAll('iframe,object,embed,video,audio,base,meta').length") == 0
            assert page.js("return window.origin") == "null"
            for name in ("words", "js", "away", "blank", "down", "send"):
                page.js("document.getElementById(arguments[0])?.click()", name)
                page.js(
                    "document.getElementById(arguments[0])?.dispatchEvent(new MouseEvent('mouseover',{bubbles:true}))",
                    name,
                )
            page.js("try { document.getElementById('f')?.requestSubmit() } catch (e) {}")
            time.sleep(0.4)
            assert "Words that can be read" in page.js("return document.body.innerText"), "the page is still there"
            page.driver.switch_to.default_content()
            assert page.js("return [document.title, window.name]") == ["Grand Ferry", ""]
            assert page.js("return location.href").startswith(app.base)
            assert len(page.driver.window_handles) == 1
            assert heard == []
        # the preview's address opened by itself
        source = page.js("return document.querySelector('iframe.page').src")
        page.go(source)
        time.sleep(1)
        assert page.js("return window.origin") == "null" and page.js("return document.title") == "Hostile"
        assert page.js("return location.href") == source
        assert heard == []
        # the same page unguarded does act and call home, so the silence above means something
        page.go(f"http://127.0.0.1:{old}/hostile")
        page.until("true")
        time.sleep(1)
        assert len(heard) > 5
        page.go("about:blank")


def test_previews_are_shown_to_nobody_without_leave(tmp_path: Path) -> None:
    import httpx

    with apps(pages_app({"/": "<title>Home</title><p>x</p>"})) as (old,), application(tmp_path / "w") as app:
        number = app.api("POST", "/crossings", json={"name": "One", "start": f"http://127.0.0.1:{old}/"})["id"]
        app.run(number, "survey")
        row = app.api("GET", f"/crossings/{number}/addresses")["rows"][0]
        leave = app.api("GET", f"/crossings/{number}/addresses/{row['id']}")["preview"]
        other = f"http://127.0.0.1:{app.port + 1}"
        good = httpx.get(f"{other}/page/{number}/{row['id']}/{leave}")
        assert good.status_code == 200 and "<p data-gf=" in good.text
        policy = good.headers["content-security-policy"]
        assert policy.startswith("sandbox allow-scripts; default-src 'none'") and "allow-same-origin" not in policy
        assert f"frame-ancestors http://127.0.0.1:{app.port} " in policy
        for path in (
            f"/page/{number}/{row['id']}/{'0' * 40}",
            f"/page/{number}/{row['id'] + 1}/{leave}",
            f"/file/{number}/{row['id']}/{leave}",
        ):
            assert httpx.get(other + path).status_code == 403
        assert httpx.get(f"{other}/api/crossings").status_code == 404
        assert httpx.get(f"{other}/page/{number}/{row['id']}/{leave}", headers={"Host": "evil.test"}).status_code == 403
        # the application itself is never framed, and shows no captured page on its own origin
        assert "frame-ancestors 'none'" in httpx.get(app.base + "/").headers["content-security-policy"]
