"""The chat-completions wire protocol, streamed, with retries for what passes by itself.

The request runs in a thread of its own so that a silent server cannot hold up a cancellation.
"""

from __future__ import annotations

import logging
import socket
import ssl
import threading
import time
from collections.abc import Callable
from typing import Any, Final

import httpx
import tenacity

from harquel.core.errors import Cancelled, CoreError, ModelRefused, ModelUnreachable
from harquel.web.certificates import believed

from .arriving import NotUnderstood, TooMuch, counted, objects, said, whole
from .model import Completion, Message, ModelProfile

log = logging.getLogger("harquel.model")
RETRIES: Final = 4
LONGEST_REPLY: Final = 200_000
_POLL_S: Final = 0.05


class _Passing(Exception):
    """A failure that may be gone at the next try; `after_s` when the server said how long to wait."""

    def __init__(self, message: str, after_s: float | None = None) -> None:
        super().__init__(message)
        self.after_s = after_s


def _why(error: BaseException | None) -> str:
    """What the system said behind an error of the library, in brackets, where it said something."""
    while error is not None:
        if isinstance(error, ssl.SSLCertVerificationError):
            return f" (its certificate is not believed: {error.verify_message})"
        if isinstance(error, OSError) and error.strerror:
            return f" ({error.strerror[:1].lower()}{error.strerror[1:]})"
        error = error.__cause__ or error.__context__
    return ""


def _in_words(error: httpx.HTTPError) -> str:
    if isinstance(error, httpx.TimeoutException):
        return "its server was silent for too long"
    if isinstance(error, httpx.RemoteProtocolError):
        return "its server hung up, or what it said is no HTTP"
    return f"the connection to it broke{_why(error)}"


class ChatCompletions:
    """A model behind POST {base_url}/chat/completions."""

    def __init__(self, profile: ModelProfile, client: httpx.Client | None = None) -> None:
        self._profile = profile
        timeout = httpx.Timeout(profile.timeout_s, connect=5.0)
        # A connection of its own for each call: one that was cut serves nobody else.
        limits = httpx.Limits(max_connections=64, max_keepalive_connections=0)
        self._client = client or httpx.Client(timeout=timeout, limits=limits, verify=believed(profile.base_url))

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
        on_piece: Callable[[str], None] | None,
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        """See LanguageModel. A transport retry is not an attempt: the conversation stays as it is."""
        call = _Call(time.monotonic() + within_s)
        threading.Thread(target=self._request, args=(messages, call), daemon=True, name="model-call").start()
        try:
            while True:
                # Looked at by time, not by silence: a stream that never pauses ends as well.
                if stopped():
                    raise Cancelled("stopped while the model was writing")
                if time.monotonic() > call.deadline:
                    raise ModelUnreachable(
                        f"the model {self._profile.name} did not finish in {within_s:.0f} s",
                        "Ask again, or raise limits.inquiry_s in the policy.",
                    )
                pieces, end = call.next()
                if pieces and on_piece is not None:
                    on_piece(pieces)
                if isinstance(end, Completion):
                    return end
                # That the other thread has left off is told above, with its reason.
                if end is not None and not isinstance(end, Cancelled):
                    raise end
        finally:
            call.give_up()

    def _request(self, messages: list[Message], call: _Call) -> None:
        def wait(state: tenacity.RetryCallState) -> float:
            error = state.outcome.exception() if state.outcome else None
            after = error.after_s if isinstance(error, _Passing) else None
            return after if after is not None else min(4.0, 0.2 * 2.0**state.attempt_number)

        def pause(seconds: float) -> None:
            call.abandoned.wait(seconds)

        retrying = tenacity.Retrying(
            retry=tenacity.retry_if_exception_type(_Passing),
            wait=wait,
            stop=lambda state: state.attempt_number >= RETRIES or call.is_over(),
            sleep=pause,
            reraise=True,
        )
        try:
            call.end(retrying(self._once, messages, call))
        except _Passing as error:
            call.end(ModelUnreachable(f"The language model cannot be used: {error}.", self._hint()))
        except CoreError as error:
            call.end(error)
        except Exception:  # the waiting side must hear of every end, also of our own mistakes
            log.exception("a call of the model %s broke", self._profile.name)
            call.end(
                ModelUnreachable("The call of the language model broke; the service's log says how.", self._hint())
            )

    def _hint(self) -> str:
        return f"Check that a model server runs at {self._profile.base_url} and knows {self._profile.name!r}."

    def _once(self, messages: list[Message], call: _Call) -> Completion:
        body = {
            "model": self._profile.name,
            "messages": messages,
            "temperature": self._profile.temperature,
            "stream": True,
            "stream_options": {"include_usage": True},
        }
        headers = {"Accept-Encoding": "identity"}
        if self._profile.key:
            headers["Authorization"] = f"Bearer {self._profile.key}"
        url = self._profile.base_url.rstrip("/") + "/chat/completions"
        try:
            request = self._client.build_request("POST", url, json=body, headers=headers, timeout=self._patience(call))
            request.extensions["trace"] = call.notice
            response = self._client.send(request, stream=True)
            try:
                self._check(response, call)
                return self._read(response, call)
            finally:
                response.close()
        except NotUnderstood as error:
            raise _Passing(str(error)) from error
        except TooMuch as error:
            raise ModelRefused(
                f"The language model sent {error}.", "Check its settings, or use another model."
            ) from error
        except httpx.ConnectError as error:
            raise _Passing(f"nobody answers at {self._profile.base_url}{_why(error)}") from error
        except httpx.HTTPError as error:
            raise _Passing(_in_words(error)) from error

    def _patience(self, call: _Call) -> httpx.Timeout:
        """A silent server is not waited for longer than the inquiry has."""
        left = max(0.1, call.deadline - time.monotonic())
        # A little more, so that the end of the time is said by whoever waits for it.
        return httpx.Timeout(min(self._profile.timeout_s, left + 1.0), connect=min(5.0, left + 1.0))

    def _check(self, response: httpx.Response, call: _Call) -> None:
        if response.status_code == 200:
            return
        if response.status_code in (408, 409, 429) or response.status_code >= 500:
            raise _Passing(
                f"its server answered {response.status_code}", _seconds(response.headers.get("retry-after", ""))
            )
        try:
            words = whole(response, call.look, 100_000).decode("utf-8", "replace")[:200]
        except (TooMuch, NotUnderstood):
            words = "more than can be shown"
        raise ModelRefused(f"The language model's server answered {response.status_code}: {words}", self._hint())

    def _read(self, response: httpx.Response, call: _Call) -> Completion:
        text, length, finished, usage = [], 0, False, {"prompt_tokens": 0, "completion_tokens": 0}
        for chunk in objects(response, call.look):
            usage |= counted(chunk)
            part, ended = said(chunk)
            if part:
                text.append(part)
                call.tell(part)
                length += len(part)
                if length > LONGEST_REPLY:
                    raise ModelRefused(
                        f"The language model wrote more than {LONGEST_REPLY:,} characters.",
                        "Check its settings, or use another model.",
                    )
            finished = finished or ended
        if not finished:
            raise _Passing("its reply broke off in the middle")
        # JSON can carry halves of surrogate pairs, which no record and no terminal can.
        plain = "".join(text).encode("utf-8", "replace").decode("utf-8")
        return Completion(plain, usage["prompt_tokens"], usage["completion_tokens"])


