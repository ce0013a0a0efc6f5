"""The checks of a page that a person would do by hand, on every page: legible, nothing jumps, nothing cut off, keys."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from harquel.client import Harquel
from harquel.demo.stage import Stage

from .conftest import sign_in

PAGES = (
    "/", "/inquiries", "/inquiries/{answered}", "/inquiries/{asked_back}", "/inquiries/none", "/sources",
    "/sources/ferries/catalog/sailing", "/sources/ferries/examples", "/models", "/usage", "/nowhere",
)  # fmt: skip
WAITING = {
    "/": "**/v1/me", "/inquiries": "**/v1/inquiries?*", "/inquiries/{answered}": "**/v1/**/chart?*",
    "/inquiries/{asked_back}": "**/v1/inquiries/*", "/sources": "**/v1/sources",
    "/sources/ferries/catalog/sailing": "**/v1/**/catalog?*", "/sources/ferries/examples": "**/v1/**/examples",
    "/models": "**/v1/models", "/usage": "**/v1/usage?*",
}  # fmt: skip
"""What each page waits for, where it shows nothing before that is there."""
JUMPED = """window.jumped = [];
new PerformanceObserver(list => list.getEntries().forEach(e => window.jumped.push(e.value)))
  .observe({type: 'layout-shift', buffered: true})"""
# Each text that is painted, with its colour and what lies under it, as the browser mixes them; WCAG 2.2, 1.4.3.
FAINT = """() => {
  const light = c => c.map(v => v / 255).map(v => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    .reduce((sum, v, n) => sum + v * [0.2126, 0.7152, 0.0722][n], 0);
  const canvas = Object.assign(document.createElement('canvas'), {width: 1, height: 1}).getContext('2d');
  const rgba = said => { canvas.clearRect(0, 0, 1, 1); canvas.fillStyle = said; canvas.fillRect(0, 0, 1, 1);
    const [r, g, b, a] = canvas.getImageData(0, 0, 1, 1).data; return [r, g, b, a / 255] };
  const over = (one, other) => [0, 1, 2].map(n => one[n] * one[3] + other[n] * (1 - one[3]));
  const up = node => node ? [node, ...up(node.parentElement)] : [];
  const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT), found = [];
  while (texts.nextNode()) {
    const text = texts.currentNode.textContent.trim(), on = texts.currentNode.parentElement;
    const style = getComputedStyle(on), seen = up(on).reduce((o, n) => o * getComputedStyle(n).opacity, 1);
    if (!text || !seen || on.closest('[disabled], svg') || !on.checkVisibility({visibilityProperty: true})) continue;
    const ground = up(on).map(n => rgba(getComputedStyle(n).backgroundColor)).reverse()
      .reduce((under, colour) => over(colour, under), [255, 255, 255]);
    const ink = rgba(style.color); ink[3] *= seen;
    const both = [light(over(ink, ground)), light(ground)];
    const ratio = (Math.max(...both) + 0.05) / (Math.min(...both) + 0.05), size = parseFloat(style.fontSize);
    const large = size >= 24 || (size >= 18.6 && style.fontWeight >= 700);
    if (ratio < (large ? 3 : 4.5)) found.push([text.slice(0, 30), ratio]);
  }
  return found }"""
# Every animation that never ends, in the middle of its way.
HALFWAY = """() => document.getAnimations().filter(a => a.effect.getComputedTiming().iterations === Infinity)
  .map(a => { a.pause(); a.currentTime = a.effect.getComputedTiming().duration / 2; return a.animationName })"""
NAMELESS = """() => [...document.querySelectorAll('button, a, input, select, textarea, [tabindex]')]
  .filter(e => e.checkVisibility() && !(e.ariaLabel || e.getAttribute('aria-labelledby') || e.labels?.length
    || e.textContent.trim() || e.title || e.tabIndex < 0)).map(e => e.outerHTML.slice(0, 80))"""
FOCUS = """() => { const e = document.activeElement, s = getComputedStyle(e);
  return e === document.body ? null : [e.outerHTML.slice(0, 60),
    (s.outlineStyle !== 'none' && parseFloat(s.outlineWidth) > 0) || s.boxShadow !== 'none'] }"""
MOST_STOPS = 120


@pytest.fixture(scope="module")
def known(paced: Stage) -> dict[str, str]:
    with Harquel(paced.url, paced.token) as client:
        asked = ["Wie viele Fahrten fielen im August 2026 je Wochentag aus?", "How many delayed bookings were there?"]
        return dict(zip(("answered", "asked_back"), (client.ask(q, "ferries").id for q in asked), strict=True))


@pytest.fixture(params=[(1280, "light"), (640, "dark"), (390, "light")], ids=["desk", "twice-as-large", "phone"])
def view(request: pytest.FixtureRequest, browser: Browser, paced: Stage) -> Iterator[Page]:
    # A desk at 200 % is half as wide to whoever lays the page out (WCAG 2.2, 1.4.4 and 1.4.10).
    width, scheme = request.param
    context: Any = browser.new_context(
        viewport={"width": width, "height": 800}, base_url=paced.url, color_scheme=scheme, locale="en-GB"
    )
    page = context.new_page()
    sign_in(page, paced.token)
    page.add_init_script(JUMPED)
    yield page
    context.close()


def test_each_page_is_legible_named_and_whole_and_does_not_jump(view: Page, known: dict[str, str]) -> None:
    for path in PAGES:
        view.goto(path.format(**known))
        expect(view.locator("main")).to_be_visible()
        view.wait_for_load_state("networkidle")
        found = {what: view.evaluate(script) for what, script in (("faint", FAINT), ("nameless", NAMELESS))}
        assert found == {"faint": [], "nameless": []}, path
        assert sum(view.evaluate("jumped")) < 0.05, path
        assert view.evaluate("document.documentElement.scrollWidth <= innerWidth"), path


def test_what_waits_is_legible_at_any_time(view: Page, known: dict[str, str]) -> None:
    """Each page is held back before it has what it shows, and its signs where they are faintest."""
    for path, held in WAITING.items():
        view.unroute_all()
        view.route(held, lambda _: None)
        view.goto(path.format(**known))
        expect(view.locator(".beats").first).to_be_visible()
        assert "beats" in view.evaluate(HALFWAY), path
        assert view.evaluate(FAINT) == [], path


def test_each_stop_of_the_keyboard_can_be_seen(view: Page, known: dict[str, str]) -> None:
    for path in PAGES:
        view.goto(path.format(**known))
        view.wait_for_load_state("networkidle")
        view.evaluate("document.activeElement.blur()")
        stops = []
        for _ in range(MOST_STOPS):
            view.keyboard.press("Tab")
            at = view.evaluate(FOCUS)
            if at is None:
                break
            stops.append(at)
        assert len(stops) < MOST_STOPS, path
        assert [stop for stop, seen in stops if not seen] == [], path
        assert len(stops) > 3, path
