"""The command line as a person or a script meets it."""

from __future__ import annotations

import json
import os
import re
import signal
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.forked import Forked, run_harquel

QUESTION = "How many sailings were cancelled in August 2026?"
Run = Callable[..., subprocess.CompletedProcess[str]]


@pytest.fixture
def run(stage: Stage) -> Run:
    def call(
        *arguments: str, token: str = stage.token, said: str | None = None
    ) -> subprocess.CompletedProcess[str]:  # fmt: skip
        environment = {**os.environ, "HARQUEL_URL": stage.url, "HARQUEL_TOKEN": token, "COLUMNS": "100"}
        return run_harquel(*arguments, env=environment, said=said)

    return call


def test_an_answer_has_three_layers_in_a_hundred_columns(run: Run) -> None:
    short = run("ask", "-s", "ferries", QUESTION)
    assert len(short.stdout.strip().splitlines()) == 6
    said = " ".join(short.stdout.split())
    assert "Understood as: rows of sailing · sailing.status is cancelled · in August 2026 · counted" in said
    done = run("ask", "-s", "ferries", QUESTION, "--all")
    assert done.returncode == 0
    for part in (
        "12 sailings were cancelled in August 2026.",
        "● clear",
        "grounds",
        "SELECT COUNT(*)",
        "trail",
        "● briefing",
        "■ end",
    ):
        assert part in done.stdout
    assert max(map(len, done.stdout.splitlines())) <= 100


@pytest.mark.parametrize(
    ("question", "code"),
    [("Delete every booking", 5), ("What does the captain earn?", 6), ("", 2), ("x" * 20_000, 2)],
)
def test_exit_codes_tell_the_outcome(question: str, code: int, run: Run) -> None:
    done = run("ask", "-s", "ferries", question)
    assert done.returncode == code
    assert "Traceback" not in done.stderr


def test_a_question_that_is_asked_back_says_how_to_reply(run: Run) -> None:
    done = run("ask", "-s", "ferries", "How many were cancelled in August 2026?")
    assert done.returncode == 3
    assert "? we ask back" in done.stdout
    reply = re.search(r"harquel (ask --follows \w+ --choice) [\w-]+", done.stdout)
    assert reply is not None
    chosen = run(*reply.group(1).split(), "meant-2", "--brief")
    assert (chosen.returncode, chosen.stdout.strip()) == (0, "Sailings (cancelled) in August 2026: 12.")
    assert run("ask", "--choice", "sailing").returncode == 2


def test_a_second_opinion_that_differs_is_shown_with_its_rows(run: Run) -> None:
    done = run("ask", "-s", "pair", "Litres of fuel per vessel and month this year", "--all")
    said = " ".join(done.stdout.split())
    assert "▲ Our own query, built from the question as careful reads it, gives another result: 47 rows" in said
    second = done.stdout.split("second opinion ──")[1]
    told = " ".join(second.split())
    assert "from how careful reads the question, differs. 47 rows instead of 5. This answer stops after 5 rows" in told
    assert "Understood as: rows of fuel_log · in 2026 so far" in said
    assert "Brightwater   2026-01" in second
    assert re.search(r"▲ compared +47 rows", second)
    assert max(map(len, done.stdout.splitlines())) <= 100


def test_a_repair_is_shown_as_a_way_back(run: Run) -> None:
    done = run("ask", "-s", "rough", "On-time rate per vessel, worst first", "--trail")
    assert done.returncode == 0
    assert re.search(r"✕ guard: text +refuse", done.stdout)
    assert "↺ model" in done.stdout


def test_json_is_the_inquiry_and_nothing_else(run: Run) -> None:
    done = run("ask", "-s", "ferries", "--json", QUESTION)
    shown = json.loads(done.stdout)
    assert shown["answer"]["table"]["rows"] == [[12]]
    listed = json.loads(run("inquiry", "list", "--json").stdout)
    assert listed[0]["id"] == shown["id"]
    assert json.loads(run("inquiry", "show", shown["id"], "--json").stdout) == shown
    assert "● clear" in run("inquiry", "show", shown["id"]).stdout
    assert run("inquiry", "cancel", shown["id"]).returncode == 0
    again = run("inquiry", "again", shown["id"])
    assert (again.returncode, "The same as on 14 September 2026, 10:00." in " ".join(again.stdout.split())) == (0, True)


