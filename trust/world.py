"""The demo world as the measure of trust needs it: catalog, notes, policy, examples, on SQLite."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from tests.core.support import DEMO, demo_notes, demo_policy, keeper_of

from harquel.core.briefing import CatalogIndex
from harquel.core.curation import load_examples
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.examples import Example


@dataclass(frozen=True)
class World:
    """What a review is made with. `whole` holds what is not exposed, too."""

    whole: Catalog
    index: CatalogIndex
    examples: tuple[Example, ...]


def world(database: Path) -> World:
    """Of a demo database."""
    policy, notes = demo_policy(), demo_notes()
    whole = keeper_of(database, policy).current()
    index = CatalogIndex.build(policy.visible(whole), notes, policy)
    return World(whole, index, load_examples(DEMO / "examples.yaml", "sqlite"))
