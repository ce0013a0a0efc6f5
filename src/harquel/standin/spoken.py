"""The three protocols as a server speaks them: what a call says, and a reply whole or in pieces."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Final, Protocol

End = str
"""Why a reply ended: stop, length, refused, filtered, tool."""
TOOL: Final = "look_up"
"""What is called where nobody gave a tool."""


@dataclass(frozen=True)
class Asked:
    """A call as it was understood."""

    model: str
    messages: list[dict[str, str]]
    stream: bool
    shaped: bool = False
    """Whether it asks for a reply of a shape."""


@dataclass(frozen=True)
class Usage:
    """Tokens."""

    prompt: int
    completion: int
    thought: int = 0


class Spoken(Protocol):
    """One of them. `asked` raises KeyError, TypeError for a body that is none of its calls."""

    def asked(self, body: Any, model: str, streams: bool) -> Asked:
        """What a body says; `model` and `streams` are what the path says."""

    def whole(self, model: str, text: str, end: End, usage: Usage, shaped: bool) -> dict[str, Any]:
        """A reply in one."""

    def frames(
        self, model: str, pieces: Iterable[str], end: End, usage: Usage, shaped: bool
    ) -> Iterator[tuple[str, dict[str, Any]]]:  # fmt: skip
        """The same piece by piece: names of events (empty for none) and what they hold."""

    def error(self, status: int, message: str, kind: str) -> dict[str, Any]:
        """What is wrong with a call."""


def _plain(content: Any) -> str:
    """A text, or the texts of its parts."""
    if isinstance(content, str):
        return content
    return "".join(str(part["text"]) for part in content)


class ChatCompletions:
    """See Spoken."""

    _ENDS: Final = {"refused": "stop", "filtered": "content_filter", "tool": "tool_calls"}

    def asked(self, body: Any, model: str, streams: bool) -> Asked:
        """See Spoken."""
        messages = [
            {"role": {"developer": "system"}.get(str(m["role"]), str(m["role"])), "content": _plain(m["content"])}
            for m in body["messages"]
        ]
        return Asked(str(body["model"]), messages, bool(body.get("stream")), "response_format" in body)

    def whole(self, model: str, text: str, end: End, usage: Usage, shaped: bool) -> dict[str, Any]:
        """See Spoken."""
        choice = {"index": 0, "message": self._said(text, end), "finish_reason": self._ENDS.get(end, end)}
        return {**_envelope(model, [choice]), "object": "chat.completion", "usage": self._usage(usage)}

    def frames(
        self, model: str, pieces: Iterable[str], end: End, usage: Usage, shaped: bool
    ) -> Iterator[tuple[str, dict[str, Any]]]:  # fmt: skip
        """See Spoken."""
        for piece in pieces:
            yield "", _envelope(model, [{"index": 0, "delta": self._said(piece, ""), "finish_reason": None}])
        if end in ("tool", "refused"):
            yield "", _envelope(model, [{"index": 0, "delta": self._said("", end), "finish_reason": None}])
        yield "", _envelope(model, [{"index": 0, "delta": {}, "finish_reason": self._ENDS.get(end, end)}])
        yield "", {**_envelope(model, []), "usage": self._usage(usage)}

    def error(self, status: int, message: str, kind: str) -> dict[str, Any]:
        """See Spoken."""
        return {"error": {"message": message, "type": kind, "code": kind}}

    def _said(self, text: str, end: End) -> dict[str, Any]:
        said: dict[str, Any] = {"role": "assistant", "content": text}
        if end == "tool":
            said["tool_calls"] = [
                {"index": 0, "id": "call_1", "type": "function", "function": {"name": TOOL, "arguments": "{}"}}
            ]
        if end == "refused":
            said |= {"content": None, "refusal": "I cannot help with that."}
        return said

    def _usage(self, usage: Usage) -> dict[str, Any]:
        return {
            "prompt_tokens": usage.prompt, "completion_tokens": usage.completion,
            "total_tokens": usage.prompt + usage.completion,
            "completion_tokens_details": {"reasoning_tokens": usage.thought},
        }  # fmt: skip


def _envelope(model: str, choices: list[dict[str, Any]]) -> dict[str, Any]:
    return {
        "id": "chatcmpl-standin", "object": "chat.completion.chunk", "created": 1789380000, "model": model,
        "choices": choices,
    }  # fmt: skip


class Messages:
    """See Spoken."""

    _ENDS: Final = {
        "stop": "end_turn", "length": "max_tokens", "refused": "refusal", "filtered": "refusal", "tool": "tool_use",
    }  # fmt: skip

    def asked(self, body: Any, model: str, streams: bool) -> Asked:
        """See Spoken."""
        int(body["max_tokens"])
        system = [{"role": "system", "content": _plain(body["system"])}] if body.get("system") else []
        said = [{"role": str(m["role"]), "content": _plain(m["content"])} for m in body["messages"]]
        if any(m["role"] == "system" for m in said):
            raise KeyError("the system text stands beside the messages")
        return Asked(str(body["model"]), [*system, *said], bool(body.get("stream")), "tool_choice" in body)

    def whole(self, model: str, text: str, end: End, usage: Usage, shaped: bool) -> dict[str, Any]:
        """See Spoken."""
        content: list[dict[str, Any]] = []
        if shaped:
            content.append({"type": "tool_use", "id": "tool_1", "name": "reply", "input": _loaded(text)})
        elif text:
            content.append({"type": "text", "text": text})
        if end == "tool":
            content.append({"type": "tool_use", "id": "tool_2", "name": TOOL, "input": {}})
        told = {"input_tokens": usage.prompt, "output_tokens": usage.completion + usage.thought}
        return {
            "id": "msg_standin", "type": "message", "role": "assistant", "model": model, "content": content,
            "stop_reason": "tool_use" if shaped else self._ENDS[end], "usage": told,
        }  # fmt: skip

    def frames(
        self, model: str, pieces: Iterable[str], end: End, usage: Usage, shaped: bool
    ) -> Iterator[tuple[str, dict[str, Any]]]:  # fmt: skip
        """See Spoken."""
        opened = self.whole(model, "", end, usage, False) | {"content": [], "stop_reason": None}
        opened["usage"] = {"input_tokens": usage.prompt, "output_tokens": 1}
        yield _event("message_start", message=opened)
        block = {"type": "tool_use", "id": "tool_1", "name": "reply", "input": {}} if shaped else _TEXT
        yield _event("content_block_start", index=0, content_block=block)
        yield _event("ping")
        for piece in pieces:
            delta = (
                {"type": "input_json_delta", "partial_json": piece} if shaped else {"type": "text_delta", "text": piece}
            )
            yield _event("content_block_delta", index=0, delta=delta)
        yield _event("content_block_stop", index=0)
        if end == "tool":
            block = {"type": "tool_use", "id": "tool_2", "name": TOOL, "input": {}}
            yield _event("content_block_start", index=1, content_block=block)
            yield _event("content_block_delta", index=1, delta={"type": "input_json_delta", "partial_json": "{}"})
            yield _event("content_block_stop", index=1)
        told = {"output_tokens": usage.completion + usage.thought}
        yield _event("message_delta", delta={"stop_reason": "tool_use" if shaped else self._ENDS[end]}, usage=told)
        yield _event("message_stop")

    def error(self, status: int, message: str, kind: str) -> dict[str, Any]:
        """See Spoken."""
        return {"type": "error", "error": {"type": kind, "message": message}}


_TEXT: Final = {"type": "text", "text": ""}


def _event(kind: str, **more: Any) -> tuple[str, dict[str, Any]]:
    return kind, {"type": kind, **more}


def _loaded(text: str) -> Any:
    try:
        return json.loads(text)
    except ValueError:
        return {"sql": text}


class GenerateContent:
    """See Spoken."""

    _ENDS: Final = {
        "stop": "STOP", "length": "MAX_TOKENS", "refused": "PROHIBITED_CONTENT", "filtered": "SAFETY", "tool": "STOP",
    }  # fmt: skip

    def asked(self, body: Any, model: str, streams: bool) -> Asked:
        """See Spoken."""
        system = body.get("systemInstruction")
        told = [{"role": "system", "content": _plain(system["parts"])}] if system else []
        roles = {"user": "user", "model": "assistant"}
        told += [{"role": roles[c["role"]], "content": _plain(c["parts"])} for c in body["contents"]]
        shaped = "responseJsonSchema" in (body.get("generationConfig") or {})
        return Asked(model, told, streams, shaped)

    def whole(self, model: str, text: str, end: End, usage: Usage, shaped: bool) -> dict[str, Any]:
        """See Spoken."""
        parts: list[dict[str, Any]] = [{"text": text}] if text else []
        if end == "tool":
            parts.append({"functionCall": {"name": TOOL, "args": {}}})
        candidate = {"index": 0, "content": {"role": "model", "parts": parts}, "finishReason": self._ENDS[end]}
        return {"candidates": [candidate], "usageMetadata": self._usage(usage), "modelVersion": model}

    def frames(
        self, model: str, pieces: Iterable[str], end: End, usage: Usage, shaped: bool
    ) -> Iterator[tuple[str, dict[str, Any]]]:  # fmt: skip
        """See Spoken."""
        for piece in pieces:
            content = {"role": "model", "parts": [{"text": piece}]}
            yield "", {"candidates": [{"index": 0, "content": content}], "modelVersion": model}
        yield "", self.whole(model, "", end, usage, shaped)

    def error(self, status: int, message: str, kind: str) -> dict[str, Any]:
        """See Spoken."""
        return {"error": {"code": status, "message": message, "status": kind.upper()}}

    def _usage(self, usage: Usage) -> dict[str, int]:
        return {
            "promptTokenCount": usage.prompt, "candidatesTokenCount": usage.completion,
            "thoughtsTokenCount": usage.thought, "totalTokenCount": usage.prompt + usage.completion + usage.thought,
        }  # fmt: skip


PROTOCOLS: Final[Mapping[str, Spoken]] = {
    "chat-completions": ChatCompletions(), "messages": Messages(), "generate-content": GenerateContent(),
}  # fmt: skip
