"""What is not ours reaches a terminal as signs that can be seen, never as something that it carries out."""

from __future__ import annotations

import io
import json

import pytest
from rich.console import Console
from rich.table import Table
from rich.text import Text

from harquel.cli import leaf as leaves
from harquel.cli.layers import layers
from harquel.cli.output import Plainly, print_json, visible
from harquel.contract import Inquiry
from harquel.testing.sources import NOW

HOSTILE = "a\x1b]0;owned\x07b\x1b[2Jc\x9b31md\u202ee\u2066f\x08g\rh\u200bi"
DANGEROUS = set("\x1b\x07\x9b\u202e\u2066\x08\r\u200b")


def test_every_sign_is_made_visible_and_the_rest_stays() -> None:
    said = visible(HOSTILE + "\tline\nnext ä 漢 👍")
    assert not DANGEROUS & set(said)
    assert "␛]0;owned␇b␛[2Jc‹U+009B›31md‹U+202E›e" in said
    assert said.endswith("\tline\nnext ä 漢 👍")


def test_a_whole_inquiry_made_of_it_is_harmless(monkeypatch: pytest.MonkeyPatch) -> None:
    inquiry = Inquiry.model_validate(
        {
            "id": "x", "state": "ended", "outcome": "answered", "trust": "caution", "source": HOSTILE,
            "question": HOSTILE, "asked_by": HOSTILE, "asked_at": NOW.isoformat(),
            "answer": {
                "text": HOSTILE, "sql": f"SELECT '{HOSTILE}'", "explanation": HOSTILE, "read_back": HOSTILE,
                "caveats": [{"rule": "a", "message": HOSTILE}],
                "table": {"columns": [{"name": HOSTILE, "type": "text"}], "rows": [[HOSTILE]], "row_count": 1},
            },
        }
    )  # fmt: skip
    out = io.StringIO()
    shown = leaves.console()
    monkeypatch.setattr(shown, "file", out)
    shown.print(layers(inquiry, [], with_grounds=True, with_trail=True, question=True))
    text = out.getvalue()
    assert "owned" in text
    assert not DANGEROUS & set(text)


def test_styles_of_our_own_still_reach_a_terminal() -> None:
    out = io.StringIO()
    shown = Console(file=out, force_terminal=True, color_system="standard", width=60)
    shown.push_render_hook(Plainly())
    table = Table("head")
    table.add_row(Text("\x1b[31mred", style="bold"))
    shown.print(table)
    assert "\x1b[1m" in out.getvalue()
    assert "\x1b[31m" not in out.getvalue()
    assert "␛[31mred" in out.getvalue()


def test_json_says_the_same_without_a_sign_that_would_not_be_seen(capsys: pytest.CaptureFixture[str]) -> None:
    print_json([HOSTILE + "\U000e0041ä"])
    said = capsys.readouterr().out
    assert not DANGEROUS & set(said)
    assert json.loads(said) == [HOSTILE + "\U000e0041ä"]
    assert "ä" in said
