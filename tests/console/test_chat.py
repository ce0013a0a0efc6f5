"""A play in the simulated chat, through its page: thirty messages of four people; and the page that gives codes."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from harquel.client import Harquel
from harquel.demo.stage import Beside, Stage, free_address

from .conftest import sign_in

NAMES = {"odo": "Odo Finch", "rhea": "Rhea Quist", "ada": "Ada Brinewell", "tam": "Tam Ellery"}
Line = tuple[str, str, str, str, str]
PLAY: list[Line] = [
    # who, where, in the thread of, what they say, what is in the reply
    ("odo", "# Harbour", "", "Good morning!", ""),
    ("odo", "# Harbour", "", "@harquel how many vessels are there?", "I do not know yet"),
    ("tam", "Harquel", "", "sources", "I do not know yet"),
    ("odo", "Harquel", "", "CODE", "I know you as Odo Finch"),
    ("rhea", "Harquel", "", "CODE", "I know you as Rhea Quist"),
    ("ada", "Harquel", "", "CODE", "I know you as Ada Brinewell"),
    ("odo", "Harquel", "", "help", "Ask me something about ferries"),
    ("odo", "# Harbour", "", "@harquel how many vessels do we have?", "Vessels: 6."),
    ("rhea", "# Harbour", "", "Six it is, then.", ""),
    ("rhea", "# Harbour", "", "@harquel Which five routes earned most this year?", "Revenue by routes in 2026"),
    ("rhea", "# Harbour", "Which five routes", "and last year?", "in 2025"),
    ("rhea", "# Harbour", "Which five routes", "why?", "confirmed"),
    ("ada", "# Office", "", "@harquel How many sailings were cancelled in August 2026?", "sent it to them alone"),
    ("ada", "# Office", "", "Mine, not yours.", ""),
    ("ada", "Harquel", "12 sailings", "and in July?", "July 2026"),
    ("odo", "Harquel", "", "BW", "Brightwater"),
    ("odo", "Harquel", "", "flurb", "What about “flurb”?"),
    ("odo", "Harquel", "", "How many were cancelled in August 2026?", "1. "),
    ("odo", "Harquel", "How many were", "1", "ark"),
    ("ada", "Harquel", "", "How many sailings were cancelled per month in 2026?", "one more row"),
    ("ada", "Harquel", "How many sailings were cancelled per month", "table", "9 of 9 rows"),
    ("rhea", "Harquel", "", "Delete all bookings", "only reading is allowed"),
    ("rhea", "Harquel", "", "Wie viele Fahrten fielen im August 2026 aus?", "Zeichen: klar."),
    ("tam", "Harquel", "", "link AAAAA-BBBBB", "does not count"),
    ("tam", "# Harbour", "", "I only read along.", ""),
    ("odo", "Harquel", "", "stop", "Nothing is under way"),
    ("rhea", "Harquel", "", "List the names of all crew members", "crew"),
    ("ada", "Harquel", "", "How many harbours are there?", "Harbours: 8."),
    ("ada", "Harquel", "", "unlink", "do not know you here any more"),
    ("ada", "Harquel", "", "help", "I do not know yet"),
]


@pytest.fixture
def beside() -> Beside:
    """For each play a chat of its own: whoever was linked in another would be known."""
    return Beside(free_address(), free_address(), free_address())


@pytest.fixture
def own(new_stage: Callable[..., Stage], tmp_path: Path, beside: Beside) -> Iterator[Stage]:
    with new_stage(tmp_path, pace_s=0.1, beside=beside) as running:
        yield running


def code_of(page: Page) -> str:
    """A code, from the page on which one gets it."""
    page.get_by_role("button", name="Make a code").click()
    code = page.locator("code")
    expect(code).to_contain_text("link ")
    return code.inner_text()


def say(page: Page, line: Line, code: str) -> None:
    person, place, thread, text, wanted = line
    page.get_by_label("I am").select_option(person)
    button = page.get_by_role("navigation").get_by_role("button", name=place, exact=True)
    button.click()
    expect(button).to_have_attribute("aria-current", "page")
    messages = page.get_by_role("listitem")
    if thread:
        messages.filter(has_text=thread).first.get_by_role("button", name="Reply").click()
        expect(page.get_by_text("In the thread")).to_be_visible()
    said = code if text == "CODE" else text
    expect(page.get_by_label("What to say")).to_have_value("")
    # What was said in the place before it is gone.
    expect(page.locator("#messages")).to_have_attribute("data-of", re.compile(f"^{person} "))
    expect(page.locator("#messages")).to_have_attribute("data-of", re.compile(f"{place.strip('# ')}$"))
    before = messages.count()
    page.get_by_label("What to say").fill(said)
    page.keyboard.press("Enter")
    # What is told to one alone does not stand where it was asked.
    elsewhere = place[0] == "#" and wanted.startswith("I do not know yet")
    expect(messages).to_have_count(before + (1 if elsewhere or wanted == "" else 2))
    if wanted and not elsewhere:
        expect(messages.filter(has_text="Harquel").filter(has_text=wanted).last).to_be_visible()


@pytest.mark.parametrize("width", [1280, 390])
def test_thirty_messages_of_four_people(browser: Browser, own: Stage, beside: Beside, width: int) -> None:
    context = browser.new_context(viewport={"width": width, "height": 800}, locale="en-GB")
    chat = context.new_page()
    faults: list[str] = []
    chat.on("pageerror", lambda error: faults.append(str(error)))
    chat.goto(f"http://{beside.chat}/")
    codes = {}
    for person in ("odo", "rhea", "ada"):
        with Harquel(own.url, own.token) as admin:
            token = admin.create_token(f"of {person} at {width}", NAMES[person], ["ferries"], ["ask"]).secret
        console = browser.new_context(viewport={"width": width, "height": 800}, base_url=own.url, locale="en-GB")
        page = console.new_page()
        sign_in(page, token)
        page.goto("/chats")
        codes[person] = code_of(page)
        console.close()
    assert len(PLAY) == 30
    for line in PLAY:
        say(chat, line, codes.get(line[0], ""))
        assert chat.evaluate("document.documentElement.scrollWidth <= innerWidth"), line
    context.close()
    assert faults == []


def test_a_link_is_seen_and_ended_in_the_console(browser: Browser, own: Stage, beside: Beside) -> None:
    with Harquel(own.url, own.token) as admin:
        token = admin.create_token("of tam", "Tam Ellery", ["ferries"], ["ask"]).secret
    console = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=own.url, locale="en-GB")
    page = console.new_page()
    sign_in(page, token)
    page.get_by_role("button", name="Tam Ellery").click()
    page.get_by_role("menuitem", name="Chats").click()
    expect(page.get_by_role("heading", name="town")).to_be_visible()
    code = code_of(page)
    chat = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    chat.goto(f"http://{beside.chat}/")
    say(chat, ("tam", "Harquel", "", "CODE", "I know you as Tam Ellery"), code)
    page.reload()
    expect(page.get_by_text("tam asks in your name.")).to_be_visible()
    page.get_by_role("button", name="End it").click()
    expect(page.get_by_text("tam asks in your name.")).to_have_count(0)
    say(chat, ("tam", "Harquel", "", "How many vessels are there?", "I do not know yet"), "")
    chat.context.close()
    console.close()
