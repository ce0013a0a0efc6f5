"""Numbers in what is said: how many of the first are wanted, or what somebody takes for the answer."""

from __future__ import annotations

from harquel.core.language.telling import number_of
from harquel.core.reading.following.said import WORDS, Changing, NoChange, Said
from harquel.core.reading.value import Reading


def of_number(changing: Changing, said: Said) -> None:
    """Takes "top ten" after a question about the top five. Raises NoChange where another number could be meant."""
    top = changing.reading.top
    asked = {word.casefold() for word in WORDS.findall(changing.question)}
    chosen = said.again | said.spoken.only_first
    left = [n for n in said.left if not said.light(n) or said.words[n].low in chosen]
    numbers = [n for n in left if number_of(said.words[n].low, said.spoken.code) is not None]
    first = asked | said.spoken.only_first
    beside = [n for n in left if n not in numbers and said.words[n].low in first]
    if top is None or len(numbers) != 1 or not beside or len(beside) + 1 != len(left):
        return
    old = [w for w in WORDS.findall(changing.question) if number_of(w.casefold(), said.spoken.code) == top]
    many = number_of(said.words[numbers[0]].low, said.spoken.code)
    if len(old) != 1 or not many:
        raise NoChange
    new = said.words[numbers[0]].text
    changing.put(old[0], new)
    changing.change(top=many, words=changing.reading.words.replace(old[0], new))
    for place in left:
        said.take(range(place, place + 1))


def claimed_in(said: Said, reading: Reading) -> tuple[str, ...]:
    """Takes a number that stands by itself: "so 214?" asks the question again, whatever was answered.

    None where the answer is not one figure that it could be held against, or where the question holds a number that
    another one could take the place of.
    """
    given = reading.given()
    if len(given.figures) != 1 or given.per:
        return ()
    values = [str(value) for condition in reading.conditions() for value in condition.values]
    if reading.top is not None or any(value.isdigit() for value in values):
        return ()
    runs = said.runs()
    claimed = [run for run in runs if len(run) == 1 and said.words[run.start].low.isdigit() and not _placed(said, run)]
    if len(claimed) != 1 or len(runs) != 1:
        return ()
    for run in claimed:
        said.take(run)
    return tuple(said.words[run.start].text for run in claimed)


def _placed(said: Said, run: range) -> bool:
    """Whether a word before it says what it belongs to: "for 7" is no figure that somebody takes for the answer."""
    before = said.words[run.start - 1].low if run.start else ""
    return before in said.spoken.directions | said.spoken.places | said.named
