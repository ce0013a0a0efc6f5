"""Processes of this program, forked from one that has loaded it, so that not each of hundreds loads it anew.

What runs in them is what `python -m harquel` runs, with arguments, environment, files and an end of their own. That the
program starts from nothing, too, is shown by the tests of the demo, of the tour and of the wheel.
"""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import signal
import subprocess
import sys
import tempfile
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any, BinaryIO

from harquel.demo.stage import Stage

_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["tests.loaded"])


def _run(arguments: Sequence[str], files: Sequence[str], environment: Mapping[str, str], code: str) -> None:
    """In the new process: its own session, files and environment, then the program, or some code instead of it."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)
    os.setsid()
    signal.signal(signal.SIGINT, signal.default_int_handler)
    for number, (path, how) in enumerate(
        zip(files, (os.O_RDONLY, os.O_WRONLY | os.O_APPEND, os.O_WRONLY | os.O_APPEND), strict=True)
    ):
        opened = os.open(path, how | os.O_CREAT, 0o600)
        os.dup2(opened, number)
        os.close(opened)
    sys.stdin, sys.stdout, sys.stderr = (
        open(number, how, encoding="utf-8", errors=errors, closefd=False)  # noqa: SIM115
        for number, how, errors in ((0, "r", "strict"), (1, "w", "strict"), (2, "w", "backslashreplace"))
    )
    os.environ.clear()
    os.environ.update(environment)
    sys.argv = ["harquel", *arguments]
    if code:
        exec(compile(code, "code", "exec"), vars(sys.modules["__main__"]))
        return
    from harquel.cli.main import main

    main()


class Forked:
    """One such process, with as much of what a Popen has as tests need."""

    def __init__(
        self, arguments: Sequence[str], files: Sequence[str], environment: Mapping[str, str], code: str = ""
    ) -> None:
        self.args = arguments
        given = (list(arguments), list(files), dict(environment), code)
        self._process: Any = _CONTEXT.Process(target=_run, args=given)
        self._process.start()
        self.pid: int = self._process.pid

    def poll(self) -> int | None:
        """How it ended, as with Popen; None while it runs."""
        status: int | None = self._process.exitcode
        return status

    @property
    def returncode(self) -> int | None:
        """The same."""
        return self.poll()

    def wait(self, timeout: float | None = None) -> int:
        """Waits for its end. Raises subprocess.TimeoutExpired."""
        self._process.join(timeout)
        status = self.poll()
        if status is None:
            raise subprocess.TimeoutExpired(self.args, timeout or 0)
        return status

    def send_signal(self, which: int) -> None:
        """Nothing happens to one that has ended."""
        if self.poll() is None:
            with suppress(ProcessLookupError):
                os.kill(self.pid, which)

    def terminate(self) -> None:
        """Asks it to end."""
        self.send_signal(signal.SIGTERM)

    def kill(self) -> None:
        """Ends it."""
        self.send_signal(signal.SIGKILL)


def run_harquel(
    *arguments: str, env: Mapping[str, str] | None = None, said: str | None = None, timeout: float = 60, code: str = ""
) -> subprocess.CompletedProcess[str]:
    """Runs a command to its end; `said` is what it finds on standard input, nothing otherwise. `code` runs instead of
    the program, with the arguments.
    """
    with tempfile.TemporaryDirectory(prefix="harquel-said-") as folder:
        given, out, err = (Path(folder) / name for name in ("in", "out", "err"))
        given.write_text(said or "", "utf-8")
        process = Forked(
            arguments, [os.devnull if said is None else str(given), str(out), str(err)],
            os.environ if env is None else env, code,
        )  # fmt: skip
        try:
            status = process.wait(timeout)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
            raise
        return subprocess.CompletedProcess(list(arguments), status, out.read_text("utf-8"), err.read_text("utf-8"))


class ForkedStage(Stage):
    """A demo whose processes are forked."""

    def _run(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        return run_harquel(*arguments, env=self._environment())

    def _spawn(self, arguments: list[str], log: BinaryIO) -> Any:
        assert arguments[:2] == ["-m", "harquel"], arguments
        return Forked(arguments[2:], [os.devnull, log.name, log.name], self._environment())
