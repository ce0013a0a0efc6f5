"""What the core knows of a language model, whatever protocol it speaks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any, Literal, Protocol, TypedDict

ProtocolName = Literal["chat-completions", "messages", "generate-content"]
Effort = Literal["low", "medium", "high"]
OnPiece = Callable[[str | None], None]
"""Hears the pieces of a reply as they come; None: what has come so far does not count, the reply begins anew."""
Shape = Mapping[str, Any]
"""What a reply must look like, as a JSON Schema, for those whose protocol can be told."""


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
    temperature: float | None = 0.0
    """None where it is not to be told."""
    timeout_s: float = 60.0
    prompt_price: Decimal = Decimal(0)
    completion_price: Decimal = Decimal(0)
    """Prices are per million tokens."""
    protocol: ProtocolName = "chat-completions"
    called: str = ""
    """Its name in the configuration."""
    longest: int | None = None
    """Tokens that a reply may have; None where that is left to its server."""
    effort: Effort | None = None
    """How much it is to think before it speaks; None where it is not told."""
    system: Literal["system", "developer"] = "system"
    """What its protocol calls the message that says what it is there for."""
    stream: bool = True
    structured: bool = False
    """Whether it is told the shape of its reply."""
    cached: bool = False
    """Whether its server is told which part of a prompt stays the same, where that has to be said."""
    fields: Mapping[str, Any] = field(default_factory=dict)
    """What its server takes beyond the protocol; it wins over our own."""

    def __repr__(self) -> str:
        return f"ModelProfile({self.name!r} at {self.base_url!r})"


@dataclass(frozen=True)
class Completion:
    """A whole reply with the tokens that its server counted, or that were worked out where it did not."""

    text: str
    prompt_tokens: int
    completion_tokens: int
    """Those that it thought with among them."""
    reasoning_tokens: int = 0
    cached_tokens: int = 0
    """Of the prompt, which its server had read before."""
    estimated: bool = False
    """Whether its tokens are worked out from characters, as its server did not count them."""
    cut: bool = False
    """Whether it stopped because it may say no more."""
    first_ms: float = 0.0
    """Until its first piece came."""
    by: ModelProfile | None = None
    """Who gave it, where several might have; None: who was asked."""
    reused: str = ""
    """The inquiry for which it was given before; empty: it is new."""


def cost_of(prompt_tokens: int, completion_tokens: int, profile: ModelProfile) -> Decimal:
    """What a call costs, in the currency of its prices, to a billionth of it."""
    cost = prompt_tokens * profile.prompt_price + completion_tokens * profile.completion_price
    return (cost / 1_000_000).quantize(Decimal("1e-9"))


def estimated_tokens(characters: int) -> int:
    """About as many as most models make of a text of so many characters."""
    return -(-characters // 4)


class LanguageModel(Protocol):
    """Anything that continues a conversation."""

    @property
    def profile(self) -> ModelProfile:
        """Who it is; of several who is asked first."""

    def complete(
        self,
        messages: list[Message],
        *,
        on_piece: OnPiece | None,
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        """The reply; pieces are told as they come, where somebody wants to hear them.

        Raises ModelUnreachable or ModelRefused, and Cancelled soon after `stopped()` turns true.
        """
