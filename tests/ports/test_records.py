"""Records out of feeds, export files of blogs, JSON lines and tables: all kinds and states, in any character set, of
any size, and what a broken file still gives."""

from __future__ import annotations

import csv
import gzip
import io
import json
import resource
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from openpyxl import Workbook
from typer.testing import CliRunner

from grandferry.cli.main import make_app
from grandferry.core.errors import FerryError
from grandferry.core.records.record import Record, Wanted, count
from grandferry.ports.sources.feeds import DamagedFile, moment, records_of
from grandferry.work.records.read import read_records, write_records

HEAD = """<?xml version="1.0" encoding="{charset}"?>
<rss version="2.0" xmlns:b="http://made.up/export/1.2/" xmlns:content="http://purl.org/rss/1.0/modules/content/"
 xmlns:excerpt="http://made.up/export/1.2/excerpt/" xmlns:dc="http://purl.org/dc/elements/1.1/">
<channel><title>Quillmere</title>
<b:author><b:author_login>ada</b:author_login><b:author_display_name>Ada Quill</b:author_display_name></b:author>
"""
ITEM = """<item><title>{title}</title><link>http://a.test/{n}</link><pubDate>Mon, 03 May 2021 10:00:00 +0200</pubDate>
<dc:creator>ada</dc:creator><category domain="post_tag"><![CDATA[Steam & coal]]></category><category domain="category">News</category>
<content:encoded><![CDATA[<p>Text {n} & <b>more</b></p>{more}]]></content:encoded><excerpt:encoded><![CDATA[In short {n}]]></excerpt:encoded>
<b:post_date>2021-05-{day:02d} 10:00:00</b:post_date><b:post_date_gmt>{gmt}</b:post_date_gmt>
<b:status>{state}</b:status><b:post_type>{kind}</b:post_type>
<b:postmeta><b:meta_key>mood</b:meta_key><b:meta_value>fair</b:meta_value></b:postmeta>{rest}</item>
"""
COMMENT = """<b:comment><b:comment_author>Tom</b:comment_author><b:comment_date_gmt>2021-06-01 08:00:00</b:comment_date_gmt>
<b:comment_approved>1</b:comment_approved><b:comment_content>Fine!</b:comment_content></b:comment>"""


def item(n: int, kind: str = "post", state: str = "publish", **more: Any) -> str:
    gmt = "0000-00-00 00:00:00" if state == "draft" else f"2021-05-{n % 28 + 1:02d} 08:00:00"
    given = {"title": f"Title {n}", "more": "", "rest": "", "gmt": gmt, "day": n % 28 + 1} | more
    return ITEM.format(n=n, kind=kind, state=state, **given)


def export(*items: str, charset: str = "UTF-8", end: str = "</channel></rss>") -> bytes:
    return (HEAD.format(charset=charset) + "".join(items) + end).encode(charset, "xmlcharrefreplace")


def read(body: bytes) -> list[Record]:
    return list(records_of(io.BytesIO(body)))


def test_eleven_articles_four_pages_and_three_drafts_are_eighteen_records() -> None:
    items = [item(n) for n in range(11)] + [item(20 + n, "page") for n in range(4)]
    items += [item(30 + n, "post", "draft") for n in range(3)]
    found = count(read(export(*items)))
    assert found.records == 18
    assert found.kinds == {"post": {"publish": 11, "draft": 3}, "page": {"publish": 4}}
    assert (found.first, found.last) == ("2021-05-01", "2021-05-24") and found.authors == {"Ada Quill": 18}


def test_a_kind_nobody_has_heard_of_is_listed_and_kept() -> None:
    found = count(read(export(item(1), item(2, "locomotive_log"), item(3, "locomotive_log", "in-shed"))))
    assert found.kinds["locomotive_log"] == {"publish": 1, "in-shed": 1}


