"""Several models asked at the same time, so that nobody waits for one after the other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from harquel.core.errors import CoreError
from harquel.core.llm.model import Completion, LanguageModel, Message


@dataclass(frozen=True)
class Call:
    """One wish for a completion; see LanguageModel.complete."""

    model: LanguageModel
    messages: list[Message]
    on_piece: Callable[[str], None] | None = None


def at_once(calls: Sequence[Call], stopped: Callable[[], bool], within_s: float) -> list[Completion | CoreError]:
    """What each came to, in their order, once all have ended: none loses its reply by the fault of another."""

    def made(call: Call) -> Completion | CoreError:
        try:
            return call.model.complete(call.messages, on_piece=call.on_piece, stopped=stopped, within_s=within_s)
        except CoreError as error:
            return error

    # One of them by whoever asks, who waits anyway.
    with ThreadPoolExecutor(max(1, len(calls) - 1)) as threads:
        others = [threads.submit(made, call) for call in calls[1:]]
        first = [made(call) for call in calls[:1]]
        return [*first, *(other.result() for other in others)]
