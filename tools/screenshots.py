"""Makes the pictures in docs/screenshots from the demo data: console pages and terminal views."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

from harquel.client import Harquel, calls
from harquel.client.casebooks import keep_in_casebook, make_casebook, run_casebook
from harquel.contract import CasebookRequest
from harquel.demo.stage import Beside, Stage, free_address
from harquel.testing.browser import OPTIONS, path_of_browser

ROOT = Path(__file__).resolve().parent.parent
TARGET = ROOT / "docs" / "screenshots"
DISPLAY = ":97"


def main() -> None:
    """All of them; under twenty files."""
    TARGET.mkdir(parents=True, exist_ok=True)
    # The page of sources shows where the database lies: the same place each time.
    folder = Path(tempfile.gettempdir()) / "marrowick"
    folder.mkdir()
    try:
        beside = Beside(free_address(), free_address(), free_address())
        with Stage(folder, free_address(), free_address(), print, pace_s=1.2, beside=beside) as stage:
            console(stage)
            charts(stage)
            chat(stage, beside)
            terminal(stage)
    finally:
        shutil.rmtree(folder)


def sign_in(page: Page, stage: Stage) -> None:
    """From the first visit to the first page."""
    page.goto(stage.url)
    page.get_by_label("Your token").fill(stage.token)
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="What do you want to know?").wait_for()


def ask(page: Page, question: str) -> None:
    """Types a question and waits until it has ended."""
    page.get_by_label("Your question").fill(question)
    page.keyboard.press("Enter")
    page.get_by_text("Choose a stop").wait_for(timeout=20_000)


def shoot(page: Page, name: str) -> None:
    """What the window shows, once fonts and lines have settled."""
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(500)
    page.screenshot(path=TARGET / f"{name}.png")


def console(stage: Stage) -> None:
    """The console, light, dark and on a phone."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path_of_browser(), args=OPTIONS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(stage.url)
        page.get_by_label("Your token").wait_for()
        sign_in(page, stage)
        ask(page, "Which five routes earned most this year?")
        shoot(page, "console-leaf")
        page.get_by_role("button", name="Source: ferries").click()
        page.get_by_role("option", name="rough").click()
        page.get_by_label("Your question").fill("On-time rate per vessel, worst first")
        page.keyboard.press("Enter")
        page.get_by_role("heading", name="Repairing the draft").or_(
            page.locator("path[stroke-dasharray]")
        ).first.wait_for()
        shoot(page, "console-progress")
        page.get_by_text("Choose a stop").wait_for(timeout=20_000)
        page.locator("button[aria-label^=guard]").first.click()
        page.locator("section[aria-label=guard]").scroll_into_view_if_needed()
        shoot(page, "console-trail")
        page.get_by_role("button", name="Source: rough").click()
        page.get_by_role("option", name="ferries Marrowick").click()
        thread(page)
        held(browser, stage)
        page.get_by_role("link", name="Sources").click()
        page.get_by_role("button", name="Connect a source").click()
        dialog = page.get_by_role("dialog")
        for label, value in (
            ("Name", "office"), ("Host", "127.0.0.1"), ("Port", "5999"), ("Database", "booking"), ("User", "reader"),
            ("Title, for those who ask", "Booking office, Quillhaven"),
        ):  # fmt: skip
            dialog.get_by_label(label, exact=True).fill(value)
        dialog.get_by_role("button", name="Connect").click()
        for name in ("ferries", "office"):
            page.get_by_role("region", name=name, exact=True).get_by_role("button", name="Check").click()
        page.get_by_text("It does not work yet.").wait_for()
        shoot(page, "console-sources")
        page.get_by_role("region", name="ferries", exact=True).get_by_role("link", name="Catalog").click()
        page.get_by_role("button", name="booking", exact=True).click()
        page.get_by_role("button", name="channel").click()
        shoot(page, "console-catalog")
        page.goto(f"{stage.url}/sources/ferries/examples")
        page.get_by_role("button", name="How much was refunded").click()
        shoot(page, "console-examples")
        page.get_by_role("link", name="Models").click()
        page.get_by_role("region", name="main", exact=True).get_by_role("button", name="Check").click()
        page.get_by_text("Its server has").wait_for()
        shoot(page, "console-models")
        casebook(page, stage)
        page.evaluate("localStorage.setItem('source', 'ferries')")
        page.goto(f"{stage.url}/")
        page.get_by_role("heading", name="What do you want to know?").wait_for()
        page.get_by_role("main").get_by_role("listitem").nth(7).wait_for(timeout=60_000)
        shoot(page, "console-ask")
        dark = browser.new_context(viewport={"width": 1280, "height": 800}, color_scheme="dark").new_page()
        sign_in(dark, stage)
        side_by_side(dark, stage)
        phone = browser.new_context(viewport={"width": 390, "height": 844}, device_scale_factor=2).new_page()
        sign_in(phone, stage)
        ask(phone, "How many sailings were cancelled in August 2026?")
        shoot(phone, "console-phone")
        browser.close()