class _Call:
    """One call, seen from both of its threads: what has been told and not yet heard, and when it is over."""

    def __init__(self, deadline: float) -> None:
        self.deadline = deadline
        self.abandoned = threading.Event()
        self._told: list[str] = []
        self._end: Completion | CoreError | None = None
        self._changed = threading.Condition()
        self._stream: Any = None

    # -- the thread that talks to the server

    def tell(self, piece: str) -> None:
        with self._changed:
            self._told.append(piece)

    def end(self, how: Completion | CoreError) -> None:
        with self._changed:
            self._end = how
            self._changed.notify()

    def look(self) -> None:
        """Raises Cancelled once nobody waits any more."""
        if self.is_over():
            raise Cancelled("stopped while the model was writing")

    def is_over(self) -> bool:
        return self.abandoned.is_set() or time.monotonic() > self.deadline

    def notice(self, event: str, info: dict[str, Any]) -> None:
        """The connection, as soon as there is one: whoever gives up cuts it, so that no thread waits on it."""
        if event in ("connection.connect_tcp.complete", "connection.start_tls.complete"):
            self._stream = info["return_value"]
            if self.abandoned.is_set():
                self._cut()

    # -- the thread that waits

    def next(self) -> tuple[str, Completion | CoreError | None]:
        """What has come since, and the end where it has come too; waits for a moment, in which words gather.

        Whoever reads along sees no difference; to wake for every word takes longer than to read it.
        """
        with self._changed:
            if self._end is None:
                self._changed.wait(_POLL_S)
            pieces, self._told = "".join(self._told), []
            return pieces, self._end

    def give_up(self) -> None:
        """Nobody waits any more. Without effect on a call that has ended."""
        self.abandoned.set()
        if self._end is None:
            self._cut()

    def _cut(self) -> None:
        line = self._stream.get_extra_info("socket") if self._stream is not None else None
        if line is not None:
            try:
                line.shutdown(socket.SHUT_RDWR)
            except OSError:
                pass  # it is gone already


def _seconds(text: str) -> float | None:
    """What a server says that one should wait; at most 20 s."""
    try:
        after = float(text)
    except ValueError:
        return None
    return min(after, 20.0) if after >= 0 else None
