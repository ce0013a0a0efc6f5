"""Memory and threads after 200 replies of a model's server that means no good: both stay as they were."""

from __future__ import annotations

import resource
import threading
import time
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from benchmarks.figure import Figure
from harquel.core.errors import CoreError
from harquel.core.llm.model import ModelProfile
from harquel.core.llm.over_http import HttpModel
from harquel.core.prompts import take_apart

REPLIES = 200
_PIECE = b'data: {"choices": [{"delta": {"content": "' + b"{" * 3000 + b'"}}]}\n\n'
_ENDS = b'data: {"choices": [{"delta": {}, "finish_reason": "stop"}]}\n\n'


def _endless(line: bytes) -> Callable[[BaseHTTPRequestHandler], None]:
    def send(handler: BaseHTTPRequestHandler) -> None:
        while True:
            handler.wfile.write(line)

    return send


def _long(handler: BaseHTTPRequestHandler) -> None:
    handler.wfile.write(_PIECE * 60 + _ENDS)


_STEPS = (_endless(b"data: y" + b"y" * 60_000), _endless(b": still here\n\n"), _long, _endless(_PIECE))


def measure(_: Path) -> list[Figure]:
    """Growth of this process in megabytes between the 20th and the last of them; threads that are left."""
    served = 0

    class Handler(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            nonlocal served
            served += 1
            self.rfile.read(int(self.headers["content-length"]))
            self.send_response(200)
            self.send_header("content-type", "text/event-stream")
            self.end_headers()
            try:
                _STEPS[served % len(_STEPS)](self)
            except OSError:
                pass  # cut off, as it should be

        def log_message(self, *_: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    model = HttpModel(ModelProfile(f"http://127.0.0.1:{server.server_port}/v1", "any"))
    before, early = threading.active_count(), 0
    for number in range(REPLIES):
        try:
            done = model.complete(
                [{"role": "user", "content": "x"}], on_piece=lambda _: None, stopped=lambda: False, within_s=0.2
            )
            take_apart(done.text)
        except CoreError:
            pass
        if number == 20:
            early = _megabytes()
    time.sleep(1.0)
    left = threading.active_count() - before
    server.shutdown()
    server.server_close()
    model.close()
    return [
        Figure(f"memory after {REPLIES} hostile replies, growth", float(_megabytes() - early), "MB"),
        Figure(f"threads left after {REPLIES} hostile replies", float(left), ""),
    ]


def _megabytes() -> int:
    """The most that this process has had: it never shrinks, so that nothing is hidden."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
