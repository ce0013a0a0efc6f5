"""Outside of the service: who takes what it sends, the settings that say where, the policy that lets it."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

import httpx
import uvicorn

from harquel.client import Harquel
from harquel.client.describing import document, replace_document
from harquel.core.curation.yaml_text import read_yaml
from harquel.demo.stage import Stage, free_address
from harquel.standin.mail.pages import build

SECRET = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw"


@dataclass
class Board:
    """Somebody who takes messages; `answers` are the statuses of the next ones, 204 after those."""

    url: str = ""
    heard: list[tuple[dict[str, str], bytes]] = field(default_factory=list)
    answers: list[int] = field(default_factory=list)
    holds: threading.Event = field(default_factory=threading.Event)
    slow: bool = False


@contextmanager
def board() -> Iterator[Board]:
    found = Board()

    class Handler(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers["content-length"]))
            found.heard.append(({k.lower(): v for k, v in self.headers.items()}, body))
            if found.slow:
                found.holds.wait(30)
            self.send_response(found.answers.pop(0) if found.answers else 204)
            self.send_header("content-length", "0")
            self.end_headers()

        def log_message(self, *_: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    found.url = f"http://127.0.0.1:{server.server_port}/hook"
    try:
        yield found
    finally:
        found.holds.set()
        server.shutdown()
        server.server_close()


@contextmanager
def post_office() -> Iterator[tuple[str, str]]:
    """The simulated mail server: where it takes letters, and its page."""
    smtp, page = free_address(), free_address()
    host, _, port = page.rpartition(":")
    server = uvicorn.Server(uvicorn.Config(build(smtp), host=host, port=int(port), log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield smtp, f"http://{page}"
    finally:
        server.should_exit = True
        thread.join(10)


def letters(office: tuple[str, str]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = httpx.get(f"{office[1]}/letters.json").json()
    return found


def by_hook(taker: Board) -> dict[str, str]:
    at = "HARQUEL__DESTINATIONS__"
    return {
        f"{at}BOARD__URL": taker.url, f"{at}BOARD__SECRET": "env:BOARD_SECRET", f"{at}BOARD__PRIVATE": "true",
        f"{at}CLOSED__URL": "https://127.0.0.1:1/hook", f"{at}CLOSED__SECRET": "env:BOARD_SECRET",
        "BOARD_SECRET": SECRET, "HARQUEL__SERVICE__ADDRESS": "https://harquel.example",
    }  # fmt: skip


def by_mail(smtp: str) -> dict[str, str]:
    values = {"SERVER": smtp, "SENDER": "answers@harquel.example", "TLS": "off", "PRIVATE": "true"}
    of_mail = {f"HARQUEL__MAIL__{name}": value for name, value in values.items()}
    return {**of_mail, "HARQUEL__SERVICE__ADDRESS": "https://harquel.example"}


def let(running: Stage, **sending: Any) -> None:
    policy_of(running, "sending", sending or None)


def let_chat(running: Stage, chat: dict[str, Any] | None) -> None:
    policy_of(running, "chat", chat)


def policy_of(running: Stage, section: str, said: dict[str, Any] | None) -> None:
    """Puts a section into the policy, or takes it out."""
    with Harquel(running.url, running.token) as admin:
        values = read_yaml(admin.send(document("ferries", "policy")).text)
        values.pop(section, None)
        values |= {section: said} if said is not None else {}
        admin.send(replace_document("ferries", "policy", json.dumps(values), force=True))
