"""What all workers share: confinement, the conversation, the gate, and values in wire form.

A worker reads framed JSON requests on standard input and writes framed replies on standard output (four
bytes of length, big-endian, then UTF-8). It trusts nobody and would hold if the guard had erred.
"""

import base64
import ctypes
import datetime
import decimal
import json
import math
import os
import queue
import re
import resource
import signal
import struct
import sys
import threading
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from typing import Any

PR_SET_PDEATHSIG = 1
EXACT = 2**53
STACK_BYTES = 512 * 1024
STRINGS = re.compile(r"'(?:[^']|'')*'")
ESCAPED_STRINGS = re.compile(r"""'(?:[^'\\]|\\.|'')*'|"(?:[^"\\]|\\.|"")*\"""", re.DOTALL)
"""For servers in whose strings a backslash escapes, and for whom double quotes hold strings too."""
READING = re.compile(r"\s*\(*\s*(SELECT|WITH|VALUES)\b", re.IGNORECASE)

FRAME_BYTES = 256 * 1024
"""About how many bytes of rows go into one frame."""
MOST_ROW = 4_000_000
"""Bytes of one row that is handed on."""
LINE = json.JSONEncoder(allow_nan=False, separators=(",", ":"))

OUT_OF_TIME = "the statement did not end in time and was stopped"

Reply = dict[str, Any]


class Denied(Exception):
    """The statement does not pass the worker's own gate."""


class Fault(Exception):
    """A statement did not come to an end; `args` are the fault's name and what is said of it."""


def confine(memory_bytes: int, parent: int, files: int = 24) -> None:
    """Limits that only the operating system can hold; without the parent there is no worker."""
    ctypes.CDLL(None, use_errno=True).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(0)
    with open("/proc/self/statm") as file:
        now = int(file.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (now + memory_bytes, now + memory_bytes))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_NOFILE, (files, files))
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def allow_cpu(seconds: float) -> None:
    """The processor time that may still be used before the kernel ends this process."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    soft = math.ceil(used.ru_utime + used.ru_stime + seconds) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (soft, resource.RLIM_INFINITY))


def gate(sql: str, strings: re.Pattern[str] = STRINGS, never: re.Pattern[str] | None = None) -> None:
    """The worker's own look at the text, without a parser: `never` is what no query of ours holds. Raises Denied."""
    if not READING.match(sql):
        raise Denied("only a statement that begins with SELECT, WITH or VALUES may run here")
    bare = strings.sub("''", sql)
    if "--" in bare or "/*" in bare or "#" in re.sub(r'"[^"]*"|`[^`]*`', "", bare):
        raise Denied("comments may not run here")
    found = never.search(bare) if never is not None else None
    if found is not None:
        raise Denied(f"{' '.join(found.group().split())} may not run here")


def wire(value: Any) -> tuple[Any, int, str | None]:
    """A value in the form of the contract, its size in bytes and its type's name."""
    if value is None:
        return None, 1, None
    if isinstance(value, bool):
        return value, 1, "boolean"
    if isinstance(value, int):
        return (value if -EXACT <= value <= EXACT else str(value)), 8, "integer"
    if isinstance(value, float):
        return (value if math.isfinite(value) else None), 8, "number"
    if isinstance(value, decimal.Decimal):
        text = format(value, "f") if value.is_finite() else None
        return text, len(text or ""), "decimal"
    if isinstance(value, bytes | bytearray | memoryview):
        raw = bytes(value)
        return base64.b64encode(raw).decode(), len(raw), "bytes"
    if isinstance(value, datetime.datetime):
        return value.isoformat(), 20, "timestamp"
    if isinstance(value, datetime.date):
        return value.isoformat(), 10, "date"
    if isinstance(value, datetime.time):
        return value.isoformat(), 8, "time"
    if isinstance(value, list | dict | tuple):
        text = json.dumps(value, ensure_ascii=False, default=str)
        return text, len(text), "text"
    text = value if isinstance(value, str) else str(value)
    return text, len(text.encode("utf-8", "replace")), "text"


def come_back(request: Any, names: list[str], found: Iterable[Iterable[Any]]) -> Reply:
    """The rows of a statement in the way that they are wanted: with the reply, or handed on before it."""
    way = hand_on if request["op"] == "deliver" else gather
    return way(names, found, request["max_rows"], request["max_bytes"])


def gather(names: list[str], found: Iterable[Iterable[Any]], most_rows: int, most_bytes: int) -> Reply:
    """Rows up to the limits. The statement asked for one row more than allowed: seeing it means a cut."""
    types: list[str | None] = [None] * len(names)
    rows: list[list[Any]] = []
    size, cut = 0, None
    for raw in found:
        if len(rows) >= most_rows:
            cut = "rows"
            break
        row, weight = plainly(raw, types)
        size += weight
        if size > most_bytes:
            cut = "bytes"
            break
        rows.append(row)
    return {"columns": names, "types": [t or "null" for t in types], "rows": rows, "cut_by": cut, "bytes": size}


def hand_on(names: list[str], found: Iterable[Iterable[Any]], most_rows: int, most_bytes: int) -> Reply:
    """The same without keeping them: a JSON array on each line, many lines in a frame; the reply says how many.

    A frame of rows begins with `[`, a reply with `{`.
    """
    types: list[str | None] = [None] * len(names)
    lines: list[str] = []
    count = size = waiting = 0
    cut = None
    for raw in found:
        if count >= most_rows:
            cut = "rows"
            break
        row, weight = plainly(raw, types)
        if weight > MOST_ROW:
            raise Fault("memory", f"a row of more than {MOST_ROW // 1_000_000} MB cannot be handed on")
        if size + weight > most_bytes:
            cut = "bytes"
            break
        count, size = count + 1, size + weight
        line = LINE.encode(row)
        lines.append(line)
        waiting += len(line)
        if waiting >= FRAME_BYTES:
            write_bytes(("\n".join(lines) + "\n").encode())
            lines, waiting = [], 0
    if lines:
        write_bytes(("\n".join(lines) + "\n").encode())
    return {"columns": names, "types": [t or "null" for t in types], "count": count, "cut_by": cut, "bytes": size}


