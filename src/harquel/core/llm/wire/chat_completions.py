"""The protocol chat-completions: POST {base_url}/chat/completions."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Final

from harquel.core.llm.model import Message, ModelProfile, Shape

from .wire import REPLY, Heard, How, Sent, fault_of, mapping, named, several, text, tokens

_ENDS: Final[Mapping[str, How]] = {
    "length": "length", "content_filter": "withheld", "tool_calls": "tool", "function_call": "tool",
}  # fmt: skip


class ChatCompletions:
    """See Wire."""

    def write(self, profile: ModelProfile, messages: Iterable[Message], shape: Shape | None) -> Sent:
        """See Wire."""
        body: dict[str, Any] = {
            "model": profile.name,
            "messages": [
                {"role": profile.system if m["role"] == "system" else m["role"], "content": m["content"]}
                for m in messages
            ],
            "stream": profile.stream,
        }
        if profile.stream:
            body["stream_options"] = {"include_usage": True}
        if profile.temperature is not None:
            body["temperature"] = profile.temperature
        if profile.longest is not None:
            body["max_tokens"] = profile.longest
        if profile.effort is not None:
            body["reasoning_effort"] = profile.effort
        if shape is not None and profile.structured:
            form = {"name": REPLY, "schema": shape}
            body["response_format"] = {"type": "json_schema", "json_schema": form}
        return Sent("chat/completions", self.keys(profile), {**body, **profile.fields})

    def keys(self, profile: ModelProfile) -> dict[str, str]:
        """See Wire."""
        return {"Authorization": f"Bearer {profile.key}"} if profile.key else {}

    def hearing(self) -> Hearing:
        """See Wire."""
        return Hearing()

    def listed(self, said: Mapping[str, Any]) -> list[str]:
        """See Wire."""
        return named(said, "data", "id")


class Hearing:
    """See wire.Hearing."""

    def hear(self, chunk: Mapping[str, Any]) -> Heard:
        """See wire.Hearing."""
        if fault := fault_of(chunk):
            return Heard(fault=fault)
        parts: list[str] = []
        how: How | None = None
        for choice in several(chunk.get("choices")):
            part = mapping(choice.get("delta")) or mapping(choice.get("message"))
            parts.append(text(part.get("content")))
            if text(part.get("refusal")):
                how = "withheld"
            if ended := text(choice.get("finish_reason")):
                how = how or _ENDS.get(ended, "whole")
        usage = mapping(chunk.get("usage"))
        counted = tokens(usage, prompt_tokens="prompt_tokens", completion_tokens="completion_tokens")
        counted |= tokens(mapping(usage.get("prompt_tokens_details")), cached_tokens="cached_tokens")
        counted |= tokens(mapping(usage.get("completion_tokens_details")), reasoning_tokens="reasoning_tokens")
        return Heard("".join(parts), how, counted, known=isinstance(chunk.get("choices"), list))