def thread(page: Page) -> None:
    """A conversation, from a question that is asked back to what follows its answers."""
    ask(page, "How many were cancelled in August 2026?")
    asked_back = page.url
    page.get_by_role("button", name="sailings: 12", exact=True).click()
    page.wait_for_function("was => location.href !== was", arg=asked_back)
    for said, heard in (("and last year?", "in August 2025"), ("per vessel instead", "by vessel")):
        field = page.get_by_label("Ask on from here")
        field.wait_for(timeout=20_000)
        field.fill(said)
        page.keyboard.press("Enter")
        page.get_by_role("heading", level=1, name=heard).wait_for(timeout=20_000)
    page.get_by_text("Choose a stop").wait_for(timeout=20_000)
    shoot(page, "console-thread")


CASES = (
    ("How many sailings were cancelled in August 2026?", "august", (
        "# What the winter timetable has to do better\n\nIn August [=august] sailings were cancelled, in January "
        "[=months: sailing count | 2026-01]. Most of what is earned is earned on [=routes: route | QH-SR] "
        "([=routes: revenue | QH-SR])."
    )),
    ("How many sailings were cancelled per month in 2026?", "months", ""),
    ("Which five routes earned most this year?", "routes", "Where it hurts most:"),
)  # fmt: skip


def casebook(page: Page, stage: Stage) -> None:
    """A casebook whose figures are those of its answers, asked again."""
    with Harquel(stage.url, stage.token) as client:
        made = client.send(make_casebook(CasebookRequest(title="Winter timetable", readers=["*"])))
        for question, name, text in CASES:
            client.send(keep_in_casebook(made.id, client.ask(question, "ferries").id, name, text))
        client.send(run_casebook(made.id))
    page.goto(f"{stage.url}/casebooks/{made.id}")
    page.get_by_text("nothing has moved").wait_for(timeout=20_000)
    shoot(page, "console-casebook")


def side_by_side(page: Page, stage: Stage) -> None:
    """A question drafted again by a model that will not be corrected."""
    with Harquel(stage.url, stage.token) as client:
        before = client.ask("Litres of fuel per vessel and month this year", "ferries")
        again = client.redraft(before.id, "headstrong")
    page.goto(f"{stage.url}/inquiries/{again.id}")
    page.get_by_role("heading", name="Side by side").evaluate("e => { e.scrollIntoView(); scrollBy(0, -80) }")
    shoot(page, "console-side-by-side")


DRAWN = (
    "Revenue per month in 2026", "Litres of fuel per vessel and month this year",
    "Which five routes earned most this year?", "How many sailings per weekday in August 2026?",
    "What share of bookings came through each channel last quarter?",
    "How many sailings per route and weekday in August 2026?", "Sailings by hour in August 2026",
    "Average wind at Gullspire in July 2026 against July 2025", "Bookings per month and channel this year",
    "Revenue per quarter", "Cancelled sailings by reason this year", "Umsatz je Strecke in diesem Jahr",
)  # fmt: skip
"""Questions whose charts are of different shapes."""


def charts(stage: Stage) -> None:
    """A sheet with a chart of each shape, as the API draws them."""
    with Harquel(stage.url, stage.token) as client:
        images = []
        for number, question in enumerate(DRAWN):
            images.append(Path(stage.folder) / f"chart-{number}.png")
            images[-1].write_bytes(client.take_away(client.ask(question, "ferries").id, "png"))
    sheet = ["-tile", "3x4", "-geometry", "620x+12+12", "-gravity", "north", "-background", "#fffdf8", "-depth", "8"]
    subprocess.run(["montage", *map(str, images), *sheet, str(TARGET / "charts.png")], check=True)


