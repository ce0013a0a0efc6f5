"""Several models for one duty: where one gives nothing, the next is asked, within the time that was there for all.

What an earlier one had begun to say does not count: whoever hears it is told so.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence
from typing import Final

from harquel.core.errors import Cancelled, ModelError, ModelUnreachable
from harquel.core.language.say import said_as

from .model import Completion, Message, ModelProfile, OnPiece, Shape
from .over_http import RETRIES
from .shared import SharedModel

_HURRIED: Final = 2
"""How often one is tried behind which others stand."""
_SHARE: Final = 0.6
"""Of the time that is left, which one may take that others stand behind."""
_POLL_S: Final = 0.05


class Chain:
    """See LanguageModel; `profile` is of the first, what was answered by another says so (`Completion.by`)."""

    def __init__(
        self, models: Sequence[SharedModel], shape: Shape | None = None, hedge_s: float | None = None
    ) -> None:  # fmt: skip
        """`models`: at least one, in the order in which they are asked. `shape`: what each reply must look like.

        `hedge_s`: seconds after which the second is asked beside the first, where that has not answered; whoever is
        done first counts.
        """
        self.models, self._shape, self._hedge_s = tuple(models), shape, hedge_s

    @property
    def profile(self) -> ModelProfile:
        """Of who is asked first."""
        return self.models[0].profile

    def complete(
        self,
        messages: list[Message],
        *,
        on_piece: OnPiece | None,
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        """See LanguageModel. Raises what the last one raised, with all that failed named where there were several."""
        until, faults = time.monotonic() + within_s, list[ModelError]()
        heard = _Heard(on_piece)
        rest = list(self.models)
        if self._hedge_s is not None and len(rest) > 1:
            done = self._hedged(messages, stopped, until, faults)
            if done is not None:
                heard.whole(done.text)
                return done
            rest = rest[2:]
        for at, model in enumerate(rest):
            left = until - time.monotonic()
            if left <= 0:
                break
            last = at == len(rest) - 1
            try:
                return model.complete(
                    messages, on_piece=heard.piece if on_piece is not None else None, stopped=stopped,
                    within_s=left if last else left * _SHARE, shape=self._shape,
                    tries=RETRIES if len(self.models) == 1 else _HURRIED,
                )  # fmt: skip
            except ModelError as error:
                faults.append(error)
                if error.fault == "context":
                    # Asked again with less; whoever stands behind may read less still.
                    break
                heard.anew()
        raise _told(faults)

    def _hedged(
        self, messages: list[Message], stopped: Callable[[], bool], until: float, faults: list[ModelError]
    ) -> Completion | None:  # fmt: skip
        """The reply of whoever of the first two is done first; None where both failed. Raises Cancelled."""
        assert self._hedge_s is not None
        race, soon = _Race(), min(until, time.monotonic() + self._hedge_s)
        race.begin(lambda over: self._run(self.models[0], messages, over, until))
        race.wait(stopped, soon)
        if race.done is None:
            # It is silent for long, or has failed already.
            race.begin(lambda over: self._run(self.models[1], messages, over, until))
            race.wait(stopped, until)
        race.over.set()
        faults += race.faults
        return race.done

    def _run(
        self, model: SharedModel, messages: list[Message], over: Callable[[], bool], until: float
    ) -> Completion:  # fmt: skip
        left = max(0.0, until - time.monotonic())
        return model.complete(
            messages, on_piece=None, stopped=over, within_s=left, shape=self._shape, tries=_HURRIED
        )  # fmt: skip


def _told(faults: Sequence[ModelError]) -> ModelError:
    if not faults:
        return ModelUnreachable(said_as("model-no-time"), said_as("model-late.hint"), "late")
    if len(faults) == 1:
        return faults[0]
    why: str = faults[0].said
    for fault in faults[1:]:
        why = said_as("and-then", one=why, other=fault.said)
    last = faults[-1]
    return type(last)(said_as("model-all-away", why=why), last.hint, last.fault)


class _Heard:
    """What whoever listens has heard of a reply."""

    def __init__(self, on_piece: OnPiece | None) -> None:
        self._on_piece, self._some = on_piece, False

    def piece(self, piece: str | None) -> None:
        self._some = piece is not None
        if self._on_piece is not None:
            self._on_piece(piece)

    def anew(self) -> None:
        if self._some:
            self.piece(None)

    def whole(self, text: str) -> None:
        if self._on_piece is not None:
            self._on_piece(text)


class _Race:
    """Two calls, of which the first counts that is done."""

    def __init__(self) -> None:
        self.over = threading.Event()
        self.done: Completion | None = None
        self.faults: list[ModelError] = []
        self.running = 0
        self._fault: BaseException | None = None
        self._changed = threading.Condition()

    def begin(self, call: Callable[[Callable[[], bool]], Completion]) -> None:
        with self._changed:
            self.running += 1
        threading.Thread(target=self._run, args=(call,), daemon=True, name="model-race").start()

    def _run(self, call: Callable[[Callable[[], bool]], Completion]) -> None:
        done: Completion | None = None
        fault: BaseException | None = None
        try:
            done = call(self.over.is_set)
        except BaseException as error:  # told by whoever waits
            fault = error
        with self._changed:
            self.running -= 1
            if done is not None and self.done is None:
                self.done = done
                self.over.set()
            if isinstance(fault, ModelError):
                self.faults.append(fault)
            elif fault is not None and not isinstance(fault, Cancelled):
                self._fault = fault
            self._changed.notify()

    def wait(self, stopped: Callable[[], bool], until: float) -> None:
        """Until one is done, none is under way any more, or the time has come. Raises Cancelled."""
        while True:
            with self._changed:
                if self._fault is not None:
                    raise self._fault
                if self.done is not None or self.running == 0 or time.monotonic() >= until:
                    return
                if stopped():
                    self.over.set()
                    raise Cancelled("stopped while the models were writing")
                self._changed.wait(_POLL_S)
