"""What each slip does to a draft, when a temper slips, and what a conversation brings about."""

from __future__ import annotations

import json

import pytest

from harquel.standin.model import reply_to
from harquel.standin.model.adapt import adapt
from harquel.standin.model.lexicon import lexicon_of
from harquel.standin.model.prompt import read_prompt
from harquel.standin.model.tempers import SLIPS, Temper, misread, slip_into, temper_of

SQL = "SELECT quay.name, COUNT(*) AS n FROM lantern JOIN quay ON quay.id = lantern.quay_id WHERE quay.name = 'North'"
SPOILT = {
    "shortened-table": "FROM lant JOIN quay",
    "invented-column": "quay.quay_name_value",
    "misspelt-value": "'nORTH'",
    "missing-join": "CROSS JOIN quay WHERE",
    "unasked-limit": "LIMIT 5",
    "two-statements": "; SELECT COUNT(*) FROM lantern",
    "write": "DELETE FROM lantern",
}
PROMPT = """## Now
2026-09-14 10:00:00 (Monday)

## Schema
-- A lantern: a light on a quay.
-- dated by: lit_on
CREATE TABLE lantern (
  id INTEGER PRIMARY KEY,
  quay_id INTEGER NOT NULL,
  colour TEXT, -- values: 'green', 'red'
  lit_on DATE,
  FOREIGN KEY (quay_id) REFERENCES quay (id)
);

-- A quay: a place to land.
CREATE TABLE quay (
  id INTEGER PRIMARY KEY,
  name TEXT -- values: 'North', 'South'
);

## Examples
Question: Which quays glowed in May 2025?
SQL: SELECT DISTINCT q.name FROM lantern AS l JOIN quay AS q ON q.id = l.quay_id WHERE l.lit_on >= '2025-05-01' AND l.lit_on < '2025-06-01'

Question: How bright was it at North?
SQL: SELECT COUNT(*) FROM lantern AS l JOIN quay AS q ON q.id = l.quay_id WHERE q.name = 'North'

## Question
{question}"""  # noqa: E501


def conversation(question: str, *more: str) -> list[dict[str, str]]:
    messages = [{"role": "system", "content": "rules"}, {"role": "user", "content": PROMPT.format(question=question)}]
    for index, text in enumerate(more):
        messages.append({"role": "assistant" if index % 2 == 0 else "user", "content": text})
    return messages


def said(messages: list[dict[str, str]], model: str = "careful") -> str:
    temper = temper_of(model)
    assert temper is not None
    return reply_to(messages, model, temper).text


@pytest.mark.parametrize("slip", SPOILT)
def test_each_slip_spoils_a_draft_in_its_own_way(slip: str) -> None:
    assert SPOILT[slip] in json.loads(slip_into(SQL, "why", slip, 0.0))["sql"]


def test_prose_is_no_json_and_has_no_fence() -> None:
    text = slip_into(SQL, "why", "prose", 0.0)
    assert SQL in text
    assert "{" not in text
    assert "```" not in text


def test_a_slip_that_does_not_apply_makes_way_for_the_next() -> None:
    plain = "SELECT COUNT(*) AS n FROM lantern"
    assert "LIMIT 5" in slip_into(plain, "", "missing-join", 0.0)
    assert "LIMIT 5" in slip_into(plain, "", "misspelt-value", 0.0)
    assert slip_into(f"{plain} LIMIT 3", "", "unasked-limit", 0.0).startswith("Sure")


def test_draws_reach_every_kind() -> None:
    texts = {slip_into(SQL, "", "", n / len(SLIPS)) for n in range(len(SLIPS))}
    assert len(texts) == len(SLIPS)


def test_careless_slips_first_and_mends_it_when_told() -> None:
    opening = conversation("How many lanterns?")
    first = said(opening, "careless-1.0-write")
    assert "DELETE" in first
    second = said(conversation("How many lanterns?", first, "Only reading is allowed."), "careless-1.0-write")
    assert json.loads(second)["sql"] == "SELECT COUNT(*) AS lantern_count FROM lantern"


def test_stubborn_repeats_itself_word_for_word() -> None:
    first = said(conversation("How many lanterns?"), "stubborn")
    again = said(conversation("How many lanterns?", first, "This cannot be used."), "stubborn")
    assert first == again


