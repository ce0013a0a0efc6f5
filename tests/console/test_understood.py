"""How a question was understood, in a real browser: asked back, held against a second way, corrected by a click."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from harquel.client import Harquel
from harquel.client.describing import document, replace_document
from harquel.demo.stage import Stage
from tests.console.conftest import sign_in


def test_a_question_that_is_asked_back_is_settled_by_a_choice(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("How many were cancelled in August 2026?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Which is it?")
    expect(page.get_by_role("region", name="Answer")).to_contain_text("asked back")
    page.get_by_role("button", name="sailings: 12", exact=True).press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Sailings (cancelled) in August 2026: 12.")
    page.get_by_role("link", name="what was asked back").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Which is it?")


def test_a_second_opinion_that_differs_stands_beside_the_first(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_role("button", name="Source: ferries").click()
    page.get_by_role("option", name="pair").click()
    page.get_by_label("Your question").fill("Litres of fuel per vessel and month this year")
    page.keyboard.press("Enter")
    second = page.get_by_role("region", name="Second opinion")
    expect(second).to_contain_text("from how careful reads the question, comes to another result. 47 rows")
    expect(second.get_by_role("region", name="Rows").get_by_role("row")).to_have_count(26)
    expect(page.get_by_role("region", name="Answer")).to_contain_text("Our own query, built from the question")
    # What each part of it stands for is lit up in the question while somebody points at it, with the keyboard too.
    part = page.get_by_text("sum of fuel_log.litres", exact=True)
    expect(page.locator("mark")).to_have_count(0)
    part.focus()
    expect(page.locator("mark")).to_have_text(["Litres"])
    part.blur()
    page.get_by_text("per vessel.name", exact=True).hover()
    expect(page.locator("mark")).to_have_text(["per vessel"])
    page.get_by_role("button", name=re.compile("^control: model")).click()
    expect(page.locator("section[aria-label=model]")).to_contain_text("without seeing the draft")


def test_what_was_understood_is_corrected_by_a_click(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("How many sailings were cancelled in August 2026?")
    page.keyboard.press("Enter")
    expect(page.get_by_text("came out the same in two ways")).to_be_visible(timeout=15_000)
    page.get_by_role("button", name=re.compile("^sailing.status is cancelled")).press("Enter")
    expect(page.locator("mark")).to_have_text(["cancelled"])
    page.get_by_role("menuitem", name="arrived").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text(
        "447 sailings were arrived in August 2026.", timeout=15_000
    )
    expect(page.get_by_text("How many sailings were arrived in August 2026?")).to_be_visible()
    # That "cancelled" means "arrived" cannot be noted: it means something else.
    expect(page.get_by_text("Always so?")).to_have_count(0)
    page.get_by_role("link", name="the one before").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("12 sailings were cancelled in August 2026.")


def test_a_correction_is_written_into_the_notes_by_one_more_click(page: Page, paced: Stage) -> None:
    with Harquel(paced.url, paced.token) as client:
        before = client.send(document("ferries", "notes"))
        found = client.ask("How many bookings were made in August 2026?", "ferries")
        assert found.second_opinion is not None
        offer = next(o for o in found.second_opinion.instead if "scheduled departure" in o.label)
        corrected = client.choose(found.id, offer.id)
        try:
            sign_in(page, paced.token)
            page.goto(f"/inquiries/{corrected.id}")
            page.get_by_role(
                "button", name="Always so? Note: rows of booking are dated by sailing.scheduled_departure"
            ).click()
            expect(page.get_by_text(f"Written into the notes, version {before.number + 1}.")).to_be_visible()
            page.get_by_role("link", name="See them").click()
            expect(page).to_have_url(re.compile("/sources/ferries/catalog/booking"))
        finally:
            client.send(replace_document("ferries", "notes", before.text, force=True))


def test_an_answer_of_ones_own_is_run_again(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("How many sailings were cancelled in August 2026?")
    page.keyboard.press("Enter")
    expect(page.get_by_text("came out the same in two ways")).to_be_visible(timeout=15_000)
    page.get_by_role("button", name="Run it again").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("The same as on 14 September 2026, 10:00.")
    page.get_by_role("link", name="the answer before").click()
    expect(page.get_by_text("came out the same in two ways")).to_be_visible()


def test_a_conversation_stands_beside_its_answers_and_is_put_right_in_place(page: Page, paced: Stage) -> None:
    with Harquel(paced.url, paced.token) as client:
        first = client.ask("How many sailings were cancelled in August 2026?", "ferries")
    sign_in(page, paced.token, f"/inquiries/{first.id}")
    thread = page.get_by_role("navigation", name="Asked one after the other")
    expect(page.get_by_role("heading", level=1)).to_contain_text("12 sailings")
    expect(thread).to_have_count(0)
    page.get_by_label("Ask on from here").fill("and in July?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("8 sailings were cancelled in July 2026.")
    expect(page.get_by_role("region", name="Answer")).to_contain_text("How many sailings were cancelled in July 2026?")
    expect(thread.get_by_role("link")).to_have_count(2)
    expect(thread.locator("[aria-current=page]")).to_contain_text("and in July?")
    page.get_by_role("button", name="Meant otherwise?", exact=True).press("Enter")
    meant = page.get_by_label("The question as you meant it")
    expect(meant).to_be_focused()
    expect(meant).to_have_value("How many sailings were cancelled in July 2026?")
    meant.fill("How many sailings were cancelled in July 2025?")
    meant.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("in July 2025")
    expect(thread.get_by_role("link")).to_have_count(3)
    thread.get_by_role("link").first.click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("12 sailings")
