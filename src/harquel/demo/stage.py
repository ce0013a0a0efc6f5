"""Puts the demo world on: data, configuration, simulated outside services and service, as processes of their own."""

from __future__ import annotations

import base64
import ctypes
import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from importlib import resources
from pathlib import Path
from types import TracebackType
from typing import BinaryIO

AS_OF = "2026-09-14T10:00:00Z"
SCOPES = ("ask", "release", "steward", "audit", "admin")
_START_S = 60.0
_CONFIG = """\
# The demo world of Harquel. Made by `harquel demo`; yours to change, `harquel demo` leaves it as it is.
[service]
bind = "{bind}"
data_dir = "records"
folders = ["."]

[models.main]
protocol = "chat-completions"
base_url = "http://{model}/v1"
name = "careful"

[models.beginner]
protocol = "chat-completions"
base_url = "http://{model}/v1"
name = "careless-1.0-invented-column"

[models.headstrong]
protocol = "chat-completions"
base_url = "http://{model}/v1"
name = "stubborn-unasked-limit"

[duties]
draft = "main"
read = "main"

# Answers as mail, to a simulated mail server that sends none on.
[mail]
server = "{smtp}"
sender = "answers@harquel.example"
tls = "off"
private = true

# A simulated chat, in which people ask.
[chats.town]
url = "http://{chat}/hooks/harquel"
secret = "file:chat-secret"
private = true
source = "ferries"

[sources.ferries]
title = "Marrowick Ferries"
url = "sqlite:///ferries.db"
as_of = "{as_of}"
policy = "policy.yaml"
notes = "notes.yaml"
examples = "examples.yaml"
starters = "starters.yaml"

# The same data with a model that makes a mistake in every first draft: watch it being repaired.
[sources.rough]
title = "Marrowick Ferries, drafted by a beginner"
url = "sqlite:///ferries.db"
as_of = "{as_of}"
policy = "policy.yaml"
notes = "notes.yaml"
examples = "examples.yaml"
starters = "starters.yaml"
draft = "beginner"

# And with a model that will not be corrected: another one reads the question, and drafts where that gives no query.
[sources.pair]
title = "Marrowick Ferries, two models compared"
url = "sqlite:///ferries.db"
as_of = "{as_of}"
policy = "policy-pair.yaml"
notes = "notes.yaml"
examples = "examples.yaml"
starters = "starters.yaml"
draft = "headstrong"
second_opinion = "main"
"""
_PAIR = "review:\n  second_opinion: in-doubt\n"


@dataclass(frozen=True)
class Beside:
    """Where the simulated chat and the simulated mail server are: two pages, and where letters are taken."""

    chat: str = "127.0.0.1:8712"
    mail: str = "127.0.0.1:8713"
    smtp: str = "127.0.0.1:8714"


class StageError(Exception):
    """Something did not come up; the text says what to do."""


def free_address() -> str:
    """A loopback address with a port that nobody listens on at this moment."""
    with socket.socket() as sock:
        sock.bind(("127.0.0.1", 0))
        return f"127.0.0.1:{sock.getsockname()[1]}"


def _must_be_free(address: str, option: str) -> None:
    """Raises StageError when somebody listens there already: their answer would pass for ours."""
    host, _, port = address.rpartition(":")
    with socket.socket() as sock:
        sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            sock.bind((host, int(port)))
        except (OSError, ValueError, OverflowError) as error:
            raise StageError(
                f"The address {address} cannot be used ({error}). "
                f"Stop what runs there (another demo?), or give {option} another address."
            ) from error


def last_words(folder: Path, name: str) -> str:
    """The last line that a process of the demo wrote."""
    said = (folder / f"{name}.log").read_text(errors="replace").strip().splitlines()
    return said[-1] if said else f"harquel {name} ended at once."


