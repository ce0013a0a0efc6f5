"""Two results against each other: order, names and rounding do not matter, everything else does."""

from __future__ import annotations

import random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from harquel.core.answers.agreement import agree, agreement, difference, places_of
from harquel.core.domain.result import Result


def result(*rows: list[Any]) -> Result:
    names = tuple(f"c{i}" for i in range(len(rows[0]) if rows else 1))
    return Result(names, ("text",) * len(names), list(rows), None, 0, 0.0)


SAME = [
    ([[1, "a"], [2, "b"]], [[2, "b"], [1, "a"]]),
    ([["a", 1]], [[1, "a"]]),
    ([["a", 12.3]], [["a", 12.3456]]),
    ([["a", 12.35], ["b", 12.34]], [["b", 12.3412], ["a", 12.3466]]),
    ([["12.50"]], [[12.5]]),
    ([["a"], ["b"]], [["a", 3], ["b", 4]]),
    ([[None]], [[None]]),
    ([], []),
    ([[True]], [[1]]),
    ([[3]], [[3.0]]),
    ([["2026-08-01", 0.1 + 0.2]], [["2026-08-01", 0.3]]),
    ([["2026-08-01", 1]], [["2026-08-01T00:00:00", 1]]),
    ([["2026-08-01 10:15:00"]], [["2026-08-01T10:15:00"]]),
    ([["2026-08-01", "a"], [None, "b"]], [[None, "b"], ["2026-08-01 10:15:00", "a"]]),
    ([["Ada Brinewell", 3]], [["Ada", "Brinewell", 3]]),
    ([["Brinewell, Ada"]], [["Ada", "Brinewell"]]),
    (
        [["Ada Brinewell", "Jo Marrow"], ["Lee Slate", None]],
        [["Ada", "Brinewell", "Jo", "Marrow"], ["Lee", "Slate", None, None]],
    ),
]
OTHER = [
    ([[34]], [[29]]),
    ([[3]], [[3.4]]),
    ([["a", 1], ["b", 2]], [["a", 2], ["b", 1]]),
    ([["a"]], [["a"], ["a"]]),
    ([["a"], ["a"], ["b"]], [["a"], ["b"], ["b"]]),
    ([[12.3]], [[12.4]]),
    ([[0]], [[None]]),
    ([], [[1]]),
    ([["a", 1]], [["a", 2]]),
    ([["a", 1, 5]], [["a", 2]]),
    ([["2026-08-01"], ["2026-08-02 10:00:00"]], [["2026-08-01 09:00:00"], ["2026-08-02 11:00:00"]]),
    ([["2026-08-01"], ["2026-08-02"]], [["2026-08-01 09:00:00"], ["later"]]),
    ([["Ada Brinewell"]], [["Ada", "Marrow"]]),
    ([["Ada", "Brinewell"]], [["Ada", None]]),
]


@pytest.mark.parametrize(("one", "other"), SAME)
def test_these_agree_either_way(one: list[list[Any]], other: list[list[Any]]) -> None:
    assert agree(result(*one), result(*other))
    assert agree(result(*other), result(*one))


@pytest.mark.parametrize(("one", "other"), OTHER)
def test_these_do_not(one: list[list[Any]], other: list[list[Any]]) -> None:
    assert not agree(result(*one), result(*other))
    assert not agree(result(*other), result(*one))


CELLS = st.one_of(
    st.none(), st.integers(-50, 50), st.sampled_from(["a", "b", "2026-01-01"]), st.floats(-9, 9, width=16)
)


@settings(max_examples=200, deadline=None)
@given(st.lists(st.tuples(CELLS, CELLS, CELLS), min_size=1, max_size=8), st.randoms(use_true_random=False))
def test_a_result_agrees_with_itself_in_any_order_of_rows_and_columns(
    rows: list[tuple[Any, ...]], chance: random.Random
) -> None:
    places = [0, 1, 2]
    chance.shuffle(places)
    turned = [[row[p] for p in places] for row in rows]
    chance.shuffle(turned)
    assert agree(result(*map(list, rows)), result(*turned))
    more = [*turned, turned[0]]
    assert not agree(result(*map(list, rows)), result(*more))


