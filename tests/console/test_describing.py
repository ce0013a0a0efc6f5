"""The steward's pages in a real browser: sources, catalog, examples."""

from __future__ import annotations

import sqlite3

from playwright.sync_api import Page, Route, expect

from harquel.demo.servers import free_port
from harquel.demo.stage import Stage
from tests.console.conftest import sign_in


def connect(page: Page, name: str, **fields: str) -> None:
    page.get_by_role("button", name="Connect a source").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill(name)
    engine = fields.pop("Engine", "PostgreSQL")
    dialog.get_by_label("Engine").select_option(label=engine)
    for label, value in fields.items():
        dialog.get_by_label(label, exact=True).fill(value)
    dialog.get_by_role("button", name="Connect").click()


def test_a_source_is_connected_checked_and_removed(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_role("link", name="Sources").click()
    connect(
        page, "office", Host="127.0.0.1", Port=str(free_port()), Database="x", User="reader", Password="hidden-word"
    )
    card = page.get_by_role("region", name="office")
    expect(card).to_contain_text("out of reach")
    card.get_by_role("button", name="Check").click()
    expect(card).to_contain_text("Nobody listens on port")
    expect(card).to_contain_text("It does not work yet.")
    assert "hidden-word" not in page.content()
    card.get_by_role("button", name="Remove").click()
    card.get_by_role("button", name="Remove it").click()
    expect(card).to_have_count(0, timeout=15_000)


def test_a_scan_that_ended_between_two_looks_is_not_missed(page: Page, paced: Stage) -> None:
    """The list was fetched while it ran, the scans were fetched when it had failed."""
    sign_in(page, paced.token)
    page.goto("/sources")
    connect(page, "attic", Host="127.0.0.1", Port=str(free_port()), Database="x", User="reader", Password="hidden-word")
    card = page.get_by_role("region", name="attic")
    expect(card).to_contain_text("out of reach")
    asked: list[int] = []

    def as_it_was(route: Route) -> None:
        found = route.fetch()
        listed = found.json()
        asked.append(len(listed))
        if len(asked) <= 2:  # as the session is loaded, and as the page is
            listed = [source | {"problem": None, "hint": None} for source in listed]
        route.fulfill(response=found, json=listed)

    page.route("**/api/v1/sources", as_it_was)
    page.reload()
    expect(card).to_contain_text("out of reach")
    assert len(asked) > 2
    page.unroute("**/api/v1/sources")
    card.get_by_role("button", name="Remove").click()
    card.get_by_role("button", name="Remove it").click()
    expect(card).to_have_count(0, timeout=15_000)


def test_a_mistake_in_the_form_is_said_and_nothing_is_lost(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.goto("/sources")
    connect(page, "ferries", Engine="SQLite", **{"File on the machine of the service": "ferries.db"})
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("alert")).to_contain_text("already")
    expect(dialog.get_by_label("Name")).to_have_value("ferries")
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)


def test_the_progress_of_a_scan_is_seen(page: Page, paced: Stage) -> None:
    path = paced.folder / "many.db"
    with sqlite3.connect(path) as connection:
        for number in range(120):
            connection.execute(f"CREATE TABLE log_{number:03} (id INTEGER PRIMARY KEY, said TEXT)")
    connection.close()
    sign_in(page, paced.token)
    page.goto("/sources")
    connect(page, "logs", Engine="SQLite", **{"File on the machine of the service": str(path)})
    card = page.get_by_role("region", name="logs")
    expect(card.get_by_role("progressbar")).to_be_visible()
    expect(card).to_contain_text("of 120 tables")
    expect(card).to_contain_text("120 tables · version 1", timeout=30_000)


def test_a_column_is_described_in_place(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.goto("/sources/ferries/catalog/berth")
    expect(page.get_by_role("img", name="berth joins with harbour")).to_be_visible()
    before = page.get_by_text("columns described").inner_text()
    page.get_by_role("button", name="label").click()
    page.get_by_label("What it means").fill("the sign on the quay")
    page.get_by_label("personal").check()
    page.get_by_role("button", name="Save").last.click()
    expect(page.get_by_role("button", name="the sign on the quay")).to_contain_text("personal: no value is read ahead")
    expect(page.get_by_text("columns described")).not_to_have_text(before)
    page.get_by_label("Search tables").fill("quay")
    expect(page.get_by_text("1 of 18")).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="the sign on the quay")).to_be_visible()


def test_a_right_answer_is_kept_as_an_example_and_a_wrong_one_is_stale(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("How many incidents are there?")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Keep it as an example").click(timeout=20_000)
    page.get_by_role("link", name="See all").click()
    expect(page.get_by_role("button", name="How many incidents are there?")).to_contain_text("1 row")
    page.get_by_label("Question", exact=True).fill("What is not there?")
    page.get_by_label("SQL that answers it").fill("SELECT nothing FROM incident")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("1 no longer hold")).to_be_visible()
    line = page.get_by_role("listitem").filter(has_text="What is not there?")
    line.get_by_role("button", name="Remove").click()
    line.get_by_role("button", name="Keep it").click()
    line.get_by_role("button", name="Remove").click()
    line.get_by_role("button", name="Remove it").click()
    expect(page.get_by_text("1 no longer hold")).to_have_count(0)
