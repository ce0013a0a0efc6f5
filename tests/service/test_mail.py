"""Answers as mail: whom they go to, what is in them, and what a mail server cannot do to this one."""

from __future__ import annotations

import io
import json
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import openpyxl
import pytest

from harquel.client import Forbidden, Harquel, Invalid, calls
from harquel.demo.stage import Stage
from harquel.service.config import MailSection
from harquel.service.outbox.mail import Mail
from harquel.service.outbox.outward import NotTaken
from tests.outside import by_mail, let, letters
from tests.service.test_outbox import ended
from tests.service.test_outward import resolving

QUESTION = "How many sailings were cancelled per month in 2026?"


@pytest.fixture(scope="module")
def own(
    new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, office: tuple[str, str]
) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("mail"), environment=by_mail(office[0])) as running:
        let(running, mail=["@marrowick.example", "rhea@quist.example"])
        yield running


def test_an_answer_arrives_as_a_letter_with_its_chart_and_its_rows(own: Stage, office: tuple[str, str]) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        done = ended(client, client.send(calls.send_on(asked.id, "odo.finch@marrowick.example", "xlsx")))
        assert (done.state, done.tries, done.destination) == ("arrived", 1, "odo.finch@marrowick.example")
        assert [e.kind for e in client.ledger(limit=50, inquiry=asked.id).items][:2] == ["arrived", "sent-on"]
        assert client.verify_ledger().intact
    letter = letters(office)[0]
    assert (letter["to"], letter["subject"]) == (["odo.finch@marrowick.example"], QUESTION)
    assert letter["headers"]["message-id"] == f"<{done.id}@harquel.example>"
    assert (letter["headers"]["auto-submitted"], letter["headers"]["harquel-try"]) == ("auto-generated", "1")
    assert asked.answer is not None
    for text in (letter["text"], letter["html"]):
        for told in (asked.answer.text, "clear", "2026-01", "51", f"https://harquel.example/inquiries/{asked.id}"):
            assert told in text, told
        assert own.token not in text
    assert '"cid:chart"' in letter["html"]
    chart, rows = letter["parts"]
    assert (chart["cid"], chart["type"]) == ("chart", "image/png")
    sheet = httpx.get(f"{office[1]}/letters/{letter['number']}/parts/1").content
    assert len(sheet) == rows["bytes"]
    assert openpyxl.load_workbook(io.BytesIO(sheet)).worksheets[0].max_row >= 10
    assert httpx.get(f"{office[1]}/letters/{letter['number']}/parts/0").content.startswith(b"\x89PNG")


def test_mail_goes_to_whom_the_policy_lets_it_and_to_nobody_else(own: Stage, office: tuple[str, str]) -> None:
    before = len(letters(office))
    with Harquel(own.url, own.token) as client:
        asked = client.ask("How many vessels are there?", "ferries")
        assert {s.name: s.recipients for s in client.sources()}["ferries"] == [
            "@marrowick.example", "rhea@quist.example",
        ]  # fmt: skip
        for to in ("a@other.example", "a@sub.marrowick.example", "a@marrowick.example.org", "other@quist.example"):
            with pytest.raises(Forbidden, match="does not let"):
                client.send(calls.send_on(asked.id, to))
        for to in (
            "a@marrowick.example\r\nBcc: b@other.example", "a@marrowick.example\n",
            "a@marrowick.example,b@other.example", "A <a@other.example> @marrowick.example",
            '"a b"@marrowick.example', "a@b@marrowick.example",
            "a@marrowick.example> BODY=8BITMIME", "é@marrowick.example", "a@marrowick。example", "@marrowick.example",
            "a\x00@marrowick.example", "a b@marrowick.example", "a@-marrowick.example",
            f"{'a' * 300}@marrowick.example",
        ):  # fmt: skip
            with pytest.raises(Invalid):
                client.send(calls.send_on(asked.id, to))
        with pytest.raises(Invalid, match="attach"):
            client.send(calls.send_on(asked.id, "board", "csv"))
        assert len(letters(office)) == before
        assert ended(client, client.send(calls.send_on(asked.id, "Rhea@Quist.EXAMPLE"))).state == "arrived"
        # What a server refuses for good is given up at once, what it refuses for now is tried again.
        refused = ended(client, client.send(calls.send_on(asked.id, "nobody@marrowick.example")))
        assert (refused.state, refused.tries) == ("given-up", 1)
        assert "550" in refused.said
        later = client.send(calls.send_on(asked.id, "full@marrowick.example"))
        until = time.monotonic() + 30
        while time.monotonic() < until and "452" not in later.said:
            later = next(s for s in client.send(calls.sendings()) if s.id == later.id)
        assert (later.state, later.tries) == ("waiting", 1)
        let(own, mail=["@other.example"])
        given_up = ended(client, later)
        assert "no more" in given_up.said
        let(own, mail=["@marrowick.example", "rhea@quist.example"])
    assert len(letters(office)) == before + 1