@pytest.mark.parametrize(
    ("sql", "code", "words"),
    [
        ("SELECT name FROM harbour", 0, "SELECT name FROM harbour LIMIT 1001"),
        ("DELETE FROM harbour", 5, "statement.reads-only"),
        ("SELECT nam FROM harbour", 5, "Nearest: name"),
    ],
)
def test_review(sql: str, code: int, words: str, run: Run) -> None:
    done = run("review", "-s", "ferries", sql)
    assert (done.returncode, words in done.stdout) == (code, True), done.stdout


def test_sources_catalog_tokens_and_ledger(run: Run) -> None:
    assert "Marrowick Ferries" in run("source", "list").stdout
    assert "Which five routes" in run("source", "show", "ferries").stdout
    assert "weather_reading" in run("catalog", "show", "ferries").stdout
    columns = run("catalog", "show", "ferries", "--table", "customer").stdout
    assert "joined_on" in columns
    assert "email" not in columns
    assert run("catalog", "show", "ferries", "--table", "none").returncode == 2
    made = json.loads(run("token", "create", "--name", "quay", "--person", "Bram Gannel", "--json").stdout)
    assert "Bram Gannel" in run("token", "list").stdout
    assert run("token", "revoke", str(made["id"])).returncode == 0
    assert run("source", "list", token=made["secret"]).returncode == 9
    verified = run("ledger", "verify").stdout
    anchor = re.search(r"\d+:[0-9a-f]{64}", verified)
    assert anchor is not None
    assert run("ledger", "verify", "--anchor", anchor.group()).returncode == 0
    assert run("ledger", "verify", "--anchor", "nonsense").returncode == 2


def test_without_a_service_or_a_token_it_says_what_to_do(run: Run) -> None:
    lost = run("source", "list", "--url", "http://127.0.0.1:9")
    assert (lost.returncode, "harquel serve" in lost.stderr) == (9, True)
    nobody = run("source", "list", token="")
    assert (nobody.returncode, "HARQUEL_TOKEN" in nobody.stderr) == (9, True)
    unknown = run("ask", "-s", "nowhere", "x")
    assert (unknown.returncode, "ferries" in unknown.stderr) == (2, True)


def test_a_token_is_made_locally_while_the_service_runs(run: Run, stage: Stage) -> None:
    config = str(stage.folder / "harquel.toml")
    done = run("token", "create", "--local", "-c", config, "--name", "n", "--person", "Edda Farlight", "--json")
    with Harquel(stage.url, json.loads(done.stdout)["secret"]) as client:
        assert client.me().person == "Edda Farlight"
    with Harquel(stage.url, stage.token) as client:
        assert client.verify_ledger().intact
    wrong = run("token", "create", "--local", "-c", config, "--name", "n", "--person", "p", "--scope", "king")
    assert (wrong.returncode, "Traceback" in wrong.stderr) == (2, False)


def test_ctrl_c_cancels_the_inquiry_and_keeps_it(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path / "slow", pace_s=10) as slow, Harquel(slow.url, slow.token) as client:
        environment = {**os.environ, "HARQUEL_URL": slow.url, "HARQUEL_TOKEN": slow.token}
        said = tmp_path / "said"
        process = Forked(["ask", "-s", "ferries", QUESTION], [os.devnull, str(said), str(said)], environment)
        while not client.inquiries().items:
            time.sleep(0.05)
        time.sleep(0.3)
        process.send_signal(signal.SIGINT)
        assert process.wait(timeout=60) == 130
        assert "Traceback" not in said.read_text("utf-8")
        (line,) = client.inquiries().items
        list(client.events(line.id))
        assert client.inquiry(line.id).outcome == "cancelled"
        assert client.verify_ledger().intact


