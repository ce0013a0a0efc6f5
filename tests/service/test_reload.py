"""The configuration read again: models, keys, prices, budgets count at once, a faulty file changes nothing."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

import pytest

from harquel.client import Harquel, calls
from harquel.client.errors import Invalid
from harquel.demo.stage import Stage


def test_what_is_written_counts_at_once_and_what_is_under_way_goes_on(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    quiet = {"HARQUEL__SERVICE__TRY_STARTERS": "false"}
    with new_stage(tmp_path, pace_s=1.5, environment=quiet) as stage, Harquel(stage.url, stage.token) as client:
        file = tmp_path / "harquel.toml"
        before = file.read_text()
        assert client.send(calls.reload()).changed == []
        ends: list[str | None] = []
        asking = threading.Thread(
            target=lambda: ends.append(client.ask("How many vessels are there?", "ferries").outcome)
        )
        asking.start()
        spare = '\n[models.spare]\nprotocol = "messages"\nbase_url = "http://127.0.0.1:9/v1"\nname = "gone"\n'
        again = before.replace('draft = "main"', 'draft = ["spare", "main"]', 1) + spare + "\n[budgets]\nday_cost = 7\n"
        assert again.count("spare") > 1
        file.write_text(again)
        with Harquel(stage.url, stage.token) as other:
            done = other.send(calls.reload())
            assert set(done.changed) == {"models.spare", "duties", "budgets"}
            assert done.needs_restart == []
            # The source that names nothing of its own asks the new chain, whose first model is not there.
            answered = other.ask("How many harbours are there?", "ferries")
            assert answered.outcome == "answered"
            assert answered.attempts[0].draft is not None
            assert answered.attempts[0].draft.model == "careful"
            lines = {line.name: line for line in other.send(calls.models())}
            assert lines["spare"].failures > 0
            assert lines["main"].calls > 1
            assert [b.limit for b in other.send(calls.usage("day", None, None)).budgets] == ["7"]
        asking.join()
        assert ends == ["answered"]
        for wrong, said in (
            ("[models.main", "not valid TOML"), (before.replace('draft = "main"', 'draft = "nobody"', 1), "nobody"),
            (before.replace("[models.main]", '[models.main]\nkey = "env:NOT_SET_ANYWHERE"', 1), "NOT_SET_ANYWHERE"),
        ):  # fmt: skip
            file.write_text(wrong)
            with pytest.raises(Invalid, match=said):
                client.send(calls.reload())
            assert client.ask("How many routes are there?", "ferries").outcome == "answered"
            assert {line.name for line in client.send(calls.models())} >= {"spare", "main"}
        file.write_text(before.replace("[service]", "[service]\nlook_every_s = 77", 1))
        back = client.send(calls.reload())
        assert back.needs_restart == ["service"]
        assert set(back.changed) == {"models.spare", "duties", "budgets"}
        kinds = [entry.kind for entry in client.ledger(limit=200).items]
        assert kinds.count("configuration-reloaded") == 3


def test_another_secret_behind_the_same_reference_is_told(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path) as stage, Harquel(stage.url, stage.token) as client:
        file, secret = tmp_path / "harquel.toml", tmp_path / "model-key"
        secret.write_text("one")
        file.write_text(file.read_text().replace("[models.main]", '[models.main]\nkey = "file:model-key"', 1))
        assert "models.main" in client.send(calls.reload()).changed
        assert client.send(calls.reload()).changed == []
        secret.write_text("two")
        assert client.send(calls.reload()).changed == ["models.main.key"]