HOSTILE = """
import datetime as dt, json, sys
from django.conf import settings
settings.configure(TEMPLATES=[{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}],
                   INSTALLED_APPS=["harquel.service.outbox"])
import django; django.setup()
from email import message_from_bytes, policy
from harquel.contract import Inquiry
from harquel.service.outbox.letter import Envelope, letter
bad = sys.argv[1]
shape = json.loads(sys.stdin.read())
shape["question"] = bad
shape["answer"]["text"] = bad
shape["answer"]["caveats"] = [{"rule": "x", "message": bad}]
shape["answer"]["table"]["rows"] = [[bad] * len(shape["answer"]["table"]["columns"])] * 30
for column in shape["answer"]["table"]["columns"]:
    column["name"], column["type"], column["unit"] = bad, "text", bad
about = Envelope("msg_1", "a@harquel.example", "b@marrowick.example", bad, dt.datetime(2026, 9, 14, tzinfo=dt.UTC), "https://h")
made = letter(about, Inquiry.model_validate(shape))
read = message_from_bytes(made, policy=policy.default)
plain, page = read.get_body(("plain",)).get_content(), read.get_body(("html",)).get_content()
print(json.dumps([read.keys(), read["to"], read["subject"], plain, page, len(made)]))
"""


@pytest.mark.parametrize("bad", [
    "x\r\nBcc: everybody@marrowick.example\r\n\r\nhello", "<script>alert(1)</script>",
    '"><img src="https://other.example/x" onerror=alert(1)>', "{{ link }}{% load static %}",
    "\u202egnp.exe\u2028\x1b[2J\x01",
    "=?utf-8?q?x=0d=0aBcc:_a@b?=", "a" * 100_000,
], ids=range(7))  # fmt: skip
def test_nothing_in_data_begins_a_header_or_a_tag(own: Stage, bad: str) -> None:
    with Harquel(own.url, own.token) as client:
        shape = client.ask("How many vessels are there?", "ferries").model_dump_json()
    said = subprocess.run(
        [sys.executable, "-c", HOSTILE, bad], input=shape, capture_output=True, text=True, check=False
    )  # fmt: skip
    assert said.returncode == 0, said.stderr
    keys, to, subject, plain, page, size = json.loads(said.stdout)
    assert sorted(k.lower() for k in keys) == [
        "auto-submitted", "content-type", "date", "from", "message-id", "mime-version", "subject", "to",
    ]  # fmt: skip
    assert to == "b@marrowick.example"
    assert len(subject.strip()) <= 150
    for sign in ("\r", "\x1b", "\x01", "\u202e", "\u2028"):
        assert sign not in subject + (page + plain).replace("\r\n", "\n")
    assert not any(line.startswith("Bcc:") for line in plain.splitlines())
    for tag in ("<script", "<img src", "onerror=alert(1)>"):
        assert tag not in page
    assert size < 300_000


Script = dict[str, bytes | float]
"""What a server says to each word; a number: nothing, for so many seconds."""


@contextmanager
def server(script: Script) -> Iterator[tuple[str, list[bytes]]]:
    """Speaks SMTP, but for what the script says."""
    heard: list[bytes] = []
    stopped = threading.Event()
    usual: Script = {
        "": b"220 here\r\n", "EHLO": b"250-here\r\n250 SIZE 1000000\r\n", "HELO": b"250 here\r\n",
        "MAIL": b"250 ok\r\n", "RCPT": b"250 ok\r\n", "DATA": b"354 go on\r\n", ".": b"250 taken\r\n",
        "QUIT": b"221 bye\r\n", "RSET": b"250 ok\r\n",
    }  # fmt: skip

    def say(line: socket.socket, word: str) -> bool:
        said = {**usual, **script}.get(word, b"500 what\r\n")
        if isinstance(said, float):
            stopped.wait(said)
            return False
        if said.startswith(b"*"):
            while not stopped.is_set():
                line.sendall(said[1:])
                stopped.wait(0 if len(said) > 50 else 0.2)
        if said:
            line.sendall(said)
        return bool(said)

    def serve(line: socket.socket) -> None:
        with line, line.makefile("rb") as file:
            try:
                going, in_data = say(line, ""), False
                while going and (read := file.readline()):
                    heard.append(read)
                    if in_data and read != b".\r\n":
                        continue
                    word = (
                        "." if in_data else read.split()[0].decode("ascii", "replace").upper() if read.strip() else "?"
                    )
                    in_data = word == "DATA"
                    going = say(line, word)
            except OSError:
                return

    def accept(listening: socket.socket) -> None:
        while not stopped.is_set():
            try:
                line, _ = listening.accept()
            except OSError:
                return
            threading.Thread(target=serve, args=(line,), daemon=True).start()

    with socket.create_server(("127.0.0.1", 0)) as listening:
        thread = threading.Thread(target=accept, args=(listening,), daemon=True)
        thread.start()
        try:
            yield f"127.0.0.1:{listening.getsockname()[1]}", heard
        finally:
            stopped.set()
            listening.shutdown(socket.SHUT_RDWR)
            thread.join(5)


def carried(at: str, whole_s: float = 1.5, **more: Any) -> None:
    section = MailSection(server=at, sender="a@harquel.example", **{"tls": "off", "private": True, **more})
    Mail(section, "secret", "b@marrowick.example").carry("msg_1", 3, b"Subject: x\r\n\r\n.hello\r\n", whole_s)