def _end_with_parent() -> None:
    """In a new process: the kernel ends it when the demo is gone, however that came about."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)


class Stage:
    """The demo in a folder, running from `__enter__` to `__exit__`; `url` and `token` let one in."""

    def __init__(
        self,
        folder: Path,
        bind: str,
        model: str,
        say: Callable[[str], None],
        pace_s: float = 0.0,
        scale: float = 1.0,
        environment: Mapping[str, str] | None = None,
        beside: Beside | None = None,
    ) -> None:
        self.beside = beside
        self.folder, self.bind, self.model, self.say = folder, bind, model, say
        self.pace_s, self.scale, self.extra = pace_s, scale, dict(environment or {})
        self.url, self.token = f"http://{bind}", ""
        self.processes: list[subprocess.Popen[bytes]] = []

    def __enter__(self) -> Stage:
        try:
            _must_be_free(self.bind, "--bind")
            _must_be_free(self.model, "--model")
            for option in ("chat", "mail", "smtp") if self.beside is not None else ():
                _must_be_free(getattr(self.beside, option), f"--{option}")
            self.prepare()
            self._start("standin", [
                "-m", "harquel", "standin", "model", "--bind", self.model, "--pace", str(self.pace_s)
            ])  # fmt: skip
            self.token = self._first_token()
            started = {"standin": self.model}
            if self.beside is not None:
                started |= {"chat": self.beside.chat, "mail": self.beside.mail}
                self._start("chat", [
                    "-m", "harquel", "standin", "chat", "--bind", self.beside.chat, "--secret",
                    str(self.folder / "chat-secret"), "--service", f"{self.url}/api/v1/chats/town/messages",
                ])  # fmt: skip
                self._start("mail", [
                    "-m", "harquel", "standin", "mail", "--bind", self.beside.mail, "--smtp", self.beside.smtp
                ])  # fmt: skip
            self._start("serve", self.serving())
            started["serve"] = self.bind
            for process, (name, address) in zip(self.processes, started.items(), strict=True):
                self._wait(process, name, address)
        except BaseException:
            self.close()
            raise
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """Ends what was started, the service first."""
        for process in reversed(self.processes):
            if process.poll() is None:
                process.terminate()
                try:
                    process.wait(timeout=15)
                except subprocess.TimeoutExpired:
                    process.kill()
                    process.wait()
        self.processes = []

    @property
    def service(self) -> subprocess.Popen[bytes]:
        """The process of the service."""
        return self.processes[-1]

    def serve_again(self) -> None:
        """Starts the service anew after it was lost. Raises StageError."""
        self.processes.pop().wait()
        self._start("serve", self.serving())
        self._wait(self.service, "serve", self.bind)

    def prepare(self) -> None:
        """Lays out those files of the demo that are missing; what is there stays as it is."""
        self.folder.mkdir(parents=True, exist_ok=True)
        for name in ("policy.yaml", "notes.yaml", "examples.yaml", "starters.yaml"):
            if not (self.folder / name).exists():
                with resources.as_file(resources.files("harquel.demo") / "source" / name) as source:
                    shutil.copyfile(source, self.folder / name)
        pair = self.folder / "policy-pair.yaml"
        if not pair.exists():
            pair.write_text((self.folder / "policy.yaml").read_text() + _PAIR)
        config = self.folder / "harquel.toml"
        if not config.exists():
            beside = self.beside or Beside()
            config.write_text(_CONFIG.format(
                bind=self.bind, model=self.model, as_of=AS_OF, chat=beside.chat, smtp=beside.smtp
            ))  # fmt: skip
        secret = self.folder / "chat-secret"
        if not secret.exists():
            with os.fdopen(os.open(secret, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
                file.write(f"whsec_{base64.b64encode(os.urandom(32)).decode()}")
        if not (self.folder / "ferries.db").exists():
            from harquel.demo.load_sqlite import load

            self.say("Making the demo database …")
            rows = load(self.folder / "ferries.db", self.scale)
            self.say(f"  {rows:,} rows in {self.folder / 'ferries.db'}")

    def serving(self) -> list[str]:
        """What starts the service, after the interpreter's own words."""
        return ["-m", "harquel", "serve", "--config", str(self.folder / "harquel.toml")]

    def _environment(self) -> dict[str, str]:
        addresses = {"HARQUEL__SERVICE__BIND": self.bind} | {
            f"HARQUEL__MODELS__{name}__BASE_URL": f"http://{self.model}/v1"
            for name in ("MAIN", "BEGINNER", "HEADSTRONG")
        }
        config = self.folder / "harquel.toml"
        told = config.read_text() if config.exists() else ""
        # A folder of an earlier demo has neither, and is left as it is.
        if self.beside is not None and "[mail]" in told and "[chats.town]" in told:
            addresses["HARQUEL__MAIL__SERVER"] = self.beside.smtp
            addresses["HARQUEL__CHATS__TOWN__URL"] = f"http://{self.beside.chat}/hooks/harquel"
        return {**os.environ, **addresses, **self.extra}

    def _first_token(self) -> str:
        kept = self.folder / "records" / "demo-token"
        if kept.exists():
            return kept.read_text().strip()
        made = self._run(
            "token", "create", "--local", "--config", str(self.folder / "harquel.toml"), "--name", "demo",
            "--person", "Ada Brinewell", *(a for s in SCOPES for a in ("--scope", s)), "--json",
        )  # fmt: skip
        if made.returncode:
            raise StageError(made.stderr.strip() or "The first token could not be made.")
        secret: str = json.loads(made.stdout)["secret"]
        with os.fdopen(os.open(kept, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(secret)
        return secret

    def _start(self, name: str, arguments: list[str]) -> None:
        with (self.folder / f"{name}.log").open("ab") as log:
            self.processes.append(self._spawn(arguments, log))

    def _run(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """A command to its end."""
        command = [sys.executable, "-m", "harquel", *arguments]
        return subprocess.run(command, capture_output=True, text=True, env=self._environment(), check=False)

    def _spawn(self, arguments: list[str], log: BinaryIO) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, *arguments],
            stdout=log,
            stderr=log,
            env=self._environment(),
            start_new_session=True,
            preexec_fn=_end_with_parent,
        )

    def _wait(self, process: subprocess.Popen[bytes], name: str, address: str) -> None:
        """Returns once it answers. Raises StageError with the last line of its log."""
        deadline = time.monotonic() + _START_S
        while time.monotonic() < deadline:
            if process.poll() is not None:
                raise StageError(last_words(self.folder, name))
            try:
                with urllib.request.urlopen(f"http://{address}/healthz", timeout=1):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.05)
        raise StageError(f"harquel {name} did not answer within {_START_S:.0f} s; see its log in {self.folder}.")
