"""A model that words answers: what it is told, what becomes of that, and that whatever it does our sentence stays."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from harquel.core.domain.inquiry import Answer, Inquiry
from harquel.core.domain.policy import Prompts
from harquel.core.errors import ModelUnreachable
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, LanguageModel, Message, ModelProfile
from harquel.core.sandbox import Sandbox
from harquel.standin.model.tells import tell
from harquel.testing.sources import Recorder, ask, demo_policy, demo_sandbox, demo_source, model_of

QUESTION = "Which five routes earned most this year?"
HEAD = "Revenue by routes in 2026 so far: "


@pytest.fixture(scope="module")
def sandbox(ferries: Path) -> Iterator[Sandbox]:
    made = demo_sandbox(ferries)
    yield made
    made.close()


class Says:
    """Says what it is given, and keeps what it was told."""

    profile = ModelProfile("http://scripted.example", "wordy")

    def __init__(self, reply: str | Exception) -> None:
        self.reply = reply
        self.told: list[Message] = []

    def complete(self, messages: list[Message], **_: Any) -> Completion:
        self.told = list(messages)
        if isinstance(self.reply, Exception):
            raise self.reply
        return Completion(self.reply, 100, 20)


def source_with(ferries: Path, url: str, sandbox: Sandbox, worder: LanguageModel | None, **prompts: Any) -> Source:
    policy = demo_policy()
    policy = policy.model_copy(update={"prompts": Prompts(**prompts)})
    made = demo_source(ferries, url, sandbox, policy=policy)
    return replace(made, reader=made.model, worder=worder)


def answer_of(inquiry: Inquiry) -> Answer:
    assert inquiry.answer is not None, inquiry.problem
    return inquiry.answer


def says(text: str) -> str:
    return json.dumps({"says": text})


def test_what_stands_is_the_answer_and_ours_is_kept(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    plain = answer_of(ask(source_with(ferries, model_url, sandbox, None), QUESTION))
    assert plain.worded is None
    model = Says(says("In 2026 so far QH-SR leads with 36,395.20 EUR. It will stay ahead. QH-GS is first."))
    recorder = Recorder()
    found = ask(source_with(ferries, model_url, sandbox, model), QUESTION, recorder)
    answer = answer_of(found)
    assert answer.text == "In 2026 so far QH-SR leads with 36,395.20 EUR."
    assert answer.worded is not None
    assert (answer.worded.model, answer.worded.plain) == ("wordy", plain.text)
    assert answer.worded.struck == ["It will stay ahead.", "QH-GS is first."]
    assert (found.trust, found.usage.calls) == ("clear", 3)
    asked_for = [e for e in recorder.events if e.kind == "prompted" and e.what.duty == "word"]  # type: ignore[union-attr]
    assert len(asked_for) == 1
    # From the result only: neither schema nor SQL nor notes.
    told = json.dumps(model.told)
    assert plain.text in told
    assert "36,395.20" in told
    assert not {"SELECT", "booking", "## Schema"} & set(told.split())


@pytest.mark.parametrize(
    "reply",
    [
        says("QH-GS leads in 2026 with 32,305.30 EUR."), says("QH-SR leads with 36,395.20 EUR."), says(""),
        says("x" * 10**6), says("In 2026 QH-SR leads with 36,395.20 EUR. " * 40),
        "QH-SR leads in 2026 with 36,395.20 EUR.", "", "{" * 10**6, '{"says": 5}', "null",
        '{"says": ["QH-SR leads in 2026."]}', says("<b>QH-SR</b> leads in 2026 with 36,395.20 EUR."),
        says("QH-SR führt 2026 mit 36.395,20 EUR und das ist viel."), says("No route earned anything in 2026."),
        ModelUnreachable("gone"),
    ],
    ids=range(15),
)  # fmt: skip
def test_whatever_else_it_says_ours_stands(
    reply: str | Exception, ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    found = ask(source_with(ferries, model_url, sandbox, Says(reply)), QUESTION)
    assert answer_of(found).text.startswith(f"{HEAD}QH-SR is highest with 36,395.20 EUR")
    assert found.trust == "clear"


def test_no_row_leaves_for_it_that_may_not(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    for prompts in ({"values": "codes"}, {"values": "none"}):
        model = Says(says("In 2026 so far QH-SR leads with 36,395.20 EUR."))
        found = ask(source_with(ferries, model_url, sandbox, model, **prompts), QUESTION)
        assert (model.told, answer_of(found).worded) == ([], None)
    # What reads a personal column is nobody's to word, whatever stands in the policy.
    policy = demo_policy()
    policy = policy.model_copy(
        update={"personal": policy.personal.model_copy(update={"columns": ("vessel.name",)}), "prompts": Prompts()}
    )
    model = Says(says("Brightwater made the most sailings in August 2026."))
    plain = demo_source(ferries, model_url, sandbox, policy=policy)
    source = replace(plain, reader=plain.model, worder=model)
    answered = answer_of(ask(source, "How many sailings did each vessel make in August 2026?"))
    assert answered.table.rows
    assert (model.told, answered.worded) == ([], None)
    # Nor what no second way confirms: it is not known what the rows are of.
    alone = replace(source_with(ferries, model_url, sandbox, model), reader=None)
    assert (answer_of(ask(alone, QUESTION)).worded, model.told) == (None, [])


def test_the_simulated_model_words_too_and_its_slips_are_struck(
    ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    wanted = f"{HEAD}QH-SR leads with 36,395.20 EUR, followed by QH-GS with 32,305.30 EUR."
    careful = source_with(ferries, model_url, sandbox, model_of(model_url, "careful"))
    assert answer_of(ask(careful, QUESTION)).text == wanted
    careless = source_with(ferries, model_url, sandbox, model_of(model_url, "careless-1.0"))
    slipped = answer_of(ask(careless, QUESTION))
    assert slipped.worded is not None
    assert slipped.text == slipped.worded.plain
    assert "QH-GS leads with" in slipped.worded.struck[0]


def test_the_simulated_model_says_it_in_the_language_of_our_sentence() -> None:
    rows = "route\trevenue (EUR)\nQH-SR\t36,395.20\nQH-GS\t32,305.30\nQH-PP\t30,900.30"
    asked = (
        f"## Sentence\nUmsatz nach Strecken 2026 bisher: QH-SR liegt vorn.\n\n## Rows\n{rows}\n\n## Question\nWelche?"
    )
    said = "Umsatz nach Strecken 2026 bisher: QH-SR führt mit 36.395,20 EUR, gefolgt von QH-GS mit 32.305,30 EUR."
    assert tell(asked) == said
    # Of what has no order nothing is said to be ahead.
    assert tell(asked.replace("36,395", "6,395")) == "Umsatz nach Strecken 2026 bisher: QH-SR liegt vorn."
