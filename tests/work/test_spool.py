"""Answers kept beside the database until they are written down."""

from __future__ import annotations

from pathlib import Path

from grandferry.core.side import Side
from grandferry.net.fetch import Fetched
from grandferry.work.survey.spool import KEPT_BACK, Spool


def answer(name: str, **more: object) -> Fetched:
    headers = {"content-type": "text/html", "set-cookie": "sid=a-key-to-somebody", "x-auth-token": "k3y"}
    return Fetched(f"http://old.test/{name}", 200, headers, name.encode() * 50, size=50, **more)  # type: ignore[arg-type]


def test_what_was_not_written_down_is_there_after_a_kill(tmp_path: Path) -> None:
    spool = Spool(tmp_path, Side(1), 1)
    first, second = spool.keep(answer("one")), spool.keep(answer("two"))
    assert first == second
    spool.done([first])
    spool.keep(answer("three", seconds=0.5))
    assert b"a-key-to-somebody" not in b"".join(path.read_bytes() for path in tmp_path.iterdir())
    again = Spool(tmp_path, Side(1), 1)  # the one before was killed: nothing was closed
    left = list(again.left())
    assert [got.url.rpartition("/")[2] for _, got in left] == ["one", "two", "three"]
    assert left[2][1].body == b"three" * 50 and left[2][1].seconds == 0.5
    assert left[0][1].header("set-cookie") == left[0][1].header("x-auth-token") == KEPT_BACK
    again.keep(answer("four"))
    again.done([number for number, _ in left])
    assert len(list(tmp_path.iterdir())) == 1, "what is written down is gone"
    again.close()
    assert not list(tmp_path.iterdir())


def test_a_record_cut_off_is_not_believed(tmp_path: Path) -> None:
    spool = Spool(tmp_path, Side(1), 1)
    spool.keep(answer("one"))
    spool.keep(answer("two"))
    (path,) = tmp_path.iterdir()
    whole = path.read_bytes()
    for length in (len(whole) - 1, len(whole) // 2 + 3, 5, 0):
        path.write_bytes(whole[:length])
        left = [got.url for _, got in Spool(tmp_path, Side(1), 1).left()]
        assert left == [f"http://old.test/{name}" for name in ("one",) if length > len(whole) // 2]
    path.write_bytes(b"\xff" * 200)
    assert list(Spool(tmp_path, Side(1), 1).left()) == []


def test_of_another_run_nothing_is_left_and_other_crossings_and_sides_are_let_be(tmp_path: Path) -> None:
    Spool(tmp_path, Side(1), 1).keep(answer("one"))
    Spool(tmp_path, Side(11), 1).keep(answer("other"))
    Spool(tmp_path, Side(1, "new"), 1).keep(answer("of the new side"))
    assert list(Spool(tmp_path, Side(1), 2).left()) == []
    assert sorted(path.name for path in tmp_path.iterdir()) == ["spool-1-new-1-1", "spool-11-old-1-1"]


def test_a_large_body_lies_beside_it(tmp_path: Path) -> None:
    body = tmp_path / "123-abc"
    body.write_bytes(b"x" * 10)
    spool = Spool(tmp_path, Side(1), 1)
    spool.keep(answer("large", path=body, hashed="77"))
    ((_, got),) = Spool(tmp_path, Side(1), 1).left()
    assert got.path == body and got.digest == "77"
    body.unlink()
    assert list(Spool(tmp_path, Side(1), 1).left()) == [], "without it the answer is asked for again"
