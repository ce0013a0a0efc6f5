"""The rows of an answer in a real browser: in portions, sorted, chosen by keys, copied, made wider, hidden."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Page, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.console.conftest import sign_in


def test_many_rows_come_in_portions(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("Litres of fuel per vessel and month this year")
    page.keyboard.press("Enter")
    rows = page.get_by_role("region", name="Rows").get_by_role("row")
    expect(rows).to_have_count(13, timeout=15_000)
    page.get_by_role("button", name="more").click()
    # With what they come to together, once all of them are shown.
    expect(rows).to_have_count(49)


def test_rows_are_sorted_by_a_click_and_the_tab_says_what_was_asked(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    expect(page).to_have_title("Ask – Harquel")
    expect(page.get_by_label("Your question")).to_be_focused()
    with Harquel(paced.url, paced.token) as client:
        key = client.ask("Which five routes earned most this year?", "ferries").id
    page.goto(f"/inquiries/{key}")
    expect(page).to_have_title("Which five routes earned most this year? – Harquel")
    table = page.get_by_role("region", name="Rows").first

    def first() -> str:
        return table.get_by_role("row").nth(1).inner_text()

    as_answered = first()
    figures = table.get_by_role("button", name="revenue", exact=True)
    figures.click()
    lowest = first()
    assert lowest != as_answered
    expect(table.get_by_role("columnheader", name="revenue")).to_have_attribute("aria-sort", "ascending")
    figures.click()
    assert first() == as_answered
    figures.click()
    expect(table.get_by_role("columnheader", name="revenue")).to_have_attribute("aria-sort", "none")
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.get_by_role("button", name="Copy the rows").first.click()
    expect(page.get_by_text("Copied, with tabs")).to_be_visible()
    lines = page.evaluate("navigator.clipboard.readText()").splitlines()
    assert len(lines) == 6
    assert all(line.count("\t") == lines[0].count("\t") for line in lines)


def test_a_cell_is_chosen_by_keys_and_copied_and_columns_are_hidden_and_made_wider(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    with Harquel(paced.url, paced.token) as client:
        found = client.ask("What share of bookings came through each channel last quarter?", "ferries")
    assert found.answer is not None
    page.goto(f"/inquiries/{found.id}")
    grid = page.get_by_role("region", name="Rows")
    grid.focus()
    for key in ("ArrowDown", "ArrowDown", "ArrowRight", "ArrowRight", "ArrowLeft", "Enter"):
        page.keyboard.press(key)
    wanted = str(found.answer.table.rows[1][1])
    expect(page.get_by_role("status").filter(has_text=f"Copied: {wanted}")).to_be_visible()
    assert page.evaluate("navigator.clipboard.readText()") == wanted
    expect(page.get_by_role("status").filter(has_text=re.compile("^2, booking count: "))).to_have_count(1)
    # What the parts of a whole come to.
    shares = sum(float(row[2]) for row in found.answer.table.rows)
    expect(grid.get_by_role("row").last).to_contain_text(f"{shares:.2f}")
    # Wider by keys, and hidden: what is copied then has as many columns as are shown.
    head = grid.get_by_role("columnheader").first
    before = head.bounding_box()
    head.get_by_role("separator").focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    after = head.bounding_box()
    assert before is not None
    assert after is not None
    assert after["width"] > before["width"] + 40
    grid.get_by_role("columnheader").nth(1).hover()
    page.get_by_role("button", name="Hide booking count").click()
    expect(grid.get_by_role("columnheader")).to_have_count(2)
    page.get_by_role("button", name="Copy the rows").click()
    expect(page.get_by_role("status").filter(has_text="tabs between")).to_be_visible()
    copied = str(page.evaluate("navigator.clipboard.readText()")).splitlines()
    assert [len(line.split("\t")) for line in copied] == [2] * 6
    page.get_by_role("button", name="Show them").click()
    expect(grid.get_by_role("columnheader")).to_have_count(3)


def test_the_first_column_stays_while_the_others_go_by(browser: Browser, paced: Stage) -> None:
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=paced.url)
    page = context.new_page()
    sign_in(page, paced.token)
    with Harquel(paced.url, paced.token) as client:
        found = client.ask("Which sailings were cancelled in August 2026?", "ferries")
    page.goto(f"/inquiries/{found.id}")
    grid = page.get_by_role("region", name="Rows")
    first, last = grid.get_by_role("columnheader").first, grid.get_by_role("columnheader").last
    expect(first).to_be_visible()
    before = first.bounding_box()
    grid.evaluate("grid => { grid.scrollLeft = grid.scrollWidth }")
    after, end = first.bounding_box(), last.bounding_box()
    assert before is not None
    assert after is not None
    assert end is not None
    assert abs(before["x"] - after["x"]) < 2
    assert end["x"] + end["width"] < 391
    context.close()