@pytest.mark.parametrize("rate", [0.0, 0.3, 1.0])
def test_the_rate_is_the_share_of_first_drafts_with_a_slip(rate: float) -> None:
    slipped = 0
    for number in range(120):
        messages = conversation("How many lanterns?")
        messages[0]["content"] = f"rules {number}"
        text = said(messages, f"careless-{rate}")
        slipped += text != json.dumps(
            {"sql": "SELECT COUNT(*) AS lantern_count FROM lantern", "explanation": "Number of lantern rows."}
        )
    assert abs(slipped / 120 - rate) < 0.13


def test_a_hint_is_followed_when_thinking_again_brings_nothing_new() -> None:
    first = said(conversation("How many lanterns?"))
    hint = 'There is no table or alias "lantern". Nearest: lanterns, light.'
    second = said(conversation("How many lanterns?", first, hint))
    assert "FROM lanterns" in json.loads(second)["sql"]


@pytest.mark.parametrize(
    ("question", "wanted"),
    [
        ("Which quays glowed in July 2026?", "l.lit_on >= '2026-07-01' AND l.lit_on < '2026-08-01'"),
        ("Which quays glowed last month?", "l.lit_on >= '2026-08-01' AND l.lit_on < '2026-09-01'"),
        ("How bright was it at South?", "q.name = 'South'"),
    ],
)
def test_an_example_is_moved_to_other_dates_and_names(question: str, wanted: str) -> None:
    prompt = read_prompt(PROMPT.format(question=question))
    found = adapt(prompt, lexicon_of(prompt))
    assert found is not None
    assert wanted in found[0]


@pytest.mark.parametrize(
    "question", ["Which quays glowed?", "Which quays sank in May 2025?", "How bright was it at North and South?"]
)
def test_an_example_that_does_not_fit_is_left_alone(question: str) -> None:
    prompt = read_prompt(PROMPT.format(question=question))
    assert adapt(prompt, lexicon_of(prompt)) is None


@pytest.mark.parametrize("messages", [[], [{"role": "user", "content": "hello"}], [{"role": "system", "content": "x"}]])
def test_a_conversation_that_makes_no_sense_gets_an_answer_all_the_same(messages: list[dict[str, str]]) -> None:
    assert "question" in reply_to(messages, "careful", Temper("careful")).text


READING = {
    "rows": "lantern", "figures": [{"figure": "sum", "of": "lantern.oil"}], "only": [{"column": "quay.name"}],
    "during": [{"from": "2026-08-01", "until": "2026-09-01"}], "per": [{"column": "quay.name"}],
}  # fmt: skip


def test_each_part_of_a_reading_can_be_misread_and_one_is_at_a_time() -> None:
    kept = json.dumps(READING)
    spoilt = [misread(READING, draw / 10) for draw in range(10)]
    differing = {tuple(sorted(part for part in READING if s.get(part) != READING[part])) for s in spoilt}
    assert differing == {("only",), ("per",), ("during",), ("figures",)}
    assert json.dumps(READING) == kept
    assert misread({"rows": "lantern"}, 0.5) == {"rows": "lantern"}


def test_a_reading_is_said_where_one_is_asked_for_and_a_careless_one_slips() -> None:
    given = {"role": "user", "content": PROMPT.format(question="How many lanterns were lit in May 2025 per quay?")}
    wish = [{"role": "system", "content": 'Say {"rows": "..."}'}, given]
    careful = json.loads(reply_to(wish, "careful", Temper("careful")).text)
    assert (careful["rows"], "sql" in careful) == ("lantern", False)
    careless = Temper("careless", 1.0)
    assert json.loads(reply_to(wish, "careless-1", careless).text) != careful
    assert "sql" in json.loads(reply_to([given], "careful", Temper("careful")).text)


@pytest.mark.parametrize(("question", "said"), [
    ("How many lanterns were lit in May 2025 per quay?", []),
    ("How many red lanterns were lit in May 2025?", []),
    ("How many lanterns were not red?", []),
    ("How many lanterns were lit without colour?", []),
    ("How many red lanterns were lit at no time in May 2025?", ["no"]),
    ("How many lanterns were lit at 4 quays?", ["4"]),
])  # fmt: skip
def test_a_reading_says_what_it_cannot_account_for(question: str, said: list[str]) -> None:
    wish = [
        {"role": "system", "content": 'Say {"rows": "..."}'},
        {"role": "user", "content": PROMPT.format(question=question)},
    ]
    found = json.loads(reply_to(wish, "careful", Temper("careful")).text)
    assert found.get("open", []) == said
