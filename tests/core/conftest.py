"""A source over the demo that tests of the core share: only its model is each one's own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from trust.measure import opened
from trust.world import world

from harquel.core.inquiry.source import Source
from harquel.core.llm.model import LanguageModel

Make = Callable[[LanguageModel], Source]


@pytest.fixture(scope="session")
def make(ferries: Path) -> Iterator[Make]:
    """A source with a model of one's own; its workers, and what a scan looked into, are those of all tests here."""
    with opened(world(ferries)) as made:
        yield lambda model: replace(made(model), looked_up={})
