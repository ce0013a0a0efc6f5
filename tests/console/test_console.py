"""The console in a real browser: signing in, asking, watching, reading, looking behind."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Dialog, Page, Route, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.console.conftest import sign_in


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
    expect(page.get_by_role("heading", level=1)).to_contain_text("QH-SR is highest with", timeout=15_000)
    expect(page.get_by_role("region", name="Answer")).to_contain_text("clear")
    table = page.get_by_role("region", name="Rows")
    expect(table.get_by_role("row")).to_have_count(6)
    expect(table).to_contain_text("EUR")
    expect(page.get_by_text("GROUP BY")).to_be_visible()
    page.get_by_role("button", name=re.compile("^model")).click()
    expect(page.locator("pre", has_text="CREATE TABLE sailing")).to_be_visible()
    page.get_by_role("button", name=re.compile("^reply")).click()
    reply = page.locator("section[aria-label=reply]")
    expect(reply).to_contain_text("The model on its draft:")
    expect(reply.get_by_text('"explanation"')).to_be_hidden()
    reply.get_by_text("The reply as it came").click()
    expect(reply.get_by_text('"explanation"')).to_be_visible()


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
    # Laid out, and the place still marked.
    expect(page.locator("section[aria-label=guard] pre").first).to_contain_text(re.compile(r"SELECT\n"))
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


def test_stop_ends_it(page: Page, new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    """With a model that takes longer than any click, however busy the machine is."""
    with new_stage(tmp_path / "slow", pace_s=60.0) as slow:
        sign_in(page, slow.token, f"{slow.url}/")
        page.get_by_role("button", name="Litres of fuel").click()
        expect(page).to_have_url(re.compile(re.escape(slow.url)))
        page.get_by_role("button", name="Stop").click()
        expect(page.get_by_role("region", name="Answer")).to_contain_text("cancelled", timeout=15_000)


def test_the_keyboard_alone_is_enough(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.locator("body").click()
    page.keyboard.press("/")
    page.keyboard.type("How many customers joined in 2026?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("365 customers joined", timeout=15_000)
    for _ in range(40):
        page.keyboard.press("Tab")
        if "guard" in (page.evaluate("document.activeElement.getAttribute('aria-label')") or ""):
            break
    page.keyboard.press("Enter")
    expect(page.locator("section[aria-label=guard]")).to_be_visible()


def test_dark_is_kept_and_a_phone_cuts_nothing_off(browser: Browser, paced: Stage) -> None:
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=paced.url, color_scheme="dark", has_touch=True, is_mobile=True
    )  # fmt: skip
    page = context.new_page()
    sign_in(page, paced.token)
    assert page.evaluate("document.documentElement.dataset.theme") == "dark"
    pages = page.get_by_role("navigation", name="Pages").bounding_box()
    person = page.get_by_role("button", name="Ada Brinewell").bounding_box()
    assert pages is not None
    assert person is not None
    assert pages["y"] < person["y"] + person["height"] < pages["y"] + pages["height"] + person["height"]
    page.get_by_role("button", name="Ada Brinewell").click()
    page.get_by_role("menuitem", name="Look: light").click()
    page.get_by_label("Your question").fill("Which five routes earned most this year?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("QH-SR is highest with", timeout=15_000)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    # Wide enough for fingers; what only a wide screen shows has no height at all.
    heights = page.locator("button").evaluate_all("all => all.map((b) => b.getBoundingClientRect().height)")
    assert [h for h in heights if 0 < h < 40] == []
    page.reload()
    assert page.evaluate("document.documentElement.dataset.theme") == "light"
    context.close()


def test_a_service_that_is_gone_is_said(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.route("**/api/v1/inquiries*", lambda route: route.abort())
    page.get_by_role("link", name="Earlier").click()
    # The first page asks for the same, and may say so while it is left.
    expect(page.get_by_role("heading", name="Earlier inquiries")).to_be_visible()
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


def test_a_session_that_ended_leads_back_to_signing_in(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    # What the page itself asks for would find the end of the session, too, and lead away from the field.
    page.wait_for_load_state("networkidle")
    page.context.clear_cookies()
    page.get_by_label("Your question").fill("How many vessels are there?")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Your token")).to_be_visible()


def test_signing_out_forgets_the_person(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_role("button", name="Ada Brinewell").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page.get_by_label("Your token")).to_be_visible()
    page.goto("/inquiries")
    expect(page.get_by_label("Your token")).to_be_visible()


def test_a_long_question_and_strange_text_stay_inside_the_page(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    long = "Why <b>not</b> " + "unbreakable" * 60 + " at the end?"
    page.get_by_label("Your question").fill(long)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("The data does not hold", timeout=15_000)
    expect(page.get_by_role("region", name="Answer")).to_contain_text("<b>not</b>")
    expect(page.get_by_role("region", name="Answer")).to_contain_text("The model's words: “Nothing in the schema")
    assert page.evaluate("document.documentElement.scrollWidth") <= 1280
    asked = page.get_by_role("region", name="Answer").locator("p").first
    folded = asked.evaluate("p => p.clientHeight")
    page.get_by_role("button", name="Show all of it").click()
    assert asked.evaluate("p => p.clientHeight") > folded
    page.get_by_role("button", name="Show less").click()
    assert asked.evaluate("p => p.clientHeight") == folded


def test_an_empty_result_is_marked_and_the_doubt_is_said(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("Which sailings were cancelled because of fog in January 2020?")
    page.keyboard.press("Enter")
    answer = page.get_by_role("region", name="Answer")
    expect(answer).to_contain_text("caution", timeout=15_000)
    expect(answer).to_contain_text("No row is left because of sailing.scheduled_departure < '2020-02-01'")
    expect(page.get_by_text("No rows came back.")).to_be_visible()


def test_nobody_is_let_ask_before_it_is_known_what_can_be_asked(page: Page, paced: Stage) -> None:
    """Whoever wrote fast asked no source at all."""
    sign_in(page, paced.token)
    page.evaluate("localStorage.removeItem('source')")
    waiting: list[Route] = []
    page.route("**/api/v1/sources", lambda route: waiting.append(route))
    with page.expect_request("**/api/v1/sources"):
        page.reload()
    expect(page.get_by_role("status")).to_have_text("Opening …")
    expect(page.get_by_label("Your question")).to_be_hidden()
    waiting[0].continue_()
    page.get_by_label("Your question").fill("How many harbours are there?")
    page.keyboard.press("Enter")
    expect(page.get_by_text("How many harbours are there?")).to_be_visible()
    expect(page).to_have_url(re.compile("/inquiries/"))


def test_an_inquiry_that_is_not_there_is_said(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.goto("/inquiries/none")
    expect(page.get_by_role("alert")).to_contain_text("There is no inquiry")
    page.goto("/nowhere/at/all")
    expect(page.get_by_role("heading", name="There is nothing here.")).to_be_visible()


def test_the_look_is_legible_in_both_schemes(browser: Browser, paced: Stage) -> None:
    """Text against its ground: at least 4.5 to 1 (WCAG AA), light and dark."""
    for scheme in ("light", "dark"):
        context = browser.new_context(base_url=paced.url, color_scheme=scheme)  # type: ignore[arg-type]
        page = context.new_page()
        sign_in(page, paced.token)
        colours = page.evaluate(
            "Object.fromEntries(['paper','sheet','ink','faint','sea','signal','onsea'].map(n =>"
            " [n, getComputedStyle(document.documentElement).getPropertyValue('--' + n).trim()]))"
        )
        for text, ground in [
            ("ink", "paper"), ("ink", "sheet"), ("faint", "paper"), ("faint", "sheet"), ("sea", "sheet"),
            ("signal", "paper"), ("signal", "sheet"), ("onsea", "sea"),
        ]:  # fmt: skip
            assert contrast(colours[text], colours[ground]) >= 4.5, (scheme, text, ground)
        context.close()


def contrast(one: str, other: str) -> float:
    """The ratio of WCAG 2.2, section 1.4.3, of two #rrggbb colours."""

    def luminance(colour: str) -> float:
        parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def test_a_held_statement_is_released_on_its_page(browser: Browser, paced: Stage) -> None:
    with Harquel(paced.url, paced.token) as admin:
        trainee = admin.create_token("held: asks", "Tam Okell", ["ferries"], ["ask"], ["trainee"]).secret
        releaser = admin.create_token("held: releases", "Rhea Quist", ["ferries"], ["ask", "release"]).secret
    pages = []
    for token in (trainee, releaser):
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=paced.url)
        pages.append(context.new_page())
        sign_in(pages[-1], token)
    asks, releases = pages
    asks.get_by_label("Your question").fill("How many sailings were cancelled in August 2026?")
    asks.keyboard.press("Enter")
    expect(asks.get_by_role("heading", name="The statement waits for a release.")).to_be_visible(timeout=15_000)
    expect(asks.get_by_role("region", name="Answer")).to_contain_text("approval.roles")
    expect(asks.get_by_role("button", name="Release", exact=True)).to_have_count(0)
    releases.goto(asks.url)
    expect(releases.get_by_text("FROM sailing")).to_be_visible()
    releases.get_by_label(re.compile("A word why")).fill("go ahead")
    releases.get_by_role("button", name="Release", exact=True).click()
    expect(releases.get_by_role("heading", level=1)).to_contain_text("12", timeout=15_000)
    expect(releases.get_by_role("region", name="Answer")).to_contain_text("released by Rhea Quist")
    asks.reload()
    expect(asks.get_by_role("heading", level=1)).to_contain_text("12")
    for opened in pages:
        opened.context.close()


