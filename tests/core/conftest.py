"""What tests of the core share: a source over the demo, of which only the model is each one's own, and two worlds."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path

import pytest
from breach.restricted import Side, two_sides
from trust.measure import opened
from trust.world import world

from harquel.core.inquiry.source import Source
from harquel.core.llm.model import LanguageModel
from harquel.demo.servers import Mariadb, Postgresql

Make = Callable[[LanguageModel], Source]


@pytest.fixture(scope="session")
def make(ferries: Path) -> Iterator[Make]:
    """A source with a model of one's own; its workers, and what a scan looked into, are those of all tests here."""
    with opened(world(ferries)) as made:
        yield lambda model: replace(made(model), looked_up={})


@pytest.fixture(scope="session")
def kept(postgresql: Postgresql, mariadb: Mariadb) -> Iterator[tuple[ExitStack, dict[str, tuple[Side, Side]]]]:
    """The two worlds of each engine, made once however the tests are ordered, and let go before their servers."""
    with ExitStack() as stack:
        yield stack, {}


@pytest.fixture(params=["sqlite", "postgresql", "mariadb"])
def sides(
    request: pytest.FixtureRequest, kept: tuple[ExitStack, dict[str, tuple[Side, Side]]],
    tmp_path_factory: pytest.TempPathFactory,
) -> tuple[Side, Side]:  # fmt: skip
    """(restricted on the whole world, unrestricted on the cut one)"""
    stack, made = kept
    if request.param not in made:
        server = request.getfixturevalue(request.param) if request.param != "sqlite" else None
        folder = tmp_path_factory.mktemp("row-rules")
        made[request.param] = stack.enter_context(two_sides(request.param, folder, server, 0.04))
    return made[request.param]
