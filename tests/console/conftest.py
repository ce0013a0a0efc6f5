"""A browser and a demo for the tests of the console."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from harquel.demo.stage import Stage
from harquel.testing.browser import OPTIONS, path_of_browser

# Two cores serve browser, service, model and the other tests: what appears at all appears within this time.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=path_of_browser(), args=OPTIONS)
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


_SESSIONS: dict[str, list[Any]] = {}
"""Cookies by token, of whoever signed in by the form before."""


def sign_in(page: Page, token: str, at: str = "/") -> None:
    """By the session of an earlier test where it still holds, otherwise by the form."""
    page.context.add_cookies(_SESSIONS.get(token, []))
    page.goto(at)
    question, form = page.get_by_label("Your question"), page.get_by_label("Your token")
    expect(question.or_(form)).to_be_visible()
    if form.is_visible():
        form.fill(token)
        page.keyboard.press("Enter")
        expect(question).to_be_visible()
        _SESSIONS[token] = list(page.context.cookies())