def test_a_first_visit_shows_that_it_waits_and_what_went_wrong(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    waiting: list[Route] = []
    page.route("**/api/v1/me", lambda route: waiting.append(route))
    with page.expect_request("**/api/v1/me"):
        page.goto("/inquiries", wait_until="commit")
    expect(page.get_by_text("Opening …")).to_be_visible()
    problem = '{"title": "Too much to do.", "hint": "Try again."}'
    while not waiting:  # the request is told before its route is
        page.wait_for_timeout(20)
    waiting[0].fulfill(status=503, content_type="application/problem+json", body=problem)
    expect(page.get_by_role("alert")).to_contain_text("Too much to do.")
    page.unroute("**/api/v1/me")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("heading", level=1)).to_be_visible()


def test_what_was_typed_and_not_saved_is_not_lost_by_a_click(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token, "/sources/ferries/catalog/harbour")
    field = page.get_by_label("What it holds")
    field.fill("Where ships tie up, not saved yet")
    asked: list[str] = []

    def stay(dialog: Dialog) -> None:
        asked.append(dialog.message)
        dialog.dismiss()

    page.on("dialog", stay)
    page.get_by_role("link", name="Earlier").click()
    expect(field).to_have_value("Where ships tie up, not saved yet")
    assert "not saved" in asked[0]
    page.remove_listener("dialog", stay)
    page.on("dialog", lambda dialog: dialog.accept())
    page.get_by_role("link", name="Earlier").click()
    expect(page.get_by_role("heading", name="Earlier inquiries")).to_be_visible()


