"""A client like a language model, by script: it knows no tool by name, and goes by what tools say of themselves.

It picks the tool whose description has most of the words of what it wants to do, fills in arguments by what the schema
says of each, and takes ids and names from the replies before. All ten tasks are finished by that.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

import mcp_types as types
import pytest
from mcp.client import Client

from harquel.demo.stage import Stage
from tests.tools.reached import text_of, with_client

WORDS = re.compile(r"[a-z]{3,}")


def words(text: str) -> set[str]:
    return {word.removesuffix("s") for word in WORDS.findall(text.casefold())}


@dataclass
class Likely:
    """What the last reply was, and how the next call is made up from what is known of the tools."""

    client: Client
    tools: list[types.Tool]
    said: str = ""
    found: dict[str, Any] = field(default_factory=dict)
    named: list[str] = field(default_factory=list)

    async def do(self, intent: str, **given: Any) -> None:
        """`given`: values by a few words of what they are; a name is worked out by the schema's own descriptions."""
        tool = max(self.tools, key=lambda t: len(words(intent) & words(f"{t.title} {t.description}")))
        fields = tool.input_schema["properties"]
        arguments: dict[str, Any] = {}
        for about, value in given.items():
            wanted = words(about.replace("_", " "))
            name = max(fields, key=lambda f: len(wanted & words(f"{f} {fields[f]['description']}")))
            arguments[name] = value
        self.named.append(tool.name)
        result = await self.client.call_tool(tool.name, arguments)
        self.said, self.found = text_of(result), result.structured_content or {}


TASKS = 10


@pytest.mark.parametrize("way", ["http newest", "program handshake"])
def test_ten_tasks_are_finished_by_what_the_tools_say_of_themselves(way: str, stage: Stage) -> None:
    async def work(client: Client) -> list[str]:
        agent = Likely(client, (await client.list_tools()).tools)
        done: list[str] = []

        # 1. Which sources are there?
        await agent.do("tell what there is to ask about: all sources")
        sources = [s["name"] for s in agent.found["sources"]]
        assert "ferries" in sources
        done.append("sources")
        # 2. Which tables have to do with fuel?
        await agent.do("what there is to ask about: tables", source_by_its_name="ferries", search_words="fuel")
        assert [t["name"] for t in agent.found["tables"]] == ["fuel_log"]
        done.append("tables")
        # 3. What does a code of a column mean?
        await agent.do("what there is to ask about: columns", source_by_its_name="ferries", table_of_that="sailing")
        meaning = next(c["meanings"] for c in agent.found["columns"] if c["name"] == "status")
        assert meaning["X"] == "cancelled"
        done.append("meaning of a code")
        # 4. Who says what revenue is?
        await agent.do("what there is to ask about: agreed measures", source_by_its_name="ferries")
        assert any(m["name"] == "revenue" for m in agent.found["measures"])
        done.append("measure")
        # 5. A figure, with its mark; three sources could tell it.
        ask = "answer a question in plain words from a database"
        await agent.do(ask, question_in_plain_words="How many sailings were cancelled in August 2026?")
        which = next(c["id"] for c in agent.found["choices"] if "ferries" in c["id"])
        await agent.do(ask, goes_on_from_inquiry_by_its_id=agent.found["inquiry"], id_of_one_of_the_choices=which)
        assert (agent.found["table"]["rows"], agent.found["mark"]) == ([[12]], "clear")
        first = agent.found["inquiry"]
        done.append("figure")
        # 6. The month before.
        await agent.do(ask, question_in_plain_words="and in July?", goes_on_from_inquiry_by_its_id=first)
        assert agent.found["table"]["rows"] == [[8]]
        done.append("follow-up")
        # 7. What is asked back is chosen.
        await agent.do(ask, question_in_plain_words="How many were cancelled in August 2026?", source_to_ask="ferries")
        meant = next(c["id"] for c in agent.found["choices"] if "sailings" in c["label"])
        await agent.do(ask, goes_on_from_inquiry_by_its_id=agent.found["inquiry"], id_of_one_of_the_choices=meant)
        assert agent.found["table"]["rows"] == [[12]]
        done.append("choice")
        # 8. Would this statement be let through?
        check = "what guard and review make of a SQL statement, which is not run"
        await agent.do(check, source_it_is_for="ferries", statement_not_run="DROP TABLE sailing")
        assert agent.found["verdict"] == "refuse"
        done.append("statement")
        # 9. The first answer again, by its id.
        await agent.do("give an inquiry of before by its id, an earlier answer", its_id_or_link=first)
        assert agent.found["table"]["rows"] == [[12]]
        done.append("earlier answer")
        # 10. What the data do not hold.
        await agent.do(ask, question_in_plain_words="How many albatrosses nested on board?", source_to_ask="ferries")
        assert agent.found["outcome"] in ("unanswerable", "clarify")
        assert agent.found["table"] is None
        done.append("nothing there")
        return done

    assert len(with_client(way, stage.url, stage.token, work)) == TASKS
