"""The steward's commands: what they print and how they end."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from harquel.client import Harquel
from harquel.client.describing import document, replace_document
from harquel.demo.servers import free_port
from harquel.demo.stage import Stage
from tests.forked import run_harquel


def run(stage: Stage, *arguments: str) -> tuple[int, str]:
    environment = {**os.environ, "HARQUEL_URL": stage.url, "HARQUEL_TOKEN": stage.token, "COLUMNS": "100"}
    done = run_harquel(*arguments, env=environment)
    assert "Traceback" not in done.stderr, done.stderr
    return done.returncode, done.stdout + done.stderr


def test_a_check_that_fails_ends_with_seven_and_says_what_to_do(stage: Stage) -> None:
    at = f"postgresql://reader@127.0.0.1:{free_port()}/booking"
    assert run(stage, "source", "connect", "away", "--at", at)[0] == 0
    code, said = run(stage, "source", "check", "away")
    assert (code, "Nobody listens" in said, "→ Check the port" in said) == (7, True, True)
    assert "away" in run(stage, "source", "list")[1]
    code, said = run(stage, "source", "scan", "away")
    assert (code, "does not answer" in said) == (7, True)
    code, said = run(stage, "source", "remove", "away", "--yes")
    assert (code, "stay" in said) == (0, True)


def test_a_password_on_the_command_line_is_refused(stage: Stage) -> None:
    code, said = run(stage, "source", "connect", "x", "--at", "postgresql://r@h/d", "--password", "open-word")
    assert (code, "open-word" in said) == (2, False)


@pytest.mark.parametrize(
    ("arguments", "wanted"),
    [
        (("source", "check", "ferries"), "18 tables and views are exposed"),
        (("source", "show", "ferries"), "version"),
        (("source", "account", "ferries"), "chmod"),
        (("catalog", "versions", "ferries"), "fingerprint"),
        (("catalog", "diff", "ferries"), "changes from version"),
        (("catalog", "coverage", "ferries"), "columns are described"),
        (("catalog", "notes", "export", "ferries"), "tables:"),
        (("catalog", "notes", "history", "ferries"), "notes.yaml"),
        (("catalog", "notes", "schema"), "default_filter"),
        (("policy", "export", "ferries"), "expose:"),
        (("policy", "history", "ferries"), "policy.yaml"),
        (("policy", "check", "ferries"), "All of it applies."),
        (("policy", "explain", "ferries"), "crew_member.name may be counted"),
        (("policy", "schema"), "Harquel policy"),
        (("example", "list", "ferries"), "load factor"),
        (("example", "check", "ferries"), "checked"),
        (("example", "export", "ferries", "--form", "jsonl"), '{"question"'),
        (("source", "scan", "ferries", "--stop"), "No scan is under way"),
        (("source", "rotate-key"), "passwords are encrypted"),
    ],
)
def test_each_command_says_what_it_should(arguments: tuple[str, ...], wanted: str, stage: Stage) -> None:
    code, said = run(stage, *arguments)
    assert (code, wanted in said) == (0, True), said


def test_notes_go_out_and_in_again_and_examples_too(stage: Stage, tmp_path: Path) -> None:
    notes, bank = tmp_path / "notes.yaml", tmp_path / "bank.yaml"
    assert run(stage, "catalog", "notes", "export", "rough", "--out", str(notes))[0] == 0
    assert "version" in run(stage, "catalog", "notes", "import", "rough", str(notes))[1]
    notes.write_text(notes.read_text().replace("fuel_log:", "feul_log:"))
    code, said = run(stage, "catalog", "notes", "import", "rough", str(notes))
    assert (code, "did you mean fuel_log?" in said) == (2, True)
    assert run(stage, "example", "export", "rough", "--out", str(bank))[0] == 0
    code, said = run(stage, "example", "import", "rough", str(bank))
    assert (code, "0 added, 0 changed" in said) == (0, True)
    code, said = run(stage, "example", "add", "rough", "--question", "Any ships?", "--sql", "SELECT x FROM vessel")
    assert (code, "is stale" in said) == (0, True)


def test_a_correction_is_kept_and_what_was_written_is_said(stage: Stage, client: Harquel) -> None:
    """Like the button on the leaf; one that corrects nothing is told how to make one that does."""
    before = client.send(document("ferries", "notes"))
    found = client.ask("How many bookings were made in August 2026?", "ferries")
    assert found.second_opinion is not None
    offer = next(o for o in found.second_opinion.instead if "scheduled departure" in o.label)
    corrected = client.choose(found.id, offer.id)
    try:
        code, said = run(stage, "inquiry", "keep", corrected.id)
        assert (code, "booking are dated by sailing.scheduled_departure." in " ".join(said.split())) == (
            0,
            True,
        )
        code, said = run(stage, "inquiry", "keep", found.id)
        assert (code, "Choose what was meant" in said) == (2, True)
    finally:
        client.send(replace_document("ferries", "notes", before.text, force=True))
