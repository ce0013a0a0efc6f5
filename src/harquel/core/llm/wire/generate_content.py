"""The protocol generate-content: POST {base_url}/models/NAME:generateContent, or streamGenerateContent."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Final
from urllib.parse import quote

from harquel.core.llm.model import Message, ModelProfile, Shape

from .wire import Heard, How, Sent, fault_of, mapping, named, several, text, tokens

_THINKS: Final = {"low": 1_024, "medium": 8_192, "high": 24_576}
"""Tokens to think with, by how much it is to think."""
_ENDS: Final[Mapping[str, How]] = {
    "STOP": "whole", "MAX_TOKENS": "length", "MALFORMED_FUNCTION_CALL": "tool", "UNEXPECTED_TOOL_CALL": "tool",
}  # fmt: skip
"""Any other end is a reason to keep a reply back."""


class GenerateContent:
    """See Wire."""

    def write(self, profile: ModelProfile, messages: Iterable[Message], shape: Shape | None) -> Sent:
        """See Wire."""
        told = list(messages)
        system = "\n\n".join(m["content"] for m in told if m["role"] == "system")
        how: dict[str, Any] = {}
        if profile.temperature is not None:
            how["temperature"] = profile.temperature
        if profile.longest is not None:
            how["maxOutputTokens"] = profile.longest
        if profile.effort is not None:
            how["thinkingConfig"] = {"thinkingBudget": _THINKS[profile.effort]}
        if shape is not None and profile.structured:
            how |= {"responseMimeType": "application/json", "responseJsonSchema": shape}
        body: dict[str, Any] = {
            "contents": [
                {"role": "model" if m["role"] == "assistant" else "user", "parts": [{"text": m["content"]}]}
                for m in told if m["role"] != "system"
            ],
            "generationConfig": how,
        }  # fmt: skip
        if system:
            body["systemInstruction"] = {"parts": [{"text": system}]}
        action = "streamGenerateContent?alt=sse" if profile.stream else "generateContent"
        return Sent(f"models/{quote(profile.name, safe='')}:{action}", self.keys(profile), {**body, **profile.fields})

    def keys(self, profile: ModelProfile) -> dict[str, str]:
        """See Wire."""
        return {"x-goog-api-key": profile.key} if profile.key else {}

    def hearing(self) -> Hearing:
        """See Wire."""
        return Hearing()

    def listed(self, said: Mapping[str, Any]) -> list[str]:
        """See Wire."""
        return [name.removeprefix("models/") for name in named(said, "models", "name")]


class Hearing:
    """See wire.Hearing."""

    def __init__(self) -> None:
        self._tool = False

    def hear(self, chunk: Mapping[str, Any]) -> Heard:
        """See wire.Hearing."""
        if fault := fault_of(chunk):
            return Heard(fault=fault)
        said: list[str] = []
        how: How | None = "withheld" if mapping(chunk.get("promptFeedback")).get("blockReason") else None
        for candidate in several(chunk.get("candidates")):
            for part in several(mapping(candidate.get("content")).get("parts")):
                self._tool = self._tool or "functionCall" in part
                said.append("" if part.get("thought") else text(part.get("text")))
            if ended := text(candidate.get("finishReason")):
                how = how or _ENDS.get(ended, "withheld")
        if how == "whole" and self._tool:
            how = "tool"
        usage = mapping(chunk.get("usageMetadata"))
        counted = tokens(
            usage, prompt_tokens="promptTokenCount", completion_tokens="candidatesTokenCount",
            reasoning_tokens="thoughtsTokenCount", cached_tokens="cachedContentTokenCount",
        )  # fmt: skip
        if "completion_tokens" in counted:
            # What it thinks with is paid for like what it says.
            counted["completion_tokens"] += counted.get("reasoning_tokens", 0)
        return Heard("".join(said), how, counted, known=bool({"candidates", "promptFeedback"} & chunk.keys()))
