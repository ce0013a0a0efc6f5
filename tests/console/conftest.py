"""A browser and a demo for the tests of the console."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from harquel.demo.stage import Stage

# Two cores serve browser, service, model and the other tests: what appears at all appears within this time.
expect.set_options(timeout=20_000)
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