def test_a_letter_is_said_whole(office: tuple[str, str]) -> None:
    with server({}) as (at, heard):
        carried(at)
    assert [word.split()[0].upper() for word in heard[:4]] == [b"EHLO", b"MAIL", b"RCPT", b"DATA"]
    assert (b"<a@harquel.example>" in heard[1], b"<b@marrowick.example>" in heard[2]) == (True, True)
    start = 3
    assert heard[start + 1 : start + 6] == [b"Harquel-Try: 3\r\n", b"Subject: x\r\n", b"\r\n", b"..hello\r\n", b".\r\n"]


@pytest.mark.parametrize(("script", "match", "lasting"), [
    ({"RCPT": b"550 nobody\r\n"}, "550 nobody", True), ({"RCPT": b"452 full\r\n"}, "452 full", False),
    ({"MAIL": b"553 not you\r\n"}, "553", True), ({"MAIL": b"421 later\r\n"}, "421", False),
    ({".": b"554 no\r\n"}, "554", True), ({".": b"451 later\r\n"}, "451", False), ({".": b""}, "broke off", False),
    ({"DATA": b""}, "broke off", False), ({"": b"554 not now\r\n"}, "554", False),
    ({"": b""}, "broke off|broke", False),
    ({"": 5.0}, "in time", False), ({"EHLO": 5.0}, "in time", False), ({".": 5.0}, "in time", False),
    ({"": b"*2"}, "in time|broke off", False), ({"EHLO": b"*250-x\r\n"}, "in time", False),
    ({"EHLO": b"*250-" + b"x" * 1000 + b"\r\n"}, "more than it should", False),
    ({"": b"220 " + b"x" * 20_000}, "too long", False),
    ({"EHLO": b"\xff\xfe\r\n", "HELO": b"no\r\n"}, "broke off|-1", False),
])  # fmt: skip
def test_what_a_server_does_not_take_is_said_and_ends(script: Script, match: str, lasting: bool) -> None:
    started = time.monotonic()
    with server(script) as (at, _), pytest.raises(NotTaken, match=f"(?i){match}") as fault:
        carried(at)
    assert fault.value.lasting is lasting
    assert len(str(fault.value)) < 200
    assert time.monotonic() - started < 20


def test_nothing_is_said_in_clear_where_it_is_to_be_encrypted() -> None:
    for script in ({}, {"EHLO": b"250-here\r\n250 STARTTLS\r\n", "STARTTLS": b"220 go\r\n250 AUTH PLAIN\r\n"}):
        with server(script) as (at, heard), pytest.raises(NotTaken):
            carried(at, tls="starttls", user="u", password="env:X")
        assert not any(word.split()[0] in (b"AUTH", b"MAIL", b"DATA") for word in heard if word.strip())
    with server({}) as (at, heard), pytest.raises(NotTaken):
        carried(at, tls="from-start")
    assert not any(b"MAIL" in word for word in heard)


def test_a_mail_server_on_this_machine_or_a_private_network_is_none_without_leave(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    tried: list[Any] = []

    def connect(_: socket.socket, at: Any) -> None:
        tried.append(at)
        raise ConnectionRefusedError

    monkeypatch.setattr(socket.socket, "connect", connect)
    for at in ("127.0.0.1:25", "localhost:25", "[::1]:25", "10.0.0.1:25", "169.254.169.254:25"):
        with pytest.raises(NotTaken, match="private network"):
            carried(at, tls="starttls", private=False)
    assert tried == []
    monkeypatch.setattr(socket, "getaddrinfo", resolving(["93.184.216.34"], ["127.0.0.1"])[0])
    with pytest.raises(NotTaken, match="nobody listens"):
        carried("mail.example:25", tls="starttls", private=False)
    assert tried == [("93.184.216.34", 25)]


def test_the_section_does_not_let_a_password_go_in_clear() -> None:
    for more in (
        {"tls": "off"}, {"tls": "off", "private": True, "user": "u", "password": "env:X"}, {"user": "u"},
        {"sender": "a@b.example\r\nBcc: c@d.example"}, {"server": "mail.example"}, {"server": "http://mail.example:25"},
    ):  # fmt: skip
        with pytest.raises(ValueError, match="validation error"):
            MailSection.model_validate({"server": "mail.example:25", "sender": "a@b.example", **more})


def test_letters_can_be_read_and_reach_nothing(office: tuple[str, str], own: Stage, tmp_path: Path) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask("How many vessels are there?", "ferries")
        ended(client, client.send(calls.send_on(asked.id, "rhea@quist.example")))
    number = letters(office)[0]["number"]
    page = httpx.get(f"{office[1]}/letters/{number}")
    assert page.status_code == 200
    assert "sandbox" in page.text
    inner = httpx.get(f"{office[1]}/letters/{number}/page")
    assert "default-src 'none'" in inner.headers["content-security-policy"]
    assert httpx.get(f"{office[1]}/letters/9999").status_code == 404
    assert httpx.get(f"{office[1]}/letters/{number}/parts/9").status_code == 404
