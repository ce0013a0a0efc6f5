"""The small page for frames: within the page of the cookbook, and in no frame of anybody else."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage, free_address

PROGRAM = Path(__file__).parents[2] / "docs" / "cookbook" / "embedded.py"


@pytest.fixture(scope="module")
def desk() -> str:
    return free_address()


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, desk: str) -> Iterator[Stage]:
    environment = {"HARQUEL__EMBEDDING__ORIGINS": f"http://{desk}"}
    with new_stage(tmp_path_factory.mktemp("embedding"), pace_s=0.5, environment=environment) as running:
        yield running


@pytest.fixture(scope="module")
def around(own: Stage, desk: str) -> Iterator[str]:
    """The page of the cookbook, with a token for a harbour desk."""
    with Harquel(own.url, own.token) as admin:
        secret = admin.create_token("desk", "Harbour Desk", ["ferries"], ["ask"]).secret
    server = subprocess.Popen(
        [sys.executable, str(PROGRAM), desk.rpartition(":")[2]],
        env={**os.environ, "HARQUEL_URL": own.url, "HARQUEL_TOKEN": secret}, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    until = time.monotonic() + 30
    while time.monotonic() < until:
        with suppress(httpx.TransportError):
            httpx.get(f"http://{desk}/")
            break
        time.sleep(0.1)
    yield f"http://{desk}/"
    server.terminate()
    server.wait(10)


def opened(browser: Browser, width: int) -> tuple[Page, list[str]]:
    page = browser.new_context(viewport={"width": width, "height": 800}, locale="en-GB").new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda said: faults.append(said.text) if said.type == "error" else None)
    return page, faults


@pytest.mark.parametrize("width", [1280, 390])
def test_a_question_is_asked_within_somebody_elses_page(browser: Browser, own: Stage, around: str, width: int) -> None:
    page, faults = opened(browser, width)
    page.goto(around)
    frame = page.frame_locator("#ask")
    field = frame.get_by_label("Your question")
    field.fill("How many were cancelled in August 2026?")
    field.press("Enter")
    expect(frame.get_by_text("Working on it")).to_be_visible()
    frame.get_by_role("button", name="sailings: 12", exact=True).click()
    expect(frame.get_by_role("heading", level=1)).to_contain_text("12.")
    expect(frame.get_by_text("clear", exact=True)).to_be_visible()
    field.fill("per month this year instead")
    field.press("Enter")
    expect(frame.get_by_role("img", name="Sailings")).to_be_visible()
    # It tells how high it is, so that nothing within it is cut off.
    page.wait_for_function("document.getElementById('ask').height > 500")
    inner = next(one for one in page.frames if "/embed" in one.url)
    assert inner.evaluate("location.hash") == ""
    assert inner.evaluate("document.documentElement.scrollWidth <= innerWidth")
    assert inner.evaluate("document.cookie") == ""
    # Its time is over: it asks the page around for another token, and goes on.
    with Harquel(own.url, own.token) as admin:
        for token in admin.tokens():
            if token.person.startswith("desk 3 "):
                admin.revoke_token(token.id)
    frame.get_by_role("button", name="Ask something else").click()
    field.fill("How many vessels are there?")
    field.press("Enter")
    expect(frame.get_by_role("heading", level=1)).to_contain_text("6")
    # What comes from elsewhere than the page around is not heard.
    inner.evaluate("postMessage({'harquel-token': 'stolen'}, '*')")
    field.fill("How many harbours are there?")
    field.press("Enter")
    expect(frame.get_by_role("heading", level=1)).to_contain_text("arbours")
    assert [fault for fault in faults if "401" not in fault] == []
    page.context.close()


def test_by_itself_it_asks_nothing(browser: Browser, own: Stage) -> None:
    page, faults = opened(browser, 390)
    page.goto(f"{own.url}/embed#token={own.token}")
    expect(page.get_by_text("This page is for a frame")).to_be_visible()
    expect(page.get_by_label("Your question")).to_be_disabled()
    assert faults == []
    page.context.close()


def test_no_other_page_shows_it_in_a_frame(browser: Browser, own: Stage) -> None:
    class Stranger(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.send_header("Content-Type", "text/html")
            self.end_headers()
            self.wfile.write(f'<iframe id="ask" src="{own.url}/embed"></iframe>'.encode())

        def log_message(self, *_: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Stranger)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        page, faults = opened(browser, 1280)
        page.goto(f"http://127.0.0.1:{server.server_port}/")
        page.wait_for_timeout(1000)
        assert page.frame_locator("#ask").get_by_label("Your question").count() == 0
        assert any("frame-ancestors" in fault for fault in faults)
        page.context.close()
    finally:
        server.shutdown()
        server.server_close()