def plainly(raw: Iterable[Any], types: list[str | None]) -> tuple[list[Any], int]:
    """A row in the form of the contract and its size in bytes; `types` learns of it."""
    row, size = [], 0
    for index, value in enumerate(raw):
        exactly = type(value)
        kind: str | None
        # Most values by far are one of these, and this loop is where a worker's own time goes.
        if exactly is str and value.isascii():
            plain, weight, kind = value, len(value), "text"
        elif exactly is int and -EXACT <= value <= EXACT:
            plain, weight, kind = value, 8, "integer"
        else:
            plain, weight, kind = wire(value)
        size += weight
        if kind is not None and types[index] != kind:
            types[index] = kind if types[index] is None else wider(types[index], kind)
        row.append(plain)
    return row, size


def wider(one: str | None, other: str) -> str:
    """The type of a column in which both occur."""
    numbers = {"integer", "number", "decimal"}
    if one in numbers and other in numbers:
        return "decimal" if "decimal" in (one, other) else "number"
    return "text"


def read_frame() -> Any:
    """The next request; ends the program when the other side is gone."""
    (length,) = struct.unpack(">I", _exactly(4))
    return json.loads(_exactly(length))


def _exactly(count: int) -> bytes:
    data = sys.stdin.buffer.read(count)
    if len(data) < count:
        os._exit(0)
    return data


def write_frame(reply: Reply) -> None:
    """Sends a reply."""
    try:
        data = json.dumps(reply, allow_nan=False, separators=(",", ":")).encode("utf-8", "replace")
    except MemoryError:
        data = b'{"ok":false,"fault":"memory","message":"the result did not fit into memory"}'
    write_bytes(data)


def write_bytes(data: bytes) -> None:
    """Sends a frame."""
    sys.stdout.buffer.write(struct.pack(">I", len(data)) + data)
    sys.stdout.buffer.flush()


def answer(serve: Callable[[Any], Reply], request: Any, explain: Callable[[Exception], tuple[str, str]]) -> Reply:
    """The reply to a request; every failure has a name."""
    try:
        return {"ok": True, **serve(request)}
    except Denied as error:
        return {"ok": False, "fault": "denied", "message": str(error)}
    except Fault as error:
        return {"ok": False, "fault": error.args[0], "message": error.args[1]}
    except MemoryError:
        return {"ok": False, "fault": "memory", "message": "it needed more memory than is allowed"}
    except Exception as error:  # a driver's own kinds; explain names them
        fault, message = explain(error)
        return {"ok": False, "fault": fault, "message": message}


class Watch:
    """Calls `stop` when time is up or when the other side asks for it; `why` says which."""

    def __init__(self, stop: Callable[[], None], seconds: float) -> None:
        self.stop, self.why = stop, ""
        self.until = time.monotonic() + max(0.01, seconds)
        self._over = False
        self._lock = threading.Lock()

    def end(self, why: str) -> None:
        """Stops what is under way."""
        # Under the lock: once `done` has returned, nothing is stopped any more, whatever runs next.
        with self._lock:
            if not self.why and not self._over:
                self.why = why
                self.stop()

    def done(self) -> None:
        """What was under way has ended by itself."""
        with self._lock:
            self._over = True


class Stoppable:
    """A conversation in which a request may be stopped while it is worked on: {"op": "stop"}."""

    def __init__(self) -> None:
        self.requests: queue.SimpleQueue[Any] = queue.SimpleQueue()
        self.watch: Watch | None = None
        self._changed = threading.Condition()
        self._looks_at = math.inf
        threading.stack_size(STACK_BYTES)
        threading.Thread(target=self._listen, name="listener", daemon=True).start()
        threading.Thread(target=self._keep_time, name="clock", daemon=True).start()

    @contextmanager
    def watching(self, stop: Callable[[], None], seconds: float, drop: Callable[[], None]) -> Iterator[Watch]:
        """Within it `stop` is called when the time is up or the other side says so; `drop` gives up the connection."""
        watch = Watch(stop, seconds)
        with self._changed:
            self.watch = watch
            # The clock is woken only to look earlier than it would anyway: a thread a statement is what costs.
            if watch.until < self._looks_at:
                self._changed.notify()
        try:
            yield watch
        except BaseException:
            drop()
            if watch.why:
                raise Fault("time", OUT_OF_TIME if watch.why == "time" else "stopped") from None
            raise
        finally:
            watch.done()
            self.watch = None

    def _keep_time(self) -> None:
        while True:
            with self._changed:
                watch = self.watch
                self._looks_at = watch.until if watch is not None and not watch.why else math.inf
                left = self._looks_at - time.monotonic()
                if left > 0:
                    self._changed.wait(None if left == math.inf else left)
                    continue
            if watch is not None:
                watch.end("time")

    def _listen(self) -> None:
        while True:
            request = read_frame()
            if request.get("op") != "stop":
                self.requests.put(request)
            elif self.watch is not None:
                self.watch.end("stopped")

    def go_on(self, serve: Callable[[Any], Reply], explain: Callable[[Exception], tuple[str, str]]) -> None:
        """Announces itself, then answers until standard input ends."""
        write_frame({})
        while True:
            write_frame(answer(serve, self.requests.get(), explain))


def elapsed_ms(started: float) -> float:
    """Milliseconds since a reading of the monotonic clock."""
    return round((time.monotonic() - started) * 1000, 3)
