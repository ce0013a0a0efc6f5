"""What the core knows of a language model, whatever protocol it speaks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, Protocol, TypedDict


class Message(TypedDict):
    """One message of a conversation."""

    role: Literal["system", "user", "assistant"]
    content: str


@dataclass(frozen=True)
class ModelProfile:
    """Where a model answers and how it is asked. `key` is the secret itself; repr hides it."""

    base_url: str
    name: str
    key: str | None = None
    temperature: float = 0.0
    timeout_s: float = 60.0
    prompt_price: float = 0.0
    completion_price: float = 0.0
    """Prices are per million tokens."""

    def __repr__(self) -> str:
        return f"ModelProfile({self.name!r} at {self.base_url!r})"


@dataclass(frozen=True)
class Completion:
    """A whole reply with the tokens that the server counted (0 where it did not say)."""

    text: str
    prompt_tokens: int
    completion_tokens: int


class LanguageModel(Protocol):
    """Anything that continues a conversation."""

    @property
    def profile(self) -> ModelProfile:
        """Who it is."""

    def complete(
        self,
        messages: list[Message],
        *,
        on_piece: Callable[[str], None] | None,
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        """The reply; pieces are told as they come, where somebody wants to hear them.

        Raises ModelUnreachable or ModelRefused, and Cancelled soon after `stopped()` turns true.
        """
