"""The wire to the model, against servers that misbehave."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from harquel.core.errors import Cancelled, ModelRefused, ModelUnreachable
from harquel.core.llm.model import ModelProfile
from harquel.core.llm.over_http import HttpModel

Step = Callable[[BaseHTTPRequestHandler], None]
Script = list[Step]
MESSAGES = [{"role": "user", "content": "hello"}]


@contextmanager
def server(script: Script) -> Iterator[tuple[str, list[dict[str, object]]]]:
    """Answers the nth request by the nth step of the script, the last one again and again."""
    seen: list[dict[str, object]] = []

    class Handler(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            body = json.loads(self.rfile.read(int(self.headers["content-length"])))
            seen.append({"key": self.headers.get("authorization"), **body})
            script[min(len(seen), len(script)) - 1](self)

        def log_message(self, *_: object) -> None:
            pass

    running = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=running.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{running.server_port}/v1", seen
    finally:
        running.shutdown()
        running.server_close()


def status(code: int) -> Callable[[BaseHTTPRequestHandler], None]:
    def step(handler: BaseHTTPRequestHandler) -> None:
        handler.send_response(code)
        handler.send_header("retry-after", "0")
        handler.send_header("content-length", "0")
        handler.end_headers()

    return step


def says(text: str, finish: bool = True) -> Callable[[BaseHTTPRequestHandler], None]:
    def step(handler: BaseHTTPRequestHandler) -> None:
        handler.send_response(200)
        handler.send_header("content-type", "text/event-stream")
        handler.end_headers()
        for piece in (text[:3], text[3:]):
            chunk = {"choices": [{"delta": {"content": piece}, "finish_reason": None}]}
            handler.wfile.write(f"data: {json.dumps(chunk)}\n\n".encode())
        if finish:
            end = {
                "choices": [{"delta": {}, "finish_reason": "stop"}],
                "usage": {"prompt_tokens": 7, "completion_tokens": 2},
            }
            handler.wfile.write(f"data: {json.dumps(end)}\n\ndata: [DONE]\n\n".encode())

    return step


def hangs(handler: BaseHTTPRequestHandler) -> None:
    time.sleep(3)
    status(500)(handler)


def call(url: str, stopped: Callable[[], bool] = lambda: False, within_s: float = 20) -> tuple[str, str]:
    pieces: list[str] = []

    def heard(piece: str | None) -> None:
        # A try that broke off does not count.
        pieces.append(piece) if piece is not None else pieces.clear()

    model = HttpModel(ModelProfile(url, "any", key="s3cret", timeout_s=5))
    try:
        done = model.complete(MESSAGES, on_piece=heard, stopped=stopped, within_s=within_s)  # type: ignore[arg-type]
    finally:
        model.close()
    assert (done.prompt_tokens, done.completion_tokens) == (7, 2)
    return done.text, "".join(pieces)


def test_pieces_arrive_and_the_key_goes_along() -> None:
    with server([says("SELECT 1")]) as (url, seen):
        assert call(url) == ("SELECT 1", "SELECT 1")
        assert seen[0]["key"] == "Bearer s3cret"


def test_a_key_that_is_said_again_is_not_told() -> None:
    def echoes(handler: BaseHTTPRequestHandler) -> None:
        said = json.dumps({"error": {"message": f"bad request with {handler.headers['authorization']}"}}).encode()
        handler.send_response(400)
        handler.send_header("content-length", str(len(said)))
        handler.end_headers()
        handler.wfile.write(said)

    with server([echoes]) as (url, _), pytest.raises(ModelRefused, match="bad request with Bearer •••"):
        call(url)


@pytest.mark.parametrize("first", [status(429), status(500), status(503), says("SELEC", finish=False)])
def test_what_passes_by_itself_is_tried_again(first: Callable[[BaseHTTPRequestHandler], None]) -> None:
    with server([first, says("SELECT 1")]) as (url, seen):
        assert call(url)[0] == "SELECT 1"
        assert len(seen) == 2


def test_half_a_character_does_not_get_into_the_records() -> None:
    with server([says('SELECT "\ud800"')]) as (url, _):
        assert call(url)[0].encode("utf-8") == b'SELECT "?"'


def test_a_reply_without_end_is_cut_off() -> None:
    with server([says("SELECT" + "x" * 300_000)]) as (url, seen):
        with pytest.raises(ModelRefused, match="sent more than"):
            call(url)
        assert len(seen) == 1


def test_what_stays_broken_ends_after_four_tries() -> None:
    with server([status(500)]) as (url, seen):
        with pytest.raises(ModelUnreachable, match="500"):
            call(url)
        assert len(seen) == 4


def test_a_refusal_is_not_tried_again_and_the_key_is_not_told() -> None:
    with server([status(401)]) as (url, seen):
        with pytest.raises(ModelRefused) as caught:
            call(url)
        assert len(seen) == 1
        assert "s3cret" not in str(caught.value) + caught.value.hint


def test_a_silent_server_holds_up_neither_a_cancellation_nor_the_clock() -> None:
    with server([hangs]) as (url, _):
        started = time.monotonic()
        with pytest.raises(Cancelled):
            call(url, stopped=lambda: time.monotonic() - started > 0.2)
        with pytest.raises(ModelUnreachable, match="did not finish"):
            call(url, within_s=0.3)
        assert time.monotonic() - started < 10


def test_the_profile_does_not_show_its_key() -> None:
    assert "s3cret" not in repr(ModelProfile("http://x", "any", key="s3cret"))


def raw(*parts: bytes, kind: str = "text/event-stream", pause_s: float = 0.0, **headers: str) -> Step:
    """Sends the head once, then the rest for ever, which must be something: only by it is a hang-up noticed."""
    assert all(parts[1:])

    def step(handler: BaseHTTPRequestHandler) -> None:
        handler.send_response(200)
        handler.send_header("content-type", kind)
        for name, value in headers.items():
            handler.send_header(name.replace("_", "-"), value)
        handler.end_headers()
        first, *rest = parts
        reached.set()
        try:
            handler.wfile.write(first)
            while rest:
                for part in rest:
                    handler.wfile.write(part)
                handler.wfile.flush()
                time.sleep(pause_s)
        except OSError:
            gone.set()  # the other side has hung up

    return step


reached, gone = threading.Event(), threading.Event()
PIECE = b'data: {"choices": [{"delta": {"content": "x"}}]}\n\n'


@pytest.mark.parametrize(
    "step",
    [
        raw(b"", b": still here\n\n", pause_s=0.01),
        raw(b"", PIECE, pause_s=0.01),
        raw(b"", b"data: {}\n\n", pause_s=0.0),
        raw(b"data: ", b"y", pause_s=0.002),
    ],
    ids=["keeps alive", "never pauses", "says nothing fast", "one line by the byte"],
)
def test_a_stream_without_end_is_left_in_time_and_leaves_no_thread(step: Step) -> None:
    before = {t for t in threading.enumerate() if t.name == "model-call"}
    with server([step]) as (url, _):
        for by_asker, within, error in ((True, 60.0, Cancelled), (False, 3.0, ModelUnreachable)):
            reached.clear()
            gone.clear()
            started = time.monotonic()
            with pytest.raises(error):
                call(url, reached.is_set if by_asker else lambda: False, within)
            assert time.monotonic() - started < within + 5
            # On a busy machine the time may be up before anybody was reached: then there is nothing to hang up.
            assert not reached.is_set() or gone.wait(20), "the server still has its connection"
    for thread in {t for t in threading.enumerate() if t.name == "model-call"} - before:
        thread.join(5)
        assert not thread.is_alive()


@pytest.mark.parametrize(
    ("step", "said"),
    [
        (raw(b"data: ", b"y" * 100_000), "line of more than"),
        (raw(b'{"choices": "', b"y" * 100_000, kind="application/json"), "more than 4,000,000 bytes"),
        (raw(b"", (b"data: {" + b" " * 60_000 + b"}\n") * 20), "more than 64,000,000 bytes"),
    ],
    ids=["a line", "a whole reply", "a stream that says nothing"],
)
def test_bytes_without_end_are_counted_and_cut_off(step: Step, said: str) -> None:
    with server([step]) as (url, seen):
        with pytest.raises(ModelRefused, match=said):
            call(url, within_s=60)
        assert len(seen) == 1


def test_what_is_packed_is_not_unpacked() -> None:
    with server([raw(b"x", content_encoding="gzip")]) as (url, _), pytest.raises(ModelUnreachable, match="packed"):
        call(url, within_s=10)


@pytest.mark.parametrize(
    "chunk",
    ['[]', '7', 'null', '{"choices": 3}', '{"choices": [4]}', '{"choices": [{"delta": 5}]}', '{"usage": []}',
     '{"choices": [{"delta": {"content": ["x"]}}]}', "[" * 20_000, "1" * 6000],
)  # fmt: skip
def test_a_chunk_of_another_shape_breaks_nothing(chunk: str) -> None:
    good = says("SELECT 1")
    with server([lambda h: (raw(f"data: {chunk}\n\n".encode())(h), None)[1], good]) as (url, _):  # type: ignore[func-returns-value]
        assert call(url)[0] == "SELECT 1"


def test_usage_that_is_no_figure_is_dropped() -> None:
    usage = {"prompt_tokens": -5, "completion_tokens": 10**30}
    chunk = {"choices": [{"delta": {"content": "SELECT 1"}, "finish_reason": "stop"}], "usage": usage}
    with server([raw(f"data: {json.dumps(chunk)}\n\n".encode())]) as (url, _):
        done = HttpModel(ModelProfile(url, "any")).complete(
            MESSAGES, on_piece=lambda _: None, stopped=lambda: False, within_s=10,  # type: ignore[arg-type]
        )  # fmt: skip
    # Worked out from characters instead, and marked so.
    assert (done.prompt_tokens, done.completion_tokens, done.estimated) == (2, 2, True)
