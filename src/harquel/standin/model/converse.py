"""One turn of a conversation: the first draft, or another one in the light of what came back."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from typing import Any

from .adapt import adapt
from .follow import ASKED_TO_FOLLOW, follow
from .intent import AsksForChange, NotInData
from .lexicon import lexicon_of
from .prompt import Prompt, read_prompt
from .reading import ASKED_FOR, read
from .render import write
from .tells import ASKED_TO_TELL, tell
from .tempers import Temper, chance, misread, slip_into
from .understand import understand
from .words import EMPTY

_NEAREST = re.compile(r'There is no (?:table or alias|column) "([^"]+)".*?Nearest: ([\w.]+)')


_CHECK = "## Check"
_COUNTED = (
    "one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen "
    "eighteen nineteen twenty twenty-one twenty-two twenty-three twenty-four twenty-five twenty-six twenty-seven "
    "twenty-eight twenty-nine thirty"
).split()


@dataclass(frozen=True)
class Turn:
    """What is said back."""

    text: str


def _beside(messages: list[dict[str, str]], first: str, model: str, temper: Temper) -> Turn | None:
    """The reply to what is no question about a schema: a check, a wish for words."""
    if first.startswith(_CHECK):
        return Turn(json.dumps({"ready": True, "counted": ", ".join(_COUNTED)}))
    if _asks_for(messages, ASKED_TO_FOLLOW):
        return Turn(json.dumps(follow(first)))
    if _asks_for(messages, ASKED_TO_TELL):
        return Turn(json.dumps({"says": tell(first, _slips(messages, model, temper))}))
    return None


def reply_to(messages: list[dict[str, str]], model: str, temper: Temper) -> Turn:
    """The reply to a conversation. Never raises: what it cannot make sense of it says."""
    asked = [m["content"] for m in messages if m["role"] == "user"]
    said = [m["content"] for m in messages if m["role"] == "assistant"]
    if beside := _beside(messages, asked[0] if asked else "", model, temper):
        return beside
    try:
        prompt = read_prompt(asked[0] if asked else "")
    except ValueError as error:
        return Turn(f"I do not see a question: {error}.")
    try:
        if _asks_for(messages, ASKED_FOR):
            reading = _reading(prompt)
            if _slips(messages, model, temper):
                reading = misread(reading, chance(model, messages[:2], "which"))
            return Turn(json.dumps(reading))
        sql, explanation = _draft(prompt, said, asked[1:])
    except NotInData as error:
        return _not_there(prompt, str(error), first=not said)
    except AsksForChange as error:
        if error.table and not said:
            return Turn(
                json.dumps({"sql": f"DELETE FROM {error.table}", "explanation": f"Deletes every {error.table}."})
            )
        return Turn(json.dumps({"cannot": "not-allowed", "why": "The question asks to change data."}))
    if temper.kind == "stubborn" or (
        temper.kind == "careless" and not said and chance(model, messages, "slips") < temper.rate
    ):
        # A stubborn model draws from its opening only, so that it repeats itself.
        draw = chance(model, messages[:2], "which")
        return Turn(slip_into(sql, explanation, temper.slip, draw))
    return Turn(json.dumps({"sql": sql, "explanation": explanation}))


def _asks_for(messages: list[dict[str, str]], what: str) -> bool:
    return bool(messages) and messages[0]["role"] == "system" and what in messages[0]["content"]


def _slips(messages: list[dict[str, str]], model: str, temper: Temper) -> bool:
    return temper.kind == "careless" and chance(model, messages[:2], "slips") < temper.rate


def _not_there(prompt: Prompt, why: str, first: bool) -> Turn:
    """Asks for more tables where the prompt has some, once; says otherwise that the data is not there."""
    if prompt.more_tables and first:
        words = list(dict.fromkeys(t.low for t in prompt.words if t.low not in EMPTY))
        return Turn(json.dumps({"need": words[:10]}))
    why += " (A simulated model, which knows little, says so: another may find it.)"
    return Turn(json.dumps({"cannot": "not-in-data", "why": why}))


def _reading(prompt: Prompt) -> dict[str, Any]:
    """How the question is understood, and how else it can be meant."""
    lexicon = lexicon_of(prompt)
    intent = understand(prompt, lexicon)
    reading = read(intent, prompt)
    others = [read(understand(prompt, lexicon, table), prompt) for table in intent.instead[:3]]
    if others:
        ways = [one | {"named": f"{one['rows'].replace('_', ' ')}s"} for one in (reading, *others)]
        reading = ways[0] | {"others": ways[1:]}
    return reading


def _draft(prompt: Prompt, said: list[str], told: list[str]) -> tuple[str, str]:
    """A draft that differs from those that came back, as far as the prompt and the hints allow."""
    refused = {s for s in map(_sql_of, said) if s}
    derived: list[tuple[str, str]] = []
    lexicon = lexicon_of(prompt)
    adapted = adapt(prompt, lexicon)
    if adapted is not None:
        derived.append(adapted)
    if not derived or refused:
        try:
            derived.append(write(understand(prompt, lexicon), prompt, frozenset(t.stem for t in prompt.words)))
        except NotInData:
            if not derived:
                raise
    for draft in derived:
        if draft[0] not in refused:
            return draft
    sql, explanation = derived[-1]
    for wrong, nearest in _NEAREST.findall(" ".join(told[-1:])):
        sql = re.sub(rf"\b{re.escape(wrong)}\b", nearest, sql)
    return sql, explanation


def _sql_of(reply: str) -> str:
    try:
        value = json.loads(reply)
    except json.JSONDecodeError:
        return ""
    return str(value.get("sql") or "") if isinstance(value, dict) else ""
