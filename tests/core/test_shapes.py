"""Open addresses by shape, folded over folders: the pattern of every fold fits exactly what is in it."""

from __future__ import annotations

from grandferry.core.address import shape
from grandferry.core.patterns import compile_pattern
from grandferry.core.route.shapes import Fold, Weight, folded, weights_of

KEYS = [
    *(f"/{lang}/images/{name}-{n}.png" for lang in ("en", "de", "fr", "ar") for name in ("a", "b") for n in range(5)),
    *(f"/{lang}/images/x{n}.gif" for lang in ("en", "de") for n in range(3)),
    *(f"/products/{n}/photo-{n}.png" for n in range(4)),
    *(f"/news/2019/0{n}/story-{n}.htm" for n in range(1, 9)),
    *(f"/team/{name}.htm" for name in ("ann", "bob")),
    *("/item.aspx?id=7", "/item.aspx?id=8", "/", "/about/"),
]


def every(folds: list[Fold]) -> list[Fold]:
    return [one for fold in folds for one in (fold, *every(list(fold.inner)))]


def test_equal_shapes_over_sibling_folders_are_one() -> None:
    folds = folded(weights_of((key, True, 1) for key in KEYS))
    by_shape = {one.shape: one for one in every(folds)}
    images = by_shape["/*/images/*.png"]
    assert (images.weight, images.folders) == (Weight(40, 40, 40), 4)
    assert {one.shape for one in images.inner} == {f"/{lang}/images/*.png" for lang in ("en", "de", "fr", "ar")}
    assert "/*/images/*.gif" not in by_shape, "two folders are not yet a pattern"
    assert sum(fold.weight.count for fold in folds) == len(KEYS), "each address stands once"


def test_files_of_one_ending_are_one_wherever_they_lie() -> None:
    keys = [*KEYS, *(f"/old/{n}/deep/{part}/y.png" for n in range(2) for part in ("k", "l"))]
    folds = folded(weights_of((key, True, 0) for key in keys))
    first = folds[0]
    assert first.shape == "/…/*.png" and first.weight.count == 40 + 4 + 4
    assert all(one.shape.endswith(".png") for one in every([first]))
    assert not any(fold.shape.startswith("/…") and "htm" in fold.shape for fold in folds), "pages are not files"


def test_a_pattern_fits_what_is_in_its_fold_and_nothing_else() -> None:
    keys = [*KEYS, *(f"/old/{n}/deep/{part}/y.png" for n in range(2) for part in ("k", "l"))]
    for fold in every(folded(weights_of((key, True, 0) for key in keys))):
        leaves = set(fold.leaves)
        mine = {key for key in keys if shape(key) in leaves}
        assert {key for key in keys if compile_pattern(fold.pattern).fullmatch(key)} == mine, fold.shape


def test_the_weightiest_comes_first_and_no_address_is_lost() -> None:
    rows = [("/a/1.htm", True, 0), ("/b/x.htm", True, 9), ("/c/y.htm", False, 50)]
    folds = folded(weights_of(rows))
    assert folds[0].weight.unaccounted >= folds[-1].weight.unaccounted
    assert sum(fold.weight.visits for fold in folds) == 59
