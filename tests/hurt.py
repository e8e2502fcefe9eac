"""Redirect maps made to hurt: addresses with what configuration languages use as signs, and requests in all spellings."""

from __future__ import annotations

import http.client
import random
import re

from grandferry.core.errors import FerryError
from grandferry.core.route.redirects import RedirectMap, map_of, neutral

LINES = [
    ("/old.htm", "/new", 301, "exact"),
    ("/page.aspx?id=7", "/seven", 301, "exact"),
    ("/page.aspx", "/page", 308, "exact"),
    ("/gone.htm", "", 410, "exact"),
    ("/my docs/straße.pdf", "/new/straße x.pdf", 301, "exact"),
    ("/sp\"q'u;o$te{b}\\x|y", "/special", 301, "exact"),
    ("/a%2Fb", "/slash", 301, "exact"),
    ("/a%3Fb", "/question", 301, "exact"),
    ("/a?b", "/query-b", 301, "exact"),
    ("/Case/A", "/case-upper", 301, "exact"),
    ("/case/a", "/case-lower", 301, "exact"),
    ("/Loop/Page", "/loop/page", 301, "exact"),
    ("/line%0Abreak", "/line", 301, "exact"),
    ("/latin%E9", "/latin", 301, "exact"),
    ("/plus+sign", "/plus", 301, "exact"),
    ("/per%25cent", "/percent", 301, "exact"),
    ("/x;}#", "/brace", 301, "exact"),
    ("/q?a=1&b=%C3%A9", "/q-a-b", 301, "exact"),
    ("/dollar", "/d$1${x}?p=$q", 301, "exact"),
    ("/else", "https://else.test/x?y#z", 301, "exact"),
    ("/" + "long" * 300, "/long", 301, "exact"),
    ("/~tilde", "/tilde", 301, "exact"),
    ("/dot/./x", "/dots", 301, "exact"),
    ("/double//slash", "/double", 301, "exact"),
    ("/back\\slash", "/back", 301, "exact"),
    ("/folder", "/moved", 301, "prefix"),
    ("/folder/deep", "/deeper/", 308, "prefix"),
    ("/closed", "", 410, "prefix"),
    ("/Über", "/uber", 301, "prefix"),
    ("/root", "/", 301, "prefix"),
    (r"/go/(.*)", "/{1}", 301, "pattern"),
    (r"/go8/(.*)", "/{1}", 308, "pattern"),
    (r"/blog/(\d{4})/(\d{2})/([^/]+)\.html", "/articles/{1}-{2}/{3}", 301, "pattern"),
    (r"/item\?id=(\d+)", "/items/{1}", 301, "pattern"),
    (r"/w/([a-z\"]+)", "/words/{1}", 308, "pattern"),
    (r"/[(](\d+)", "/bracket/{1}", 301, "pattern"),
    (r"/end/.*", "", 410, "pattern"),
]
REQUESTS = [
    *("/.gf-pattern/301:/x", "/%2egf-pattern/301:/x", "/%2Egf-pattern/https:%2F%2Fevil.test/", "//.gf-pattern/410"),
    *("/x/../.gf-pattern/301:https:/evil.test", "/go/..%2f.gf-pattern/301:/y", "/.%67f-pattern/410", "/.gf-nobody"),
    "/old.htm",
    "/OLD.HTM",
    "/old.htm?utm=1",
    "/%6Fld.htm",
    "/old.htm/",
    "/./old.htm",
    "/x/../old.htm",
    "/page.aspx?id=7",
    "/page.aspx?ID=7",
    "/page.aspx?id=8",
    "/gone.htm",
    "/gone.htm?x",
    "/my%20docs/stra%C3%9Fe.pdf",
    "/my%20docs/stra%c3%9fe.pdf",
    "/a%2fb",
    "/a/b",
    "/a%3fb",
    "/a?b",
    "/case/a",
    "/Case/A",
    "/cAse/a",
    "/loop/page",
    "/Loop/Page",
    "/line%0abreak",
    "/latin%e9",
    "/plus+sign",
    "/plus%20sign",
    "/per%25cent",
    "/dollar",
    "/else",
    "/folder",
    "/folder/",
    "/folder/a/b?c=1",
    "/folders",
    "/folder/deep",
    "/folder/deep/x",
    "/closed/any",
    "/%C3%9Cber/x",
    "/%c3%9cber",
    "/blog/2019/04/slug.html",
    "/blog/2019/04/s%20g.html",
    "/blog/2019/04/a%0d%0aX-Evil:%201.html",
    "/blog/2019/04/x.html?y",
    "/item?id=12",
    "/item?id=12&x",
    "/w/a%22",
    "/w/abc",
    "/(12",
    "/end/",
    "/end/x?y",
    "/none",
    "/",
    "/root//evil.test/x",
    "/root/x",
    "/go//evil.test/x",
    "/go8///evil.test",
    "/go/ok",
    "/double//slash",
    "/double/slash",
    "/dot/./x",
    "/dot/x",
]

