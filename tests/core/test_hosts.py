"""No host of the old or the new site stands in a redirect map; others are kept on purpose, and named."""

from __future__ import annotations

from pathlib import Path

import pytest

from grandferry.core.errors import PlanError
from grandferry.core.route.pasted import read_lines
from grandferry.core.route.redirects import map_of, without_host
from grandferry.ports.planfolder import read_plan
from grandferry.ports.servers import SERVERS

OURS = frozenset({"old.test", "www.old.test", "interim.test:8080", "www.new.test"})


@pytest.mark.parametrize(
    ("new", "kept"),
    [
        ("http://interim.test:8080/a/b?c=d#e", "/a/b?c=d#e"),
        ("https://WWW.New.test", "/"),
        ("http://old.test?x=1", "/?x=1"),
        ("http://interim.test/a", "http://interim.test/a"),
        ("https://shop.new.test/a", "https://shop.new.test/a"),
        ("/a?to=http://old.test/b", "/a?to=http://old.test/b"),
        ("", ""),
    ],
)
def test_a_host_of_ours_stands_in_no_target(new: str, kept: str) -> None:
    assert without_host(new, OURS) == kept


def test_pasted_lines_lose_our_hosts_and_refuse_an_old_address_of_another() -> None:
    text = """http://www.old.test/a.htm\thttp://interim.test:8080/new/a
    /b.htm\thttps://elsewhere.test/b
    http://shop.old.test/c.htm\t/c
    /d.htm\t/d"""
    found = list(read_lines(text, OURS))
    assert [(line.pair.old, line.pair.new) for line in found if line.pair] == [
        ("/a.htm", "/new/a"),
        ("/b.htm", "https://elsewhere.test/b"),
        ("/d.htm", "/d"),
    ]
    assert [line.cut for line in found] == [True, False, False, False]
    assert "shop.old.test, not of the old site" in found[2].refusal


def test_a_plan_and_its_pairs_hold_no_host_of_ours(tmp_path: Path) -> None:
    (tmp_path / "plan.yaml").write_text(
        "format: 1\nname: Farm\nold: {start: 'http://old.test/', aliases: [farm.test]}\n"
        "interim: http://interim.test:8080\nfinal: https://www.new.test\nroute:\n  rules:\n"
        "    - {old: /a, new: 'http://interim.test:8080/x'}\n    - {old: '/b/(.+)', match: pattern, new: "
        "'https://new.test/y/{1}'}\n    - {old: /c, new: 'https://elsewhere.test/z'}\n",
        "utf-8",
    )
    (tmp_path / "pairs.csv").write_text("old,new\nhttp://www.farm.test/p,https://www.new.test/q\n", "utf-8")
    content = read_plan(tmp_path)
    assert [rule.new for rule in content.plan.route.rules] == ["/x", "/y/{1}", "https://elsewhere.test/z"]
    assert [(pair.old, pair.new) for pair in content.pairs] == [("/p", "/q")]
    table = map_of([*content.plan.route.lines, *(pair.redirect for pair in content.pairs)])
    text = SERVERS["nginx"].write(table)["redirects.http.conf"].decode()
    assert "other hosts on purpose: elsewhere.test (1)" in text and "interim" not in text and "new.test" not in text
    assert SERVERS["nginx"].read(SERVERS["nginx"].write(table)).redirects == table.redirects
    (tmp_path / "pairs.csv").write_text("old,new\n/p,/q\nhttp://other.test/r,/s\n", "utf-8")
    with pytest.raises(PlanError, match=r"pairs.csv.*line 3.*address of other.test|other.test"):
        read_plan(tmp_path)
