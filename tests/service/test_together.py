"""What the jobs of a transaction put off: written in their order, and forgotten with the job that failed."""

from __future__ import annotations

from contextlib import suppress

import pytest

from harquel.service.records import together


class Kept:
    """Puts off what it is told within a transaction."""

    def __init__(self) -> None:
        self.told: list[list[str]] = []
        self.off: list[str] | None = None

    def put(self, what: str) -> None:
        if self.off is None:
            self.told.append([what])
        else:
            self.off.append(what)

    def begin(self) -> None:
        self.off = []

    def mark(self) -> object:
        return len(self.off or [])

    def back_to(self, mark: object) -> None:
        assert isinstance(mark, int)
        if self.off is not None:
            del self.off[mark:]

    def write(self) -> None:
        if self.off:
            self.told.append(self.off)
            if "fails" in self.off:
                raise OSError("no space")

    def end(self) -> None:
        self.off = None


@pytest.fixture
def kinds(monkeypatch: pytest.MonkeyPatch) -> tuple[Kept, Kept]:
    """Two kinds and no others."""
    monkeypatch.setattr(together, "_known", [])
    made = Kept(), Kept()
    for kind in made:
        together.also(kind)
    return made


def test_what_is_put_off_is_written_together_and_outside_at_once(kinds: tuple[Kept, Kept]) -> None:
    one, other = kinds
    one.put("before")
    with together.gathering():
        for number in range(3):
            one.put(f"entry {number}")
        other.put("mark")
        assert one.told == [["before"]]
    one.put("after")
    assert one.told == [["before"], ["entry 0", "entry 1", "entry 2"], ["after"]]
    assert other.told == [["mark"]]


def failing(of: Kept, *words: str) -> None:
    """Puts off what it is told and fails."""
    for word in words:
        of.put(word)
    raise ZeroDivisionError


def test_a_job_that_fails_takes_its_own_along_and_nothing_else(kinds: tuple[Kept, Kept]) -> None:
    one, other = kinds
    with together.gathering():
        one.put("of the first")
        with suppress(ZeroDivisionError), together.undone_with_it():
            other.put("of the second, too")
            failing(one, "of the second")
        with together.undone_with_it():
            one.put("of the third")
    assert (one.told, other.told) == ([["of the first", "of the third"]], [])


def test_nothing_is_left_of_a_transaction_that_failed(kinds: tuple[Kept, Kept]) -> None:
    one, other = kinds
    with pytest.raises(ZeroDivisionError), together.gathering():
        failing(one, "lost")
    # A kind that cannot write keeps what comes after it from being written as well, and is told of.
    with pytest.raises(OSError, match="no space"), together.gathering():
        one.put("fails")
    with together.gathering():
        one.put("new")
    assert (one.told, other.told) == ([["fails"], ["new"]], [])