RULED = [
    *("/folder1/Ab.c", "/folder1/Ab.c/d?e", "/folder1/AbXc", "/folder1/Ab.cd", "/gone1", "/gone1/x", "/gone12"),
    *(
        "/swap0/a/b",
        "/swap1/a/b",
        "/swap2/%C3%A9/b%20c",
        "/swap3/a/b",
        "/swap0/a/b/c",
        "/swap0//evil.test",
        "/page1.aspx?id=12",
    ),
    *(
        "/page1.aspx?id=12&x=1",
        "/q3/ab-c.html",
        "/q3/ab.php?x=1",
        "/comma/x,y",
        "/sl/evil.test",
        "/sl//evil.test/x",
        "/slow",
    ),
    *(
        "/away/123",
        "/away/1234",
        "/quo%22te/x",
        "/old-end/x",
        "/page",
        "/page/x",
        "/pagex",
        "/Pages/",
        "/Pages/x",
        "/Pages",
    ),
    *(
        "/sl%0d%0aX-Evil:%201",
        "/comma/%0d%0aX-Evil:1",
        "/comma/a%2Fb",
        "/comma/%7Bpath%7D",
        "/comma/$1",
        "/swap0/%251/%24x",
    ),
]

_BITS = (
    ["a", "b", "Old", "old", "page", "index.html", "x.asp", "2019", "7", "straße", "Ünï", "日本", "עברית"]
    + [
        '"',
        "'",
        ";",
        "$",
        "${x}",
        "{",
        "}",
        "{path}",
        "{http.request.uri}",
        "\\",
        "|",
        "%25",
        "%2F",
        "%20",
        "%0A",
        "%3F",
        "%23",
    ]
    + [
        "+",
        "&",
        "=",
        "~",
        "^",
        "*",
        ":",
        "@",
        "!",
        ",",
        "(",
        ")",
        "[",
        "]",
        "<",
        ">",
        "`",
        "#",
        "..",
        "...",
        "%E9",
        "%",
        "-",
    ]
    + [
        "location",
        "server",
        "redirect",
        "RewriteRule",
        "return",
        "if",
        "end",
        "]]",
        "]=]",
        "--",
        "//",
        "%1",
        "$1",
        "\\1",
    ]
)
_RULES = (
    [(f"/folder{n}/Ab.c", f"/f{n}", 301, "prefix") for n in range(6)]
    + [(f"/gone{n}", "", 410, "prefix") for n in range(2)]
    + [
        (f"/swap{n}/([^/]+)/([^/]+)", f"/s{n}/{{2}}/{{1}}", status, "pattern")
        for n, status in enumerate((301, 302, 307, 308))
    ]
    + [(rf"/page{n}\.aspx\?id=(\d+)", f"/p{n}/{{1}}", 301, "pattern") for n in range(6)]
    + [(rf"/q{n}/([a-z\\-]+)\.(?:html?|php)(?:\?.*)?", f"/clean{n}/{{1}}", 301, "pattern") for n in range(6)]
    + [(r"/comma/(.*)", "/c,{1},d", 301, "pattern"), (r"/sl(.*)", "/{1}", 302, "pattern")]
    + [
        (r"/away/(\d{2,3})", "https://else.test/{1}?a=1", 301, "pattern"),
        ('/quo"te/(.*)', "/quote/{1}", 301, "pattern"),
    ]
    + [(r"/old-end/.*", "", 410, "pattern"), ("/page", "/pages", 301, "prefix"), ("/Pages/", "/leaves/", 308, "prefix")]
)


def made_map(pairs: int, seed: int) -> RedirectMap:
    """``pairs`` exact lines and 30 rules, the same for the same seed."""
    draw = random.Random(seed)
    lines = {}
    while len(lines) < pairs:
        parts = ["".join(draw.choices(_BITS, k=draw.randint(1, 4))) for _ in range(draw.randint(1, 4))]
        old = "/" + "/".join(parts)
        if draw.random() < 0.3:
            old += "?" + "&".join(f"{draw.choice(_BITS)}{n}={draw.choice(_BITS)}" for n in range(draw.randint(1, 6)))
        if draw.random() < 0.01:
            old += "x" * 800
        if draw.random() < 0.1:
            old += "/"
        status = draw.choice((301, 301, 301, 301, 302, 307, 308, 410))
        new = (
            ""
            if status == 410
            else f"/new/{len(lines)}" + draw.choice(("", "/", "?a=1&b=%C3%A9", "#part", " ü", "%2F", "'(x),!"))
        )
        try:
            line = neutral(old, new, status, "exact")
        except FerryError:  # an address of another host: //x
            continue
        lines[line.old] = line
    return map_of([*lines.values(), *(neutral(*rule) for rule in _RULES)])  # type: ignore[arg-type]


def spellings_of(old: str) -> list[str]:
    """An address as others may send it: escapes in lower case, a parameter more, a slash more, another case."""
    path, mark, query = old.partition("?")
    lower = re.sub("%[0-9A-F]{2}", lambda m: m[0].lower(), old)
    return [
        lower,
        f"{old}&utm=1" if mark else f"{old}?utm=1",
        f"{path}/{mark}{query}",
        old.swapcase() if "%" not in old else old,
    ]


def ask(port: int, target: str) -> tuple[int, str, list[str]]:
    """What a server answers: its status, Location (without the host asked), the names of its headers."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
    return ask_on(connection, port, target)


def ask_on(connection: http.client.HTTPConnection, port: int, target: str) -> tuple[int, str, list[str]]:
    """The same, on a connection that stays."""
    connection.putrequest("GET", target, skip_host=False)
    connection.endheaders()
    answer = connection.getresponse()
    answer.read()
    location = answer.getheader("Location") or ""
    return answer.status, location.removeprefix(f"http://127.0.0.1:{port}"), [name for name, _ in answer.getheaders()]