def test_a_second_demo_on_the_same_address_says_so(stage: Stage, tmp_path: Path) -> None:
    command = [sys.executable, "-m", "harquel", "demo", "--folder", str(tmp_path), "--bind", stage.bind]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 2
    assert stage.bind in done.stderr
    assert "--bind" in done.stderr
    assert not list(tmp_path.iterdir())


def test_the_tour_ends_well() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "harquel", "tour"], capture_output=True, text=True, timeout=120, check=False
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.count("trail") == 8
    assert "↺ model" in done.stdout
    assert "The ledger of this tour holds" in done.stdout


def test_each_call_of_a_model_is_shown_whole(run: Run) -> None:
    asked = json.loads(run("ask", "-s", "ferries", QUESTION, "--json").stdout)
    told = json.loads(run("inquiry", "prompt", asked["id"], "--json").stdout)
    assert {(call["number"], call["duty"]) for call in told} == {(1, "draft"), (1, "reading")}
    for call in told:
        assert [m["role"] for m in call["messages"]] == ["system", "user"]
        assert QUESTION in call["messages"][1]["content"]
        assert call["reply"].startswith("{")
        assert call["prompt_tokens"] > 1000
    assert sum(call["completion_tokens"] for call in told) == asked["usage"]["completion_tokens"]
    shown = run("inquiry", "prompt", asked["id"]).stdout
    assert "draft 1, asked of careful" in shown
    assert "## Schema" in shown


def test_json_is_said_of_errors_too_and_a_question_comes_from_standard_input(run: Run, stage: Stage) -> None:
    done = run("inquiry", "list", "--outcome", "answerd", "--json")
    assert done.returncode == 2
    assert json.loads(done.stdout)["error"]["hint"] == "Did you mean answered?"
    assert done.stderr == ""
    assert json.loads(run("source", "list", "--json", token="").stdout)["error"]["title"] == "There is no token."
    for arguments in (("standstill",), ("source", "account", "ferries"), ("example", "export", "ferries"),
                      ("policy", "export", "ferries"), ("catalog", "notes", "export", "ferries")):  # fmt: skip
        assert json.loads(run(*arguments, "--json").stdout), arguments
    environment = {**os.environ, "HARQUEL_URL": stage.url, "HARQUEL_TOKEN": stage.token}
    asked = run_harquel("ask", "-", "-s", "ferries", "--brief", said=QUESTION, env=environment)
    assert "12 sailings were cancelled in August 2026." in asked.stdout


def test_what_is_piped_follows_the_columns_and_is_not_filled_up(stage: Stage) -> None:
    def lines(columns: str, *arguments: str) -> list[str]:
        environment = {**os.environ, "HARQUEL_URL": stage.url, "HARQUEL_TOKEN": stage.token, "COLUMNS": columns}
        done = run_harquel(*arguments, env=environment)
        assert done.returncode == 0, done.stderr
        return done.stdout.splitlines()

    wide, narrow = lines("140", "source", "list"), lines("50", "source", "list")
    assert any(len(line) > 100 for line in wide) or max(map(len, wide)) > 80
    assert all(line == line.rstrip() for line in (*wide, *narrow))
    assert max(map(len, narrow)) <= 50
    assert "name    ferries" in narrow


def test_doubt_and_what_does_not_hold_end_with_codes_of_their_own(run: Run, client: Harquel) -> None:
    # What is silenced leaves a caveat behind.
    strict = run("ask", "-s", "ferries", QUESTION, "--silence", "left-out", "--strict", "--brief")
    clear = run("ask", "-s", "ferries", QUESTION, "--strict", "--brief")
    assert (strict.returncode, clear.returncode) == (10, 0), (strict.stdout, clear.stdout)
    ended = client.ask(QUESTION, "ferries").id
    assert "has ended already" in run("inquiry", "cancel", ended).stdout
    lost = run("ask", "-s", "ferries", "What does the captain earn?")
    assert lost.returncode == 6
    assert "A simulated model" in " ".join(lost.stdout.split())
    assert "Answered here, for example" in " ".join(lost.stdout.split())


