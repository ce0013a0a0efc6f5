"""The console in a real browser: signing in, asking, watching, reading, looking behind."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from harquel.demo.stage import Stage

pytestmark = pytest.mark.xdist_group("browser")
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield opened
        opened.close()


@pytest.fixture(scope="module")
def paced(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    """A demo whose model takes its time, so that progress can be seen."""
    with new_stage(tmp_path_factory.mktemp("console"), pace_s=1.0) as running:
        yield running


@pytest.fixture
def page(browser: Browser, paced: Stage) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=paced.url)
    opened = context.new_page()
    faults: list[str] = []
    opened.on("pageerror", lambda error: faults.append(str(error)))
    yield opened
    context.close()
    assert faults == []


def sign_in(page: Page, token: str, at: str = "/") -> None:
    page.goto(at)
    page.get_by_label("Your token").fill(token)
    page.keyboard.press("Enter")
    expect(page.get_by_label("Your question")).to_be_visible()


def test_a_wrong_token_is_said_and_a_right_one_goes_on_to_the_page_asked_for(page: Page, paced: Stage) -> None:
    page.goto("/inquiries")
    page.get_by_label("Your token").fill("wrong")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_contain_text("not known")
    page.get_by_label("Your token").fill(paced.token)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Earlier inquiries")).to_be_visible()


def test_asking_shows_progress_then_answer_grounds_and_trail(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_role("button", name="Which five routes earned most this year?").click()
    expect(page.get_by_role("heading", name="The model is writing a draft …")).to_be_visible()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    expect(page.get_by_role("heading", level=1)).to_contain_text("5 rows.", timeout=15_000)
    expect(page.get_by_role("region", name="Answer")).to_contain_text("clear")
    table = page.get_by_role("region", name="Result")
    expect(table.get_by_role("row")).to_have_count(6)
    expect(table).to_contain_text("EUR")
    expect(page.get_by_text("GROUP BY")).to_be_visible()
    page.get_by_role("button", name=re.compile("^model")).click()
    expect(page.locator("pre", has_text="CREATE TABLE sailing")).to_be_visible()
    page.get_by_role("button", name=re.compile("^reply")).click()
    expect(page.locator("section[aria-label=reply]")).to_contain_text('"explanation"')


def test_a_repair_is_a_loop_whose_stop_shows_the_place_of_the_fault(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_role("button", name="Source: ferries").click()
    page.get_by_role("option", name="rough").click()
    page.get_by_label("Your question").fill("On-time rate per vessel, worst first")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Old Petrel", timeout=15_000)
    assert page.locator("path[stroke-dasharray]").count() == 1
    page.get_by_role("button", name=re.compile("^guard")).first.click()
    expect(page.locator("mark").first).to_have_text("vessel_name_value")
    expect(page.locator("section[aria-label=guard]")).to_contain_text("policy line: expose")


def test_a_refusal_says_why_and_the_list_remembers_it(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("Delete every booking")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("only reading is allowed", timeout=15_000)
    expect(page.get_by_text("statement.reads-only")).to_be_visible()
    page.get_by_role("link", name="Earlier").click()
    first = page.locator("a", has_text="Delete every booking").first
    expect(first).to_contain_text("refused")
    first.click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("only reading is allowed")


def test_stop_ends_it(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_role("button", name="Litres of fuel").click()
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_role("region", name="Answer")).to_contain_text("cancelled", timeout=5_000)


def test_the_keyboard_alone_is_enough(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.locator("body").click()
    page.keyboard.press("/")
    page.keyboard.type("How many customers joined in 2026?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Customer count", timeout=15_000)
    for _ in range(40):
        page.keyboard.press("Tab")
        if "guard" in (page.evaluate("document.activeElement.getAttribute('aria-label')") or ""):
            break
    page.keyboard.press("Enter")
    expect(page.locator("section[aria-label=guard]")).to_be_visible()


def test_dark_is_kept_and_a_phone_cuts_nothing_off(browser: Browser, paced: Stage) -> None:
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=paced.url, color_scheme="dark")
    page = context.new_page()
    sign_in(page, paced.token)
    assert page.evaluate("document.documentElement.dataset.theme") == "dark"
    page.get_by_role("button", name="Ada Brinewell").click()
    page.get_by_role("menuitem", name="Look: light").click()
    page.get_by_label("Your question").fill("Which five routes earned most this year?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("5 rows.", timeout=15_000)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.reload()
    assert page.evaluate("document.documentElement.dataset.theme") == "light"
    context.close()


def test_a_service_that_is_gone_is_said(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.route("**/api/v1/inquiries*", lambda route: route.abort())
    page.get_by_role("link", name="Earlier").click()
    expect(page.get_by_role("alert")).to_contain_text("does not answer")
    page.unroute("**/api/v1/inquiries*")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_the_page_is_made_of_our_own_files(paced: Stage) -> None:
    folder = Path(__file__).resolve().parents[2] / "src/harquel/service/console"
    text = "".join(p.read_text(errors="ignore") for p in folder.rglob("*.html")) + "".join(
        p.read_text(errors="ignore") for p in folder.rglob("*.css")
    )
    assert "//fonts." not in text
    assert "http://" not in text
