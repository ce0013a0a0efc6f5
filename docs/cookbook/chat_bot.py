"""A bot for whatever chat: lines "PERSON: TEXT" come in, replies go out; each person's conversation goes on by itself.

HARQUEL_URL, HARQUEL_TOKEN; python chat_bot.py [SOURCE] < lines. One token asks for all of them: everybody in this chat
sees what that token may see. For rights of each person use the chats of the service (docs/chat.md).
"""

from __future__ import annotations

import os
import sys

from harquel.client import Harquel, HarquelError
from harquel.contract import Inquiry


class Bot:
    """Replies to one line at a time."""

    def __init__(self, client: Harquel, source: str | None) -> None:
        self._client, self._source = client, source
        self._last: dict[str, Inquiry] = {}

    def reply(self, person: str, text: str) -> str:
        """What is said to somebody; what they say next follows it."""
        last = self._last.get(person)
        try:
            found = self._asked(text, last)
        except HarquelError as error:
            return f"{error} {error.hint}".strip()
        self._last[person] = found
        if found.answer is not None:
            why = f" ({found.answer.caveats[0].message})" if found.answer.caveats else ""
            return f"{found.answer.text} – {found.trust}{why}"
        if found.clarify is not None:
            numbered = [f"{n}. {choice.label}" for n, choice in enumerate(found.clarify.choices, 1)]
            return " ".join([found.clarify.question, *numbered])
        return found.problem.title if found.problem else "That waits for somebody with the right to."

    def _asked(self, text: str, last: Inquiry | None) -> Inquiry:
        if last is not None and last.clarify is not None and text.isdigit() and int(text) >= 1:
            choices = last.clarify.choices[int(text) - 1 : int(text)]
            if choices:
                return self._client.choose(last.id, choices[0].id)
        follows = last.id if last is not None and (last.answer or last.clarify) else None
        return self._client.ask(text, None if follows else self._source, follows=follows)


def main() -> None:
    """Until the lines end."""
    with Harquel(os.environ["HARQUEL_URL"], os.environ["HARQUEL_TOKEN"]) as client:
        bot = Bot(client, sys.argv[1] if len(sys.argv) > 1 else None)
        for line in sys.stdin:
            person, colon, text = line.partition(":")
            if colon and text.strip():
                print(f"@{person.strip()}: {bot.reply(person.strip(), text.strip())}", flush=True)


if __name__ == "__main__":
    main()
