"""Writes the rules, each with its reason and its two examples, into the docs: the guard's and the review's."""

from __future__ import annotations

import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from harquel.core.domain.rule import Rule
from harquel.core.guard.rules import RULES as GUARD
from harquel.core.review.rules import RULES as REVIEW

DOCS = Path(__file__).parents[1] / "docs"
BEGIN, END = "<!-- rules -->\n", "<!-- /rules -->"
PAGES = {
    DOCS / "policy.md": (GUARD, ("reason", "refused", "runs")),
    DOCS / "trust.md": (REVIEW, ("rule", "doubted", "not")),
}


def written(page: Path) -> str:
    """The page as it should be."""
    rules, heads = PAGES[page]
    text = page.read_text("utf-8")
    head, tail = text.split(BEGIN)[0], text.split(END)[1]
    return head + BEGIN + "\n".join(_rows(rules, heads)) + "\n" + END + tail


def _rows(rules: Iterable[Rule[Any, Any]], heads: tuple[str, str, str]) -> list[str]:
    rows = [f"| {' | '.join(heads)} |", "|---|---|---|"]
    for rule in rules:
        reason, bad, good = rule.reason, rule.bad, rule.good
        asked, bad = bad.split('": ', 1) if bad.startswith('"') and '": ' in bad else ("", bad)
        bad, _, when = bad.partition("--")
        said = f" ({when.strip()})" if when else ""
        question = f"{asked.lstrip(chr(34))}: " if asked else ""
        rows.append(f"| {reason} | {question}`{bad.strip()}`{said} | `{good}` |")
    return rows


if __name__ == "__main__":
    for path in PAGES:
        path.write_text(written(path), "utf-8")
    sys.exit(0)
