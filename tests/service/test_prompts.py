"""Templates of prompts and questions drafted again, over HTTP: what is on record, who may, what is refused."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from harquel.client import Harquel, HarquelError, Invalid
from harquel.client import calls as sent
from harquel.demo.stage import Stage

QUESTION = "How many sailings were cancelled in August 2026?"
STARTERS = 'starters = "starters.yaml"'
OF_OUR_OWN = f'{STARTERS}\nprompts = "prompts"'
OWN = '{% block system %}Write one SQL query, as {"sql": "..."}. For our house: {{ house }}{% endblock %}'


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    """A demo whose files may be changed."""
    with new_stage(tmp_path_factory.mktemp("prompts")) as stage:
        yield stage


def told(client: Harquel, key: str) -> tuple[str, str]:
    """The template and the system text of the draft of an inquiry."""
    event = next(e for e in client.events(key) if e.kind == "prompted" and not e.facts.get("duty"))
    return event.facts["template"], json.loads(event.texts["prompt"])[0]["content"]


def test_a_template_counts_from_a_reload_on_and_old_prompts_stay_readable(own: Stage) -> None:
    folder = own.folder / "prompts"
    folder.mkdir()
    config = own.folder / "harquel.toml"
    with Harquel(own.url, own.token) as client:
        before = client.ask(QUESTION, "ferries")
        first = told(client, before.id)
        assert before.attempts[-1].draft is not None
        assert first[0] == f"draft {before.attempts[-1].draft.template}"
        config.write_text(config.read_text().replace(STARTERS, OF_OUR_OWN, 1))
        (folder / "draft.jinja").write_text(OWN)
        with pytest.raises(HarquelError, match="'house' is undefined"):
            client.send(sent.reload())
        assert told(client, client.ask(QUESTION, "ferries").id) == first, "a faulty template changes nothing"
        (folder / "draft.jinja").write_text(OWN.replace("{{ house }}", "short names."))
        assert client.send(sent.reload()).changed == ["sources.ferries.prompts"]
        after = client.ask(QUESTION, "ferries")
        template, system = told(client, after.id)
        assert system.endswith("For our house: short names.")
        assert template.startswith("draft own ")
        assert (after.outcome, after.trust) == ("answered", "clear")
        assert told(client, before.id) == first, "what was said then is read as it was"
        shipped = client.redraft(after.id, shipped=True)
        assert told(client, shipped.id) == first
        assert shipped.redraft is not None
        assert (shipped.redraft.same, shipped.redraft.shipped) == (True, True)
        (folder / "drafts.jinja").write_text(OWN)
        with pytest.raises(HarquelError, match="is no template that is known") as caught:
            client.send(sent.reload())
        assert "draft.jinja" in caught.value.hint
        (folder / "drafts.jinja").unlink()


def test_a_question_is_drafted_again_without_touching_its_answer(client: Harquel) -> None:
    before = client.ask("Litres of fuel per vessel and month this year", "ferries")
    found = client.redraft(before.id, "headstrong")
    assert found.redraft is not None
    assert found.answer is not None
    assert (found.redraft.inquiry, found.redraft.model, found.redraft.same) == (before.id, "headstrong", False)
    assert found.redraft.said == "5 rows instead of 47"
    assert (found.attempts[-1].draft and found.attempts[-1].draft.model) == "stubborn-unasked-limit"
    assert (found.trust, found.follows, found.as_of) == ("caution", before.id, before.as_of)
    assert client.inquiry(before.id) == before
    assert client.inquiry(found.id) == found
    assert '"rows"' not in json.dumps(found.redraft.model_dump())
    same = client.redraft(before.id, "main")
    assert same.redraft is not None
    assert (same.redraft.same, same.redraft.said) == (True, "The same rows as before.")
    accepted = next(e for e in client.events(found.id) if e.kind == "accepted")
    assert (accepted.facts["choice"], accepted.facts["model"]) == ("redraft", "headstrong")


def test_only_a_steward_drafts_again_their_own_with_a_model_that_may(client: Harquel, stage: Stage) -> None:
    before = client.ask(QUESTION, "ferries")
    with pytest.raises(Invalid, match="'nobody' is not configured"):
        client.redraft(before.id, "nobody")
    with pytest.raises(Invalid, match="are for the choice"):
        client.send(sent.Call("POST", "inquiries", lambda body: body, {"question": QUESTION, "model": "headstrong"}))
    made = client.create_token("asks", "Ada Brinewell", ["ferries"], ["ask"])
    with Harquel(stage.url, made.secret) as other, pytest.raises(HarquelError, match="needs the scope steward"):
        other.redraft(before.id, "headstrong")
    made = client.create_token("keeps", "Odo Finch", ["ferries"], ["ask", "steward", "audit"])
    with Harquel(stage.url, made.secret) as other, pytest.raises(HarquelError, match="Only whoever asked"):
        other.redraft(before.id, "headstrong")
    refused = client.ask("Delete every booking", "ferries")
    with pytest.raises(HarquelError, match="no answer"):
        client.redraft(refused.id, "headstrong")


def test_whom_nothing_may_leave_for_drafts_nothing_again(own: Stage, tmp_path: Path) -> None:
    """What may leave for which model holds for a model that is wished for."""
    policy = own.folder / "policy.yaml"
    with Harquel(own.url, own.token) as client:
        before = client.ask(QUESTION, "ferries")
        text = policy.read_text() + "\nprompts: {models: [main]}\n"
        client.send(sent.Call("PUT", "sources/ferries/policy", lambda body: body, {"text": text, "force": True}))
        with pytest.raises(Invalid, match="does not let anything leave for the model 'headstrong'"):
            client.redraft(before.id, "headstrong")
        assert client.redraft(before.id, "main").outcome == "answered"