def test_everything_that_a_record_says() -> None:
    (one,) = read(export(item(4, rest=COMMENT + "<b:attachment_url>http://a.test/x.jpg</b:attachment_url>")))
    assert (one.title, one.address, one.author) == ("Title 4", "http://a.test/4", "Ada Quill")
    assert one.content == "<p>Text 4 & <b>more</b></p>" and one.summary == "In short 4"
    assert one.published == "2021-05-05T08:00:00" and one.terms == {"post_tag": ["Steam & coal"], "category": ["News"]}
    assert one.fields == {"mood": "fair"} and one.files == ["http://a.test/x.jpg"]
    (said,) = one.comments
    assert (said.author, said.at, said.state, said.text) == ("Tom", "2021-06-01T08:00:00", "approved", "Fine!")
    (draft,) = read(export(item(4, state="draft")))
    assert draft.published == "2021-05-05T10:00:00", "of a draft the moment it was written"


@pytest.mark.parametrize("charset", ["UTF-8", "ISO-8859-1", "UTF-16", "windows-1252"])
def test_any_character_set(charset: str) -> None:
    (one,) = read(export(item(1, title="Café Trên ŵ", more="façade"), charset=charset))
    assert one.title == "Café Trên ŵ" and ("façade" in one.content or "fa&#" in one.content)


def test_feeds_of_all_sorts() -> None:
    rss = b"""<rss version="0.91"><channel><item><title>One</title><link>http://a.test/1</link><description>&lt;p&gt;x&lt;/p&gt;
</description><enclosure url="http://a.test/a.mp3" type="audio/mpeg"/></item></channel></rss>"""
    rdf = b"""<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#" xmlns="http://purl.org/rss/1.0/"
 xmlns:dc="http://purl.org/dc/elements/1.1/"><channel><title>c</title></channel><item rdf:about="http://a.test/2"><title>Two</title>
<link>http://a.test/2</link><dc:date>2020-02-03T04:05:06Z</dc:date><dc:creator>Tom</dc:creator></item></rdf:RDF>"""
    atom = b"""<feed xmlns="http://www.w3.org/2005/Atom"><entry><title>Three</title><id>urn:x:3</id>
<link rel="self" href="http://a.test/feed"/><link href="http://a.test/3"/><link rel="enclosure" href="http://a.test/3.pdf"/>
<published>2021-01-02T03:04:05+01:00</published><updated>2021-02-02T03:04:05Z</updated><author><name>Petra</name></author>
<category term="steam" label="Steam"/><summary>short</summary>
<content type="xhtml"><div xmlns="http://www.w3.org/1999/xhtml"><p>Long <em>text</em></p></div></content></entry>
<entry><title>Four</title><id>http://a.test/4</id><content type="text">a &lt; b</content></entry></feed>"""
    (one,), (two,), (three, four) = read(rss), read(rdf), read(atom)
    assert (one.address, one.content, one.files) == ("http://a.test/1", "<p>x</p>", ["http://a.test/a.mp3"])
    assert (two.published, two.author) == ("2020-02-03T04:05:06+00:00", "Tom")
    assert (three.address, three.author, three.summary) == ("http://a.test/3", "Petra", "short")
    assert three.content == "<p>Long <em>text</em></p>" and three.files == ["http://a.test/3.pdf"]
    assert three.modified == "2021-02-02T03:04:05+00:00" and list(three.terms.values()) == [["Steam"]]
    assert (four.address, four.content) == ("http://a.test/4", "a &lt; b")


def test_a_file_that_breaks_off_gives_what_stands_before() -> None:
    whole = export(*(item(n) for n in range(5)))
    found: list[Record] = []
    with pytest.raises(DamagedFile, match=r"damaged at line \d"):
        for one in records_of(io.BytesIO(whole[: whole.rindex(b"<item>") + 60])):
            found.append(one)
    assert [one.address for one in found] == [f"http://a.test/{n}" for n in range(4)]


def test_a_record_with_a_sign_that_xml_forbids_is_read_all_the_same() -> None:
    found = read(export(item(1, more="a\x0bb &nbsp;"), item(2)))
    assert [one.address for one in found] == ["http://a.test/1", "http://a.test/2"]


