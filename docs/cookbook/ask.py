"""Asks in a back end: one question, and what to do with each way that it can end.

HARQUEL_URL, HARQUEL_TOKEN; python ask.py "How many sailings were cancelled in August 2026?" [SOURCE]
"""

from __future__ import annotations

import os
import sys

from harquel.client import Harquel, HarquelError
from harquel.contract import Inquiry


def reply(found: Inquiry) -> str:
    """What an application would say. Never a figure without its mark."""
    if found.answer is not None:
        doubts = "".join(f"\n  - {caveat.message}" for caveat in found.answer.caveats)
        return f"{found.answer.text} [{found.trust}]{doubts}"
    if found.clarify is not None:
        choices = "".join(f"\n  {choice.id}: {choice.label}" for choice in found.clarify.choices)
        return f"{found.clarify.question}{choices}"
    if found.state == "held":
        return "It waits until somebody with the right to looks at it."
    if found.state != "ended":
        return f"It is still under way: {found.id}"
    return f"{found.problem.title} {found.problem.hint}" if found.problem else str(found.outcome)


def main() -> int:
    """Exit 0 for an answer that is clear, 10 for one with caution, 3 for anything else, 9 where nobody answers."""
    question, source = sys.argv[1], sys.argv[2] if len(sys.argv) > 2 else None
    try:
        with Harquel(os.environ["HARQUEL_URL"], os.environ["HARQUEL_TOKEN"]) as client:
            found = client.ask(question, source)
    except HarquelError as error:
        print(error, error.hint)
        return 9
    print(reply(found))
    return {"clear": 0, "caution": 10}.get(str(found.trust), 3)


if __name__ == "__main__":
    sys.exit(main())