def test_an_answer_is_taken_away_as_a_file(page: Page, paced: Stage) -> None:
    sign_in(page, paced.token)
    page.get_by_label("Your question").fill("How many sailings were cancelled in August 2026?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("12 sailings", timeout=15_000)
    expect(page.get_by_role("region", name="What the query does")).to_contain_text("in August 2026")
    page.get_by_role("button", name="Take it away").press("Enter")
    with page.expect_download() as kept:
        page.get_by_role("menuitem", name="Rows for a spreadsheet").press("Enter")
    assert kept.value.suggested_filename.endswith(".csv")
    assert kept.value.path().read_text("utf-8-sig").split() == ["sailing_count", "12"]


def test_the_console_speaks_the_language_of_the_browser_until_another_is_chosen(browser: Browser, paced: Stage) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=paced.url, locale="de-DE")
    page = context.new_page()
    page.goto("/")
    page.get_by_label("Ihr Zugangsschlüssel").fill(paced.token)
    page.get_by_role("button", name="Anmelden").click()
    page.get_by_label("Ihre Frage").fill("Wie viele Fahrten sind im August 2026 ausgefallen?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("12 Fahrten sind im August 2026 ausgefallen.")
    answer = page.get_by_role("region", name="Antwort")
    expect(answer).to_contain_text("klar")
    # A busy machine asks for the newest value in vain: then it is the file that says so, in German too.
    fresh = r"Daten bis 14\. September 2026, 09:58 \(UTC\)\.|Aus einer Datei, zuletzt geschrieben am \d+\. \w+ \d{4}"
    expect(answer).to_contain_text(re.compile(fresh))
    assert page.evaluate("document.documentElement.lang") == "de"
    page.get_by_role("button", name="Ada Brinewell").click()
    page.get_by_role("menuitem", name="English").click()
    expect(page.get_by_role("region", name="Answer")).to_contain_text("clear")
    page.reload()
    expect(page.get_by_label("Your question")).to_be_visible()
    # Where the question speaks for no language, the answer is in that of the console.
    page.get_by_role("button", name="Ada Brinewell").click()
    page.get_by_role("menuitem", name="Deutsch").click()
    page.get_by_label("Ihre Frage").fill("Gullspire 1999")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("In den Daten steht nicht")
    context.close()