@pytest.mark.parametrize("body", [b"<html><body>no</body></html>", b"<x/>", b"<", b"<rss"])
def test_what_is_no_feed_is_told(body: bytes) -> None:
    with pytest.raises(FerryError, match="no feed and no export file|damaged"):
        read(body)


def test_no_entity_is_spelled_out_and_nothing_is_looked_up(tmp_path: Path) -> None:
    secret = tmp_path / "secret"
    secret.write_text("whispered")
    head = f"""<!DOCTYPE rss [<!ENTITY a "ha"><!ENTITY b "{"&a;" * 50}"><!ENTITY c "{"&b;" * 50}"><!ENTITY d "{"&c;" * 50}">
<!ENTITY e "{"&d;" * 50}"><!ENTITY f SYSTEM "file://{secret}">]>"""
    body = f"{head}<rss><channel><item><title>t</title><link>http://a.test/1</link><description>&e;&f;</description></item></channel></rss>"
    try:
        assert all(len(one.content) < 100 for one in read(body.encode()))
    except DamagedFile as problem:
        assert "ntity" in str(problem)
    (one,) = read(body.replace("&e;", "").encode())
    assert "whispered" not in one.content


class Endless(io.RawIOBase):
    """An export file of some hundred megabytes that is never there as a whole."""

    def __init__(self, records: int, size: int):
        self._parts = self._made(records, size)
        self._left = b""

    def _made(self, records: int, size: int) -> Iterator[bytes]:
        yield export(end="")
        for n in range(records):
            yield item(n, more="<p>words and words</p>" * (size // 22)).encode()
        yield b"</channel></rss>"

    def readable(self) -> bool:
        return True

    def read(self, size: int = -1) -> bytes:
        while len(self._left) < size and (more := next(self._parts, None)) is not None:
            self._left += more
        made, self._left = self._left[:size], self._left[size:]
        return made


def test_three_hundred_megabytes_are_read_in_the_memory_of_a_record() -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    found = count(records_of(Endless(600, 500_000)))  # type: ignore[arg-type]
    assert found.records == 600
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 100_000, "kilobytes"


@pytest.mark.parametrize(
    ("written", "read_as"),
    [
        ("Mon, 03 May 2021 10:00:00 +0200", "2021-05-03T10:00:00+02:00"),
        ("Mon, 03 May 2021 10:00:00 GMT", "2021-05-03T10:00:00+00:00"),
        ("2021-05-03 10:00:00", "2021-05-03T10:00:00"),
        ("2021-05-03T10:00:00Z", "2021-05-03T10:00:00+00:00"),
        ("0000-00-00 00:00:00", ""),
        ("soon", ""),
        ("", ""),
    ],
)
def test_moments(written: str, read_as: str) -> None:
    assert moment(written) == read_as


ROWS = [["Old URL", "Title", "Price £", "Status"], ["/mug", "Mug", "3.50", "draft"], ["/bell", "Bell; brass", "12", ""]]


def test_tables_and_json_lines_give_the_same_records(tmp_path: Path) -> None:
    with (tmp_path / "t.csv").open("w", encoding="cp1252", newline="") as out:
        csv.writer(out, delimiter=";").writerows(ROWS)
    book = Workbook()
    for row in ROWS:
        book.active.append(row)  # type: ignore[union-attr]
    book.save(tmp_path / "t.xlsx")
    lines = [json.dumps(dict(zip(ROWS[0], row, strict=True))) for row in ROWS[1:]]
    (tmp_path / "t.jsonl").write_text("\ufeff" + "\n\n".join(lines), "utf-8")
    found = {name: list(read_records(tmp_path / name, {"Price £": "price"})) for name in ("t.csv", "t.xlsx", "t.jsonl")}
    for records in found.values():
        assert [(one.address, one.title, one.state, one.fields) for one in records] == [
            ("/mug", "Mug", "draft", {"price": "3.50"}),
            ("/bell", "Bell; brass", "published", {"price": "12"}),
        ]


@pytest.mark.parametrize(
    ("name", "text", "reason"),
    [
        ("a.csv", "Address,Title\n/a,A\n", "no column “Price”"),
        ("a.jsonl", '{"title": "A"}\n', "no column “Price”"),
        ("a.jsonl", '{"Price": 1}\n{"Price": ', "Line 2 of a.jsonl is no JSON"),
        ("a.jsonl", '{"Price": 1}\n[1]\n', "Line 2 of a.jsonl is no object"),
        ("a.json", '[{"Price": 1}]', "not JSON lines"),
        ("a.csv", "", "is empty"),
    ],
)
def test_a_table_that_cannot_be_read_is_told(tmp_path: Path, name: str, text: str, reason: str) -> None:
    (tmp_path / name).write_text(text, "utf-8")
    with pytest.raises(FerryError, match=reason):
        list(read_records(tmp_path / name, {"Price": "price"}))


def test_a_packed_export_is_read_and_a_packed_table_is_told(tmp_path: Path) -> None:
    (tmp_path / "x.xml.gz").write_bytes(gzip.compress(export(item(1), item(2))))
    assert [one.address for one in read_records(tmp_path / "x.xml.gz")] == ["http://a.test/1", "http://a.test/2"]
    (tmp_path / "t.csv.gz").write_bytes(gzip.compress(b"Address,Title\n/a,A\n"))
    with pytest.raises(FerryError, match="is packed"):
        list(read_records(tmp_path / "t.csv.gz"))
    (tmp_path / "cut.gz").write_bytes(gzip.compress(export(*map(item, range(50))))[:300])
    with pytest.raises(FerryError, match="cannot be read"):
        list(read_records(tmp_path / "cut.gz"))


def test_records_are_filtered_counted_and_written(tmp_path: Path) -> None:
    (tmp_path / "x.xml").write_bytes(
        export(*(item(n, ("post", "page")[n % 2]) for n in range(12)), item(40, state="draft"))
    )
    wanted = Wanted(kinds=["post"], states=["publish"], since="2021-05-03", until="2021-05-07")
    for name in ("o.jsonl", "o.csv", "o.xlsx"):
        found, damaged = write_records(tmp_path / "x.xml", wanted, tmp_path / name)
        assert (found.records, found.first, found.last, damaged) == (3, "2021-05-03", "2021-05-07", "")
    rows = [json.loads(line) for line in (tmp_path / "o.jsonl").read_text("utf-8").splitlines()]
    assert [row["address"] for row in rows] == [f"http://a.test/{n}" for n in (2, 4, 6)]
    with (tmp_path / "o.csv").open(encoding="utf-8-sig", newline="") as file:
        table = list(csv.DictReader(file))
    assert table[0]["terms: post_tag"] == "Steam & coal" and table[0]["field: mood"] == "fair"


def test_the_command_tells_what_a_file_holds(tmp_path: Path) -> None:
    path = tmp_path / "x.xml"
    path.write_bytes(export(*(item(n) for n in range(3)), item(9, "page", rest=COMMENT)))
    run = CliRunner().invoke(make_app("records"), ["records", str(path), "--json"])
    assert run.exit_code == 0
    told = json.loads(run.stdout)
    assert told["kinds"] == {"post": {"publish": 3}, "page": {"publish": 1}} and told["comments"] == 1
    path.write_bytes(path.read_bytes()[:-60])
    run = CliRunner().invoke(make_app("records"), ["records", str(path), "--out", str(tmp_path / "o.jsonl")])
    assert run.exit_code == 1 and "damaged at line" in run.output
    assert len((tmp_path / "o.jsonl").read_text("utf-8").splitlines()) >= 3, "what could be read is written"
    run = CliRunner().invoke(make_app("records"), ["records", str(path), "--since", "May"])
    assert run.exit_code == 2 and "is no day" in run.output