def chat(stage: Stage, beside: Beside) -> None:
    """A thread in the simulated chat."""
    with Harquel(stage.url, stage.token) as admin:
        odo = admin.create_token("odo", "Odo Finch", ["ferries"], ["ask"]).secret
    with Harquel(stage.url, odo) as client:
        code = client.send(calls.chat_code("town")).write
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path_of_browser(), args=OPTIONS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(f"http://{beside.chat}/")
        heard = page.get_by_role("listitem").filter(has_text="Harquel")
        for place, thread, text, wanted in (
            ("Harquel", "", code, "I know you as Odo Finch"),
            ("# Harbour", "", "@harquel How many sailings were cancelled in August 2026?", "12 sailings"),
            ("# Harbour", "12 sailings", "per vessel instead", "by vessel"),
        ):  # fmt: skip
            page.get_by_role("button", name=place, exact=True).click()
            if thread:
                page.get_by_role("listitem").filter(has_text=thread).get_by_role("button", name="Reply").click()
            page.get_by_label("What to say").fill(text)
            page.keyboard.press("Enter")
            heard.filter(has_text=wanted).wait_for(timeout=20_000)
        shoot(page, "chat")
        browser.close()


def held(browser: Browser, stage: Stage) -> None:
    """A trainee's statement as somebody sees it who may release it."""
    with Harquel(stage.url, stage.token) as admin:
        trainee = admin.create_token("quay", "Tam Okell", ["ferries"], ["ask"], ["trainee"]).secret
        releaser = admin.create_token("office", "Rhea Quist", ["ferries"], ["ask", "release"]).secret
    with Harquel(stage.url, trainee) as client:
        key = client.ask("How many sailings were cancelled in August 2026?", "ferries").id
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(f"{stage.url}/inquiries/{key}")
    page.get_by_label("Your token").fill(releaser)
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Release", exact=True).wait_for()
    shoot(page, "console-held")


def terminal(stage: Stage) -> None:
    """The command line in a terminal window."""
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    screen = subprocess.Popen(["Xvfb", DISPLAY, "-screen", "0", "1280x800x24", "-nolisten", "tcp"], **quiet)
    try:
        time.sleep(1.5)
        in_terminal(stage, 'ask -s ferries "Which five routes earned most this year?"', "terminal-ask")
        in_terminal(stage, 'ask -s rough "On-time rate per vessel, worst first"', "terminal-repair")
        in_terminal(stage, "tour", "terminal-tour", wait_s=45)
        in_terminal(stage, "source check office", "terminal-check")
    finally:
        screen.terminate()
        screen.wait()


def in_terminal(stage: Stage, command: str, name: str, wait_s: float = 25) -> None:
    """Runs a command in a terminal window of 100 columns and takes its picture when it has ended."""
    done = Path(stage.folder) / f"{name}.done"
    program = f'{sys.executable} -m harquel {command}; touch "{done}"; sleep 30'
    shell = f'PS1=""; printf "$ harquel %s\\n" {command!r}; {program}'
    environment = {**os.environ, "DISPLAY": DISPLAY, "HARQUEL_URL": stage.url, "HARQUEL_TOKEN": stage.token}
    window = subprocess.Popen(
        ["xterm", "-fa", "DejaVu Sans Mono", "-fs", "11", "-geometry", "112x44+0+0", "-bg", "#fffdf8", "-fg", "#17262c",
         "-b", "12", "-e", "sh", "-c", shell],
        env=environment,
    )  # fmt: skip
    try:
        deadline = time.monotonic() + wait_s
        while not done.exists() and time.monotonic() < deadline:
            time.sleep(0.1)
        time.sleep(0.8)
        subprocess.run(
            ["import", "-window", "root", "-crop", "1030x800+0+0", str(TARGET / f"{name}.png")],
            env=environment, check=True,
        )  # fmt: skip
    finally:
        window.terminate()
        window.wait()


if __name__ == "__main__":
    main()
