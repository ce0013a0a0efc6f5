"""A language model behind HTTP, in any of the protocols: streamed or whole, with retries for what passes by itself.

The request runs in a thread of its own so that a silent server cannot hold up a cancellation.
"""

from __future__ import annotations

import json
import logging
import socket
import ssl
import threading
import time
from collections.abc import Callable, Mapping
from typing import Any, Final

import httpx
import tenacity

from harquel.core.errors import Cancelled, CoreError, ModelRefused, ModelUnreachable
from harquel.core.language.say import said_as
from harquel.web.certificates import believed

from .arriving import NotUnderstood, TooMuch, objects, whole
from .model import Completion, Message, ModelProfile, OnPiece, Shape, estimated_tokens
from .statuses import asked_to_wait, passes, refusal
from .wire import WIRES, Heard, Hearing, Sent

log = logging.getLogger("harquel.model")
RETRIES: Final = 4
LONGEST_REPLY: Final = 200_000
_POLL_S: Final = 0.05
_SHOWN: Final = 100_000
"""Bytes of a refusal that are read."""


class _Passing(Exception):
    """A failure that may be gone at the next try; `after_s` when the server said how long to wait."""

    def __init__(self, message: str, after_s: float | None = None) -> None:
        super().__init__(message)
        self.message, self.after_s = message, after_s


def _why(error: BaseException | None) -> str:
    """What the system said behind an error of the library, in brackets, where it said something."""
    while error is not None:
        if isinstance(error, ssl.SSLCertVerificationError):
            return f" ({error.verify_message})"
        if isinstance(error, OSError) and error.strerror:
            return f" ({error.strerror[:1].lower()}{error.strerror[1:]})"
        error = error.__cause__ or error.__context__
    return ""


def _without_key(words: str, profile: ModelProfile) -> str:
    """What a server says, which may say our key again."""
    return words.replace(profile.key, "•••") if profile.key else words


def _in_words(error: httpx.HTTPError, profile: ModelProfile) -> str:
    if isinstance(error, httpx.ConnectError):
        return said_as("model-nobody", url=profile.base_url, why=_why(error))
    if isinstance(error, httpx.TimeoutException):
        return said_as("model-silent")
    if isinstance(error, httpx.RemoteProtocolError):
        return said_as("model-hung-up")
    return said_as("model-broke", why=_why(error))


_HANGS_S: Final = 10.0
"""Seconds of silence that say something of a model, and not of the time that was left for it."""


