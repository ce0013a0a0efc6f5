"""A casebook, from the leaf of its first answer to somebody else who reads it and follows a link."""

from __future__ import annotations

import pytest
from playwright.sync_api import Browser, Page, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage

from .conftest import sign_in

AUGUST = "How many sailings were cancelled in August 2026?"


def opened(browser: Browser, stage: Stage, width: int, token: str) -> tuple[Page, list[str]]:
    context = browser.new_context(viewport={"width": width, "height": 800}, base_url=stage.url, locale="en-GB")
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda said: faults.append(said.text) if "Content Security" in said.text else None)
    sign_in(page, token)
    return page, faults


@pytest.mark.parametrize("width", [1280, 390])
def test_an_answer_is_kept_written_about_asked_again_and_read_by_others(
    browser: Browser, stage: Stage, width: int
) -> None:
    title = f"Winter timetable {width}"
    with Harquel(stage.url, stage.token) as client:
        asked = client.ask(AUGUST, "ferries")
        months = client.ask("How many sailings were cancelled per month in 2026?", "ferries")
        clerk = client.create_token(f"clerk {width}", "Cora Lund", ["*"], ["ask"], ["harbour-clerk"], {"islands": []})
        bookings = client.ask("How many bookings are there?", "ferries")
    page, faults = opened(browser, stage, width, stage.token)
    for one in (asked, months, bookings):
        page.goto(f"/inquiries/{one.id}")
        page.get_by_role("button", name="Keep in a casebook").click()
        field = page.get_by_role("combobox", name="Casebook")
        expect(field).to_be_focused()
        field.fill(title)
        page.keyboard.press("Enter")
        expect(page.get_by_text("It is kept in")).to_be_visible()
    page.get_by_role("link", name=title).click()
    expect(page.get_by_role("heading", level=1, name=title)).to_be_visible()
    expect(page.get_by_role("img", name="Sailings by month")).to_be_visible()
    page.get_by_role("button", name="Write", exact=True).click()
    area = page.get_by_label("Text, in Markdown")
    expect(area).to_be_focused()
    area.press("Control+Home")
    page.keyboard.type("# In short\n\nIn August ")
    page.get_by_role("button", name="[=sailings-cancelled-august]").click()
    page.keyboard.type(
        " were cancelled, and 12 <b>typed</b>; [=sailings-cancelled-month: sailing count | 2026-07] before.\n\n"
    )
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("In August 12 were cancelled, and 12 <b>typed</b>; 8 before.")).to_be_visible()
    expect(page.get_by_text("12 stands in the text as typed")).to_be_visible()
    page.get_by_role("button", name="Ask all again").click()
    expect(page.get_by_text("nothing has moved")).to_be_visible()
    page.get_by_role("button", name="Readers").click()
    page.get_by_label("Who may read it").fill("Cora Lund")
    page.keyboard.press("Enter")
    expect(page.get_by_text("read by Cora Lund")).to_be_visible()
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("list", name="History").get_by_role("listitem")).to_have_count(6)
    page.get_by_role("list", name="History").get_by_role("link", name="4", exact=True).click()
    expect(page.get_by_text("This is version 4")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    book = page.url.partition("?")[0]
    # People without an account see it by a link, until that is ended.
    page.goto(book)
    page.get_by_role("button", name="Show it to others").click()
    days = page.get_by_label("For how many days")
    expect(days).to_be_focused()
    days.fill("2")
    page.keyboard.press("Enter")
    address = page.get_by_label("It holds until").input_value()
    stranger = browser.new_context(viewport={"width": width, "height": 800}).new_page()
    stranger.goto(address)
    expect(stranger.get_by_text("In August 12 were cancelled, and 12 <b>typed</b>; 8 before.")).to_be_visible()
    assert stranger.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_role("link", name="Open links").click()
    line = page.get_by_role("list", name="Open links").get_by_role("listitem").first
    expect(line).to_contain_text("opened once")
    line.get_by_role("button", name="End it now").click()
    expect(line).to_contain_text("it was ended")
    stranger.reload()
    expect(stranger.get_by_role("heading", name="This link shows nothing.")).to_be_visible()
    stranger.context.close()
    assert faults == []
    page.context.close()

    page, faults = opened(browser, stage, width, clerk.secret)
    page.goto(book)
    expect(page.get_by_text("In August 12 were cancelled")).to_be_visible()
    # What the clerk would not be answered is not shown, here and behind its link.
    hidden = page.get_by_role("region", name="How many bookings are there?")
    expect(hidden).to_contain_text("might not be the same answer")
    page.goto(f"/inquiries/{bookings.id}")
    expect(page.get_by_text("might not be the same answer")).to_be_visible()
    page.goto(f"/inquiries/{months.id}")
    expect(page.get_by_text("Asked by Ada Brinewell")).to_be_visible()
    expect(page.get_by_role("img", name="Sailings by month")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.goto(f"/inquiries/{bookings.id}")
    page.get_by_role("button", name="Ask it yourself").click()
    expect(page.get_by_text("asked by Cora Lund")).to_be_visible()
    assert faults == []
    page.context.close()
