"""The protocol messages: POST {base_url}/messages, events of several types, the system text beside the conversation."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from typing import Any, Final

from harquel.core.llm.model import Message, ModelProfile, Shape

from .wire import REPLY, Heard, How, Sent, fault_of, mapping, named, several, text, tokens

VERSION: Final = {"anthropic-version": "2023-06-01"}
"""The header without which its servers answer nobody."""
_LONGEST: Final = 8_192
"""Tokens of a reply where nothing else is said: the protocol has to be told."""
_THINKS: Final = {"low": 1_024, "medium": 4_096, "high": 16_384}
"""Tokens to think with, by how much it is to think."""
_ENDS: Final[Mapping[str, How]] = {
    "max_tokens": "length", "model_context_window_exceeded": "length", "refusal": "withheld", "tool_use": "tool",
}  # fmt: skip
_TYPES: Final = frozenset(
    "message message_start message_delta message_stop content_block_start content_block_delta content_block_stop ping "
    "error".split()
)


class Messages:
    """See Wire."""

    def write(self, profile: ModelProfile, messages: Iterable[Message], shape: Shape | None) -> Sent:
        """See Wire. A shape is told as the only tool there is, which has to be called."""
        told = list(messages)
        system = "\n\n".join(m["content"] for m in told if m["role"] == "system")
        thinks = _THINKS[profile.effort] if profile.effort is not None else 0
        body: dict[str, Any] = {
            "model": profile.name, "max_tokens": (profile.longest or _LONGEST) + thinks,
            "messages": [{"role": m["role"], "content": m["content"]} for m in told if m["role"] != "system"],
            "stream": profile.stream,
        }  # fmt: skip
        if system:
            mark = {"cache_control": {"type": "ephemeral"}} if profile.cached else {}
            body["system"] = [{"type": "text", "text": system, **mark}]
        if thinks:
            # Who thinks chooses by itself how: neither a temperature nor a tool can be asked for beside it.
            body["thinking"] = {"type": "enabled", "budget_tokens": thinks}
        else:
            if profile.temperature is not None:
                body["temperature"] = profile.temperature
            if shape is not None and profile.structured:
                body["tools"] = [{"name": REPLY, "description": "The whole reply.", "input_schema": shape}]
                body["tool_choice"] = {"type": "tool", "name": REPLY}
        return Sent("messages", self.keys(profile), {**body, **profile.fields})

    def keys(self, profile: ModelProfile) -> dict[str, str]:
        """See Wire."""
        return VERSION | ({"x-api-key": profile.key} if profile.key else {})

    def hearing(self) -> Hearing:
        """See Wire."""
        return Hearing()

    def listed(self, said: Mapping[str, Any]) -> list[str]:
        """See Wire."""
        return named(said, "data", "id")


class Hearing:
    """See wire.Hearing. The one tool that is ours is the reply, in JSON."""

    def __init__(self) -> None:
        self._ours = False

    def hear(self, chunk: Mapping[str, Any]) -> Heard:
        """See wire.Hearing."""
        kind = text(chunk.get("type"))
        if kind == "error" or "error" in chunk:
            return Heard(fault=fault_of(chunk) or "an error without words")
        match kind:
            case "message":
                return self._whole(chunk)
            case "message_start":
                return Heard(usage=_counted(mapping(mapping(chunk.get("message")).get("usage"))))
            case "content_block_start":
                return Heard(self._begun(mapping(chunk.get("content_block"))))
            case "content_block_delta":
                return Heard(self._more(mapping(chunk.get("delta"))))
            case "message_delta":
                ended = text(mapping(chunk.get("delta")).get("stop_reason"))
                return Heard(how=self._how(ended), usage=_counted(mapping(chunk.get("usage"))))
        return Heard(known=kind in _TYPES)

    def _begun(self, block: Mapping[str, Any]) -> str:
        self._ours = self._ours or (block.get("type") == "tool_use" and block.get("name") == REPLY)
        return text(block.get("text")) if block.get("type") == "text" else ""

    def _more(self, delta: Mapping[str, Any]) -> str:
        if delta.get("type") == "input_json_delta":
            return text(delta.get("partial_json")) if self._ours else ""
        return text(delta.get("text")) if delta.get("type") == "text_delta" else ""

    def _how(self, ended: str) -> How | None:
        how = _ENDS.get(ended, "whole") if ended else None
        return "whole" if how == "tool" and self._ours else how

    def _whole(self, message: Mapping[str, Any]) -> Heard:
        said = []
        for block in several(message.get("content")):
            said.append(self._begun(block))
            if block.get("type") == "tool_use" and block.get("name") == REPLY:
                said.append(json.dumps(block.get("input"), ensure_ascii=False))
        how = self._how(text(message.get("stop_reason")))
        return Heard("".join(said), how, _counted(mapping(message.get("usage"))))


def _counted(usage: Mapping[str, Any]) -> dict[str, int]:
    """What was read from and put into its server's store counts apart from the rest of the prompt there."""
    found = tokens(usage, completion_tokens="output_tokens", cached_tokens="cache_read_input_tokens")
    read = tokens(
        usage, rest="input_tokens", stored="cache_creation_input_tokens", cached="cache_read_input_tokens"
    )  # fmt: skip
    return found | ({"prompt_tokens": sum(read.values())} if "rest" in read else {})