def test_a_database_file_that_is_not_there_is_not_connected_and_an_empty_one_said(run: Run, stage: Stage) -> None:
    missing = run("source", "connect", "gone", "--at", f"sqlite:///{stage.folder / 'gone.db'}")
    assert (missing.returncode, "is not there" in missing.stderr) == (2, True)
    sqlite3.connect(stage.folder / "empty.db").close()
    empty = run("source", "connect", "bare", "--at", f"sqlite:///{stage.folder / 'empty.db'}")
    try:
        assert "has no tables yet" in empty.stdout
        # The address that is shown is one that can be typed.
        (shown,) = re.findall(r"connected: (\S+)\. Check", empty.stdout)
        again = run("source", "connect", "bare-again", "--at", shown)
        assert again.returncode == 0
    finally:
        for name in ("bare", "bare-again"):
            run("source", "remove", name, "--yes")


def test_an_answer_is_written_to_a_file_by_its_name(run: Run, tmp_path: Path) -> None:
    out = tmp_path / "cancelled.csv"
    asked = run("ask", "-s", "ferries", QUESTION, "--brief", "--out", str(out))
    assert (asked.returncode, out.read_text("utf-8-sig").split()) == (0, ["sailing_count", "12"])
    assert "cancelled.csv" in asked.stderr
    picture = tmp_path / "earned.svg"
    drawn = run("ask", "-s", "ferries", "Which five routes earned most this year, as columns?", "--out", str(picture))
    assert "Drawn as columns, as “as columns” wishes." in drawn.stdout
    assert "QH-SR" in picture.read_text("utf-8")
    key = re.search(r"inquiry show (\w+)", drawn.stdout)
    assert key is not None
    again = run("inquiry", "take-away", key[1], "--picture", "only the top 2", "--out", str(picture))
    assert (again.returncode, "and 3 more" in picture.read_text("utf-8")) == (0, True)
    assert run("inquiry", "take-away", key[1], "--out", str(tmp_path / "p.png")).returncode == 0
    for wrong, said in (("cancelled.pdf", "its name says the form"), ("nowhere/cancelled.csv", "there is no folder")):
        refused = run("ask", "-s", "ferries", QUESTION, "--out", str(tmp_path / wrong))
        # Nothing was asked for something that cannot be written.
        assert (refused.returncode, refused.stdout) == (2, "")
        assert said in " ".join(refused.stderr.replace("│", " ").split())


def test_a_conversation_goes_on_from_the_last_answer_or_line_by_line(run: Run) -> None:
    assert run("ask", "-s", "ferries", QUESTION, "--brief").returncode == 0
    on = run("ask", "--follow", "last", "and in July?")
    said = " ".join(on.stdout.split())
    assert said.startswith("How many sailings were cancelled in July 2026? 8 sailings were cancelled in July 2026.")
    assert "“and in July?”. Meant otherwise? harquel ask --follows" in said
    asked = f"{QUESTION}\nand in July?\n\nper vessel\nthanks\n"
    chat = run("ask", "-s", "ferries", "--chat", "--brief", said=asked)
    lines = chat.stdout.splitlines()
    assert lines[:2] == ["12 sailings were cancelled in August 2026.", "8 sailings were cancelled in July 2026."]
    assert lines[2].startswith("Sailings by vessel (cancelled) in July 2026: ")
    assert lines[3] == "That asks for nothing that the data could say. What would you like to know?"
    assert chat.returncode == 3
    made = run(
        "token", "create", "--name", "fresh", "--person", "Una Marsh", "--source", "ferries", "--scope", "ask", "--json"
    )
    nothing = run("ask", "--follow", "last", "and in July?", token=json.loads(made.stdout)["secret"])
    assert nothing.returncode == 2
    assert "you have asked nothing yet that could be followed" in " ".join(nothing.stderr.split())
