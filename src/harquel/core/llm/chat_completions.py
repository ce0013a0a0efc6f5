"""The chat-completions wire protocol, streamed, with retries for what passes by itself.

The request runs in a thread of its own so that a silent server cannot hold up a cancellation.
"""

from __future__ import annotations

import json
import queue
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any, Final

import httpx
import tenacity

from harquel.core.errors import Cancelled, CoreError, ModelRefused, ModelUnreachable

from .model import Completion, Message, ModelProfile

RETRIES: Final = 4
LONGEST_REPLY: Final = 200_000
_POLL_S: Final = 0.05


class _Passing(Exception):
    """A failure that may be gone at the next try; `after_s` when the server said how long to wait."""

    def __init__(self, message: str, after_s: float | None = None) -> None:
        super().__init__(message)
        self.after_s = after_s


class ChatCompletions:
    """A model behind POST {base_url}/chat/completions."""

    def __init__(self, profile: ModelProfile, client: httpx.Client | None = None) -> None:
        self._profile = profile
        timeout = httpx.Timeout(profile.timeout_s, connect=5.0)
        self._client = client or httpx.Client(timeout=timeout, limits=httpx.Limits(max_connections=64))

    @property
    def profile(self) -> ModelProfile:
        """Who it is."""
        return self._profile

    def close(self) -> None:
        """Gives the connections back."""
        self._client.close()

    def complete(
        self,
        messages: list[Message],
        *,
        on_piece: Callable[[str], None],
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        """See LanguageModel. A transport retry is not an attempt: the conversation stays as it is."""
        told: queue.SimpleQueue[str | Completion | CoreError] = queue.SimpleQueue()
        abandoned = threading.Event()
        deadline = time.monotonic() + within_s
        threading.Thread(
            target=self._request, args=(messages, told, abandoned, deadline), daemon=True, name="model-call"
        ).start()
        while True:
            try:
                item = told.get(timeout=_POLL_S)
            except queue.Empty:
                if stopped():
                    abandoned.set()
                    raise Cancelled("stopped while the model was writing") from None
                if time.monotonic() > deadline:
                    abandoned.set()
                    raise ModelUnreachable(
                        f"the model {self._profile.name} did not finish in {within_s:.0f} s",
                        "Ask again, or raise limits.inquiry_s in the policy.",
                    ) from None
                continue
            if isinstance(item, str):
                on_piece(item)
            elif isinstance(item, Completion):
                return item
            else:
                raise item

    def _request(
        self,
        messages: list[Message],
        told: queue.SimpleQueue[str | Completion | CoreError],
        abandoned: threading.Event,
        deadline: float,
    ) -> None:
        def wait(state: tenacity.RetryCallState) -> float:
            error = state.outcome.exception() if state.outcome else None
            after = error.after_s if isinstance(error, _Passing) else None
            return after if after is not None else min(4.0, 0.2 * 2.0**state.attempt_number)

        def pause(seconds: float) -> None:
            abandoned.wait(seconds)

        retrying = tenacity.Retrying(
            retry=tenacity.retry_if_exception_type(_Passing),
            wait=wait,
            stop=lambda state: state.attempt_number >= RETRIES or abandoned.is_set() or time.monotonic() > deadline,
            sleep=pause,
            reraise=True,
        )
        try:
            told.put(retrying(self._once, messages, told.put, abandoned))
        except _Passing as error:
            told.put(ModelUnreachable(f"The language model cannot be used: {error}.", self._hint()))
        except CoreError as error:
            told.put(error)
        except Exception as error:  # the waiting side must hear of every end, also of our own mistakes
            told.put(ModelUnreachable(f"The call of the language model broke: {error!r}.", self._hint()))

    def _hint(self) -> str:
        return f"Check that a model server runs at {self._profile.base_url} and knows {self._profile.name!r}."

    def _once(self, messages: list[Message], piece: Callable[[str], None], abandoned: threading.Event) -> Completion:
        body = {
            "model": self._profile.name,
            "messages": messages,
            "temperature": self._profile.temperature,
            "stream": True,
            "stream_options": {"include_usage": True},
        }
        headers = {"Authorization": f"Bearer {self._profile.key}"} if self._profile.key else {}
        url = self._profile.base_url.rstrip("/") + "/chat/completions"
        try:
            with self._client.stream("POST", url, json=body, headers=headers) as response:
                self._check(response)
                return self._read(response, piece, abandoned)
        except httpx.ConnectError as error:
            raise _Passing(f"nobody answers at {self._profile.base_url} ({error})") from error
        except httpx.HTTPError as error:
            raise _Passing(f"the connection broke ({type(error).__name__})") from error

    def _check(self, response: httpx.Response) -> None:
        if response.status_code == 200:
            return
        response.read()
        if response.status_code in (408, 409, 429) or response.status_code >= 500:
            after = response.headers.get("retry-after", "")
            wait = min(float(after), 20.0) if after.replace(".", "", 1).isdigit() else None
            raise _Passing(f"its server answered {response.status_code}", wait)
        raise ModelRefused(
            f"The language model's server answered {response.status_code}: {response.text[:200]}", self._hint()
        )

    def _read(self, response: httpx.Response, piece: Callable[[str], None], abandoned: threading.Event) -> Completion:
        text, length, finished, usage = [], 0, False, {"prompt_tokens": 0, "completion_tokens": 0}
        for chunk in _chunks(response):
            if abandoned.is_set():
                raise Cancelled("stopped while the model was writing")
            usage.update({k: int(v) for k, v in (chunk.get("usage") or {}).items() if k in usage})
            for choice in chunk.get("choices") or ():
                part = (choice.get("delta") or choice.get("message") or {}).get("content")
                if part:
                    text.append(part)
                    piece(part)
                    length += len(part)
                    if length > LONGEST_REPLY:
                        raise ModelRefused(
                            f"The language model wrote more than {LONGEST_REPLY:,} characters.",
                            "Check its settings, or use another model.",
                        )
                finished = finished or choice.get("finish_reason") is not None
        if not finished:
            raise _Passing("its reply broke off in the middle")
        # JSON can carry halves of surrogate pairs, which no record and no terminal can.
        whole = "".join(text).encode("utf-8", "replace").decode("utf-8")
        return Completion(whole, usage["prompt_tokens"], usage["completion_tokens"])


def _chunks(response: httpx.Response) -> Iterator[dict[str, Any]]:
    """The JSON objects of a reply, streamed as server-sent events or sent whole."""
    try:
        if "event-stream" not in response.headers.get("content-type", ""):
            response.read()
            yield response.json()
            return
        for line in response.iter_lines():
            if line.startswith("data:") and line[5:].strip() != "[DONE]":
                yield json.loads(line[5:])
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise _Passing("its reply is not valid JSON") from error
