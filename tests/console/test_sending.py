"""An answer sent on from its leaf: where the policy lets it, and what became of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Browser, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.outside import Board, by_hook, by_mail, let, letters

from .conftest import sign_in


@pytest.fixture(scope="module")
def own(
    new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, taker: Board, office: tuple[str, str]
) -> Iterator[Stage]:
    environment = {**by_hook(taker), **by_mail(office[0])}
    with new_stage(tmp_path_factory.mktemp("sending"), environment=environment) as running:
        yield running


def test_an_answer_is_sent_on_from_its_leaf(
    browser: Browser, own: Stage, taker: Board, office: tuple[str, str]
) -> None:  # fmt: skip
    with Harquel(own.url, own.token) as client:
        asked = client.ask("Which five routes earned most this year?", "ferries")
    let(own)
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=own.url, locale="en-GB")
    page = context.new_page()
    sign_in(page, own.token)
    page.goto(f"/inquiries/{asked.id}")
    expect(page.get_by_role("button", name="Take it away")).to_be_visible()
    # Where the policy names nobody, nothing is offered.
    expect(page.get_by_role("button", name="Send it on")).to_have_count(0)
    let(own, to=["board", "closed"])
    page.reload()
    button = page.get_by_role("button", name="Send it on")
    button.click()
    page.get_by_role("menuitem", name="board").click()
    expect(page.get_by_text("Was taken at board.")).to_be_visible()
    assert len(taker.heard) == 1
    taker.answers[:] = [503]
    button.focus()
    for key in ("Enter", "Home", "Enter"):
        page.keyboard.press(key)
    expect(page.get_by_text("board has not taken it yet (it answered 503)")).to_be_visible()
    expect(page.get_by_text("Was taken at board.")).to_be_visible()
    button.click()
    page.get_by_role("menuitem", name="closed").click()
    expect(page.get_by_text("closed did not take it: its name leads to an address of this machine")).to_be_visible()
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_text("closed did not take it")).to_be_visible()
    let(own, to=["board"], mail=["@marrowick.example"])
    page.reload()
    button.click()
    page.get_by_role("menuitem", name="By mail …").click()
    to = page.get_by_role("combobox", name="To", exact=True)
    expect(to).to_be_focused()
    expect(page.get_by_text("The policy lets it go to @marrowick.example.")).to_be_visible()
    to.fill("odo.finch@elsewhere.example")
    page.keyboard.press("Enter")
    expect(page.get_by_text("does not let answers be sent to 'odo.finch@elsewhere.example'")).to_be_visible()
    to.fill("odo.finch@marrowick.example")
    page.get_by_label("With a file").select_option("csv")
    page.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_text("Was taken at odo.finch@marrowick.example.")).to_be_visible()
    expect(to).to_have_count(0)
    assert [part["name"].rpartition(".")[2] for part in letters(office)[0]["parts"]] == ["png", "csv"]
    context.close()
