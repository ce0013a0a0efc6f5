"""Where the service is and who asks: values as they are given, errors as exits, tables where there is little room."""

from __future__ import annotations

import io
import json
from collections.abc import Iterator
from typing import Any

import pytest
import typer
from rich.console import Console
from rich.text import Text

from harquel.cli import exits
from harquel.cli.connection import connected, fail, given_values
from harquel.cli.output import ask_for_json, tell
from harquel.cli.tables import NARROW, FittingTable
from harquel.client import Busy, Forbidden, HarquelError, Invalid, NotFound, TokenRefused, Unreachable
from harquel.contract import Problem

PROBLEM = Problem(type="/problems/x", title="It is so.", status=422, hint="Do that.")


@pytest.fixture(autouse=True)
def _as_text() -> Iterator[None]:
    ask_for_json(False)
    yield
    ask_for_json(False)


@pytest.mark.parametrize(("given", "found"), [
    (None, {}), ([], {}), (["level=3"], {"level": 3}), (["level=-3", "name=a=b"], {"level": -3, "name": "a=b"}),
    (["island=Marrow", "island=Ember", "island=7"], {"island": ["Marrow", "Ember", 7]}), (["x="], {"x": ""}),
    # What only looks like a whole number is a text.
    (["a=--5", "b=²", "c=٣", "d=1e3", "e=0x1", "f=9999999999999999999"],
     {"a": "--5", "b": "²", "c": "٣", "d": "1e3", "e": "0x1", "f": "9999999999999999999"}),
])  # fmt: skip
def test_values_are_figures_texts_and_lists(given: list[str] | None, found: dict[str, Any]) -> None:
    assert given_values(given) == found


@pytest.mark.parametrize("wrong", ["level", "=3", ""])
def test_what_is_no_value_is_said(wrong: str) -> None:
    with pytest.raises(typer.BadParameter, match="must be written NAME=VALUE"):
        given_values([wrong])


@pytest.mark.parametrize(("error", "code"), [
    (Unreachable("Nobody."), exits.UNREACHABLE), (TokenRefused("Who?"), exits.UNREACHABLE),
    (Forbidden("No."), exits.UNREACHABLE), (NotFound("Where?"), exits.USAGE), (Invalid("What?"), exits.USAGE),
    (Busy("Later."), exits.USAGE), (HarquelError("Broken."), exits.USAGE),
])  # fmt: skip
def test_each_error_has_its_exit(error: HarquelError, code: int, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(typer.Exit) as ended, connected("http://harquel.example", "a token"):
        raise error
    assert ended.value.exit_code == code
    assert capsys.readouterr().err.strip() == str(error)


def test_without_a_token_nobody_is_asked(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(typer.Exit) as ended, connected("http://harquel.example", ""):
        raise AssertionError
    assert ended.value.exit_code == exits.UNREACHABLE
    assert "harquel token create --local" in capsys.readouterr().err


def test_where_json_is_wanted_errors_are_json_on_standard_output(capsys: pytest.CaptureFixture[str]) -> None:
    ask_for_json(True)
    for error, title in ((Invalid("It is so.", "Do that.", PROBLEM), "It is so."), (Unreachable("Nobody."), "Nobody.")):
        with pytest.raises(typer.Exit):
            fail(error)
        said = capsys.readouterr()
        assert (json.loads(said.out)["error"]["title"], said.err) == (title, "")
    tell(PROBLEM, "in words")
    assert json.loads(capsys.readouterr().out)["hint"] == "Do that."
    ask_for_json(False)
    tell(PROBLEM, "in words")
    assert capsys.readouterr().out == "in words\n"


def shown(width: int, *rows: tuple[str, str]) -> list[str]:
    table = FittingTable()
    for head in ("name", "what it means"):
        table.add_column(head)
    for row in rows:
        table.add_row(*map(Text, row))
    out = io.StringIO()
    Console(file=out, width=width).print(table)
    return [line.rstrip() for line in out.getvalue().splitlines()]


def test_a_table_becomes_blocks_where_there_is_no_room_for_columns() -> None:
    rows = (("status", "where it stands"), ("built", "in which year [it] was"))
    wide = shown(NARROW, *rows)
    assert wide[0].split() == ["name", "what", "it", "means"]
    assert len(wide) == 4
    assert shown(NARROW - 1, *rows) == [
        "name           status", "what it means  where it stands", "",
        "name           built", "what it means  in which year [it] was",
    ]  # fmt: skip
    assert shown(20) == []
