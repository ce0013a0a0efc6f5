"""A question that is watched, from its leaf to the list of what came of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Browser, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.outside import Board, by_hook, let

from .conftest import sign_in


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, taker: Board) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("watching"), environment=by_hook(taker)) as running:
        let(running, to=["board"])
        yield running


@pytest.mark.parametrize("width", [1280, 390])
def test_a_question_is_watched_from_its_leaf(browser: Browser, own: Stage, taker: Board, width: int) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask("How many sailings were cancelled last month?", "ferries")
    context = browser.new_context(viewport={"width": width, "height": 800}, base_url=own.url, locale="en-GB")
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    sign_in(page, own.token)
    if width == 1280:
        page.goto("/watches")
        expect(page.get_by_text("Nothing is watched yet.")).to_be_visible()
    page.goto(f"/inquiries/{asked.id}")
    page.get_by_role("button", name="Watch it").click()
    when = page.get_by_label("When", exact=True)
    expect(when).to_be_focused()
    when.fill("sometimes")
    page.get_by_label("What is told").select_option("a figure that goes above")
    page.get_by_label("The line").fill("10")
    page.get_by_role("combobox", name="To", exact=True).fill("board")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("does not say when")
    when.fill("every Monday at 8:00")
    page.get_by_role("button", name="Watch", exact=True).click()
    expect(page.get_by_text("It is asked every Monday at 8:00 from now on (UTC).")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_role("link", name="Watched questions").click()
    watch = page.get_by_role("list", name="Watched questions").get_by_role("listitem").first
    expect(watch).to_contain_text("a figure that goes above 10")
    before = len(taker.heard)
    watch.get_by_role("button", name="Ask now").click()
    watch.get_by_role("button", name="Earlier times").click()
    runs = watch.get_by_role("list", name="Earlier times")
    for _ in range(40):
        if runs.get_by_text("nothing to tell").count():
            break
        page.wait_for_timeout(500)
        page.reload()
        watch.get_by_role("button", name="Earlier times").click()
        expect(runs.get_by_role("listitem").first).to_be_visible()
    expect(runs).to_contain_text("12")
    assert len(taker.heard) == before
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    watch.get_by_role("button", name="Let it rest").click()
    expect(watch.get_by_role("button", name="Go on")).to_be_visible()
    watch.get_by_role("button", name="End it").click()
    expect(watch).to_contain_text("over")
    expect(watch.get_by_role("button", name="Ask now")).to_have_count(0)
    context.close()
    assert faults == []
