"""Several models asked at the same time, so that nobody waits for one after the other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from harquel.core.errors import CoreError
from harquel.core.llm.model import Completion, LanguageModel, Message, OnPiece
from harquel.core.together import together


@dataclass(frozen=True)
class Call:
    """One wish for a completion; see LanguageModel.complete."""

    model: LanguageModel
    messages: list[Message]
    on_piece: OnPiece | None = None


def at_once(calls: Sequence[Call], stopped: Callable[[], bool], within_s: float) -> list[Completion | CoreError]:
    """What each came to, in their order; see together."""
    return together([
        partial(c.model.complete, c.messages, on_piece=c.on_piece, stopped=stopped, within_s=within_s) for c in calls
    ])  # fmt: skip