def test_what_differs_is_said_in_words() -> None:
    assert difference(result([34]), result([29])) == "29 instead of 34"
    assert difference(result([1], [2]), result([1])) == "one row instead of 2"
    assert difference(result([1], [2]), result([1], [3])) == "2 rows as well, with other values"
    assert difference(result([None]), result([1234.5])) == "1,234.5 instead of nothing"
    assert (
        difference(result(["a"]), result(["Say ”yes”\n" + "b" * 5_000_000]))
        == f"“Say 'yes' {'b' * 50}…” instead of “a”"
    )


def test_what_was_never_rounded_gives_no_slack() -> None:
    """A control's 4.0 is four, and no 3.97 that somebody rounded; the other way round it may be."""
    for one, other, exact, same in (
        ([3.97], [4.0], False, True), ([3.97], [4.0], True, False), ([4.0], [3.97], True, True),
        ([3.9], [3.94], True, True), ([3.9], [3.96], True, False), ([17.44], [17.4422188], True, True),
        # Nothing at all is no rounding of something.
        ([0.0], [0.02], True, False), ([0.02], [0.0], False, False), ([0.0], [0.0], True, True),
    ):  # fmt: skip
        assert (agreement(result(one), result(other), exact=exact) is not None) is same, (one, other, exact)
        wide = result([*one, "beside"]), result(other)
        assert (agreement(*wide, exact=exact) is not None) is same, (one, other, exact)
    # Beside other figures a small one may have been rounded away.
    assert agreement(result([2.5], [0.0]), result([2.5], [0.02]), exact=True)


def test_a_figure_that_only_the_first_shows_is_told() -> None:
    found = agreement(result(["a", 1, 7], ["b", 2, 9]), result(["a", 1], ["b", 2]))
    assert found is not None
    assert (found.whole, found.beside) == (False, True)
    named = agreement(result(["a", 1, "x"], ["b", 2, "y"]), result(["a", 1], ["b", 2]))
    assert named is not None
    assert (named.whole, named.beside) == (True, False)


def test_columns_are_found_by_what_they_hold() -> None:
    one = result([36395.2, "QH-SR"], [32305.3, "QH-GS"])
    assert places_of(one, result(["QH-GS", 32305.3], ["QH-SR", 36395.2])) == {0: 1, 1: 0}
    # What is left alone on both sides is the same in another form.
    assert places_of(one, result([7, 36395.2], [8, 32305.3])) == {1: 0}
    assert places_of(one, result(["Quillhaven", 36395.2], ["Gullspire", 32305.3])) == {0: 1, 1: 0}
    assert places_of(one, result([68700.5])) == {}
    # The same values in other rows are another figure: nobody leads by what somebody else has.
    turned = result(["a", 1, 3], ["b", 2, 1], ["c", 3, 2])
    assert places_of(turned, result(["a", 3, 1], ["b", 1, 2], ["c", 2, 3])) in ({}, {0: 0, 1: 2, 2: 1})


CELL = st.one_of(st.none(), st.integers(0, 3), st.sampled_from([0.5, 1.25, "a", "b", "2026-01-01"]))


@settings(max_examples=150, deadline=None)
@given(data=st.data(), rows=st.integers(0, 4), others=st.integers(0, 4))
def test_a_column_stands_for_one_only_and_for_no_figure_that_it_is_not(
    data: st.DataObject, rows: int, others: int
) -> None:
    one, other = (
        result(*data.draw(st.lists(st.lists(CELL, min_size=3, max_size=3), min_size=n, max_size=n)))
        for n in (rows, others)
    )
    found = places_of(one, other)
    assert len(set(found.values())) == len(found)
    for there, here in found.items():
        kinds = [
            sum(isinstance(row[place], int | float) for row in of.rows) for of, place in ((one, here), (other, there))
        ]
        assert kinds[0] == kinds[1]
