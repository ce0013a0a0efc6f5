"""Charts of an answer in a real browser: drawn, adjusted, taken away; what draws them not fetched for nothing."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.console.conftest import sign_in

BARS = ".chart .role-mark.layer_0_marks > path, .chart .mark-rect.role-mark > path"


def test_a_chart_is_drawn_and_adjusted_without_asking_again(page: Page, paced: Stage) -> None:
    with Harquel(paced.url, paced.token) as client:
        made = client.ask("Which five routes earned most this year?", "ferries")
        before = len(client.inquiries().items)
        sign_in(page, paced.token)
        page.goto(f"/inquiries/{made.id}")
        picture = page.get_by_role("figure", name="Revenue by routes in 2026 so far")
        expect(picture.locator(BARS)).to_have_count(5)
        expect(picture.locator("svg")).to_contain_text("36,395.20 EUR")
        picture.get_by_label("Drawn as").select_option("columns")
        expect(picture.locator("svg")).not_to_contain_text("36,395.20 EUR")
        expect(picture.locator(BARS)).to_have_count(5)
        words = picture.get_by_label("Say how to draw it")
        words.fill("as bars, only the top 2")
        words.press("Enter")
        expect(picture.locator(BARS)).to_have_count(2)
        expect(picture.locator("svg")).to_contain_text("and 3 more that are not drawn")
        expect(picture.get_by_label("Drawn as")).to_have_value("bars")
        expect(words).to_have_value("")
        words.fill("with sparkles")
        words.press("Enter")
        expect(picture.get_by_role("status")).to_contain_text("“with sparkles” is not understood")
        expect(picture.locator(BARS)).to_have_count(2)
        page.get_by_role("button", name="Take it away").press("Enter")
        with page.expect_download() as kept:
            page.get_by_role("menuitem", name="The picture, to be edited").press("Enter")
        assert "and 3 more that are not drawn" in kept.value.path().read_text("utf-8")
        assert len(client.inquiries().items) == before


def test_where_nothing_is_drawn_nothing_that_draws_is_fetched(page: Page, paced: Stage) -> None:
    fetched: list[str] = []
    page.on("request", lambda request: fetched.append(request.url))
    with Harquel(paced.url, paced.token) as client:
        made = client.ask("How many sailings were cancelled in August 2026?", "ferries")
        drawn = client.ask("Revenue per month in 2026", "ferries")
    sign_in(page, paced.token)
    page.goto(f"/inquiries/{made.id}")
    expect(page.get_by_role("region", name="Grounds")).to_be_visible()
    expect(page.get_by_role("figure")).to_have_count(0)
    assert not [url for url in fetched if re.search(r"/embed-|/chart\b", url)]
    page.goto(f"/inquiries/{drawn.id}")
    expect(page.get_by_role("figure").locator("svg")).to_contain_text("September 2026 is not over yet.")
    assert [url for url in fetched if "/embed-" in url]


def test_a_picture_that_does_not_come_says_so_and_the_rows_stay(page: Page, paced: Stage) -> None:
    with Harquel(paced.url, paced.token) as client:
        made = client.ask("Revenue per month in 2026", "ferries")
    sign_in(page, paced.token)
    page.route("**/chart?*", lambda route: route.abort())
    page.goto(f"/inquiries/{made.id}")
    picture = page.get_by_role("figure")
    expect(picture.get_by_role("alert")).to_be_visible()
    expect(page.get_by_role("region", name="Rows").get_by_role("row")).to_have_count(11)
    page.unroute("**/chart?*")
    picture.get_by_role("button", name="Try again").click()
    expect(picture.locator("svg")).to_contain_text("Revenue by month")
    expect(picture.get_by_role("alert")).to_have_count(0)