class HttpModel:
    """A model at an address, in the protocol that its profile names."""

    def __init__(self, profile: ModelProfile, client: httpx.Client | None = None) -> None:
        self._profile, self._wire = profile, WIRES[profile.protocol]
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
        on_piece: OnPiece | None,
        stopped: Callable[[], bool],
        within_s: float,
        shape: Shape | None = None,
        tries: int = RETRIES,
    ) -> Completion:
        """See LanguageModel. A transport retry is not an attempt: the conversation stays as it is."""
        call = _Call(time.monotonic() + within_s, sum(len(m["content"]) for m in messages))
        sent = self._wire.write(self._profile, messages, shape)
        work = threading.Thread(target=self._request, args=(sent, call, tries), daemon=True, name="model-call")
        work.start()
        try:
            while True:
                # Looked at by time, not by silence: a stream that never pauses ends as well.
                if stopped():
                    raise Cancelled("stopped while the model was writing")
                if time.monotonic() > call.deadline:
                    late = said_as("model-late", name=self._profile.name, seconds=f"{within_s:.0f}")
                    # Who says nothing at all for so long hangs; who was slow, or had little time, may answer the next.
                    hangs = within_s >= _HANGS_S and call.silent
                    raise ModelUnreachable(late, said_as("model-late.hint"), "away" if hangs else "late")
                pieces, end = call.next()
                if on_piece is not None:
                    for piece in pieces:
                        on_piece(piece)
                if isinstance(end, Completion):
                    return end
                # That the other thread has left off is told above, with its reason.
                if end is not None and not isinstance(end, Cancelled):
                    raise end
        finally:
            call.give_up()

    def listed(self, within_s: float = 5.0) -> list[str]:
        """The names that its server gives to GET models. Raises ModelError; NotUnderstood where it gives none."""
        call = _Call(time.monotonic() + within_s)
        url = f"{self._profile.base_url.rstrip('/')}/models"
        headers = {"Accept-Encoding": "identity", **self._wire.keys(self._profile)}
        try:
            with self._client.stream("GET", url, headers=headers, timeout=within_s) as response:
                self._check(response, call)
                return self._wire.listed(json.loads(whole(response, call.look)))
        except (TooMuch, ValueError, RecursionError, AttributeError) as error:
            raise NotUnderstood("its list of models is none") from error
        except _Passing as error:
            raise ModelUnreachable(error.message, self._hint(), "away") from error
        except httpx.HTTPError as error:
            raise ModelUnreachable(_in_words(error, self._profile), self._hint(), "away") from error

    def _request(self, sent: Sent, call: _Call, tries: int) -> None:
        def wait(state: tenacity.RetryCallState) -> float:
            error = state.outcome.exception() if state.outcome else None
            after = error.after_s if isinstance(error, _Passing) else None
            return after if after is not None else min(4.0, 0.2 * 2.0**state.attempt_number)

        def pause(seconds: float) -> None:
            call.abandoned.wait(seconds)

        retrying = tenacity.Retrying(
            retry=tenacity.retry_if_exception_type(_Passing),
            wait=wait,
            stop=lambda state: state.attempt_number >= tries or call.is_over(),
            sleep=pause,
            reraise=True,
        )
        try:
            call.end(retrying(self._once, sent, call))
        except _Passing as error:
            said = said_as("model-away", name=self._profile.name, why=error.message)
            call.end(ModelUnreachable(said, self._hint(), "away"))
        except CoreError as error:
            call.end(error)
        except Exception:  # the waiting side must hear of every end, also of our own mistakes
            log.exception("a call of the model %s broke", self._profile.name)
            call.end(ModelUnreachable(said_as("model-call-broke"), self._hint(), "away"))

    def _hint(self) -> str:
        return said_as("model-away-hint", url=self._profile.base_url, name=self._profile.name)

    def _once(self, sent: Sent, call: _Call) -> Completion:
        call.begin()
        headers = {"Accept-Encoding": "identity", **sent.headers}
        url = f"{self._profile.base_url.rstrip('/')}/{sent.path}"
        try:
            request = self._client.build_request(
                "POST", url, json=sent.body, headers=headers, timeout=self._patience(call)
            )
            request.extensions["trace"] = call.notice
            response = self._client.send(request, stream=True)
            try:
                self._check(response, call)
                return self._read(response, call)
            finally:
                response.close()
        except NotUnderstood as error:
            raise _Passing(said_as("model-nonsense", why=str(error))) from error
        except TooMuch as error:
            raise ModelRefused(
                said_as("model-too-much", name=self._profile.name, what=str(error)),
                said_as("model-too-much.hint"), "nonsense",
            ) from error  # fmt: skip
        except httpx.HTTPError as error:
            raise _Passing(_in_words(error, self._profile)) from error

    def _patience(self, call: _Call) -> httpx.Timeout:
        """A silent server is not waited for longer than the inquiry has."""
        left = max(0.1, call.deadline - time.monotonic())
        # A little more, so that the end of the time is said by whoever waits for it.
        return httpx.Timeout(min(self._profile.timeout_s, left + 1.0), connect=min(5.0, left + 1.0))

    def _check(self, response: httpx.Response, call: _Call) -> None:
        status = response.status_code
        if status == httpx.codes.OK:
            return
        try:
            words = _without_key(whole(response, call.look, _SHOWN).decode("utf-8", "replace"), self._profile)
        except (TooMuch, NotUnderstood, httpx.HTTPError):
            words = ""
        found = refusal(self._profile, status, words)
        if found is not None:
            raise found
        if passes(status):
            raise _Passing(said_as("model-answered", status=str(status)), asked_to_wait(response.headers))
        raise ModelRefused(
            said_as("model-refused", name=self._profile.name, status=str(status), words=words[:200]), self._hint(),
            "request",
        )  # fmt: skip

    def _read(self, response: httpx.Response, call: _Call) -> Completion:
        heard = _Reply(self._wire.hearing(), call, self._profile)
        for chunk in objects(response, call.look):
            heard.take(chunk)
        return heard.completion()


class _Reply:
    """What has been heard of a reply."""

    def __init__(self, hearing: Hearing, call: _Call, profile: ModelProfile) -> None:
        self._profile = profile
        self._hearing, self._call, self._asked = hearing, call, call.characters
        self._text: list[str] = []
        self._length, self._known, self._last = 0, False, Heard()
        self._usage: dict[str, int] = {}

    def take(self, chunk: Mapping[str, Any]) -> None:
        """The next chunk. Raises _Passing for what a server says went wrong, TooMuch."""
        heard = self._hearing.hear(chunk)
        self._known = self._known or heard.known
        if heard.fault:
            raise _Passing(said_as("model-stumbled", why=_without_key(heard.fault, self._profile)))
        self._usage |= heard.usage
        if heard.text:
            self._text.append(heard.text)
            self._call.tell(heard.text)
            self._length += len(heard.text)
            if self._length > LONGEST_REPLY:
                raise TooMuch(f"more than {LONGEST_REPLY:,} characters")
        # What was kept back stays so, however the rest ends.
        if heard.how is not None and self._last.how != "withheld":
            self._last = heard

    def completion(self) -> Completion:
        """All of it. Raises ModelRefused for what is no reply, _Passing for one that broke off, NotUnderstood."""
        profile = self._profile
        if not self._known:
            raise NotUnderstood(f"it does not speak {profile.protocol}")
        how = self._last.how
        if how is None:
            raise _Passing(said_as("model-broke-off"))
        # JSON can carry halves of surrogate pairs, which no record and no terminal can.
        plain = "".join(self._text).encode("utf-8", "replace").decode("utf-8")
        if how == "withheld" or not plain.strip():
            message = {"withheld": "model-withheld", "tool": "model-tool", "length": "model-no-room"}.get(how)
            if message is not None:
                said = said_as(message, name=profile.name)
                raise ModelRefused(said, said_as(f"{message}.hint"), "withheld" if how == "withheld" else "nonsense")
        counts = {
            "prompt_tokens": estimated_tokens(self._asked), "completion_tokens": estimated_tokens(self._length),
        } | self._usage  # fmt: skip
        return Completion(
            plain, estimated=not {"prompt_tokens", "completion_tokens"} <= self._usage.keys(), cut=how == "length",
            first_ms=self._call.first_ms(), reused="", by=profile, **counts,
        )  # fmt: skip


class _Call:
    """One call, seen from both of its threads: what has been told and not yet heard, and when it is over."""

    def __init__(self, deadline: float, characters: int = 0) -> None:
        self.deadline, self.characters = deadline, characters
        self.abandoned = threading.Event()
        self._told: list[str | None] = []
        self._end: Completion | CoreError | None = None
        self._changed = threading.Condition()
        self._stream: Any = None
        self._begun = time.monotonic()
        self._first: float | None = None

    # -- the thread that talks to the server

    def begin(self) -> None:
        """A try, after which what an earlier one said does not count."""
        with self._changed:
            if self._first is not None:
                self._told = [None]
            self._begun, self._first = time.monotonic(), None

    def first_ms(self) -> float:
        """Until the first piece of this try."""
        return round(((self._first or time.monotonic()) - self._begun) * 1000, 2)

    @property
    def silent(self) -> bool:
        """Whether nothing has come in this try."""
        return not self._first

    def tell(self, piece: str) -> None:
        with self._changed:
            self._first = self._first or time.monotonic()
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

    def next(self) -> tuple[list[str | None], Completion | CoreError | None]:
        """What has come since, in one piece, and the end where it has come too; waits a moment, in which words gather.

        Whoever reads along sees no difference; to wake for every word takes longer than to read it.
        """
        with self._changed:
            if self._end is None:
                self._changed.wait(_POLL_S)
            anew: list[str | None] = [None] if None in self._told else []
            text = "".join(piece for piece in self._told if piece is not None)
            self._told = []
            return [*anew, *([text] if text else [])], self._end

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
