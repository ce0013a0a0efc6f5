"""What a measure of trust is made over: a database with its catalog, notes, policy and examples."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from harquel.core.briefing import CatalogIndex
from harquel.core.curation import load_examples
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.examples import Example
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.testing.sources import DEMO, demo_notes, demo_policy, keeper_of
from trust import academy, stores


@dataclass(frozen=True)
class World:
    """What a review is made with. `whole` holds what is not exposed, too."""

    database: Path
    whole: Catalog
    index: CatalogIndex
    examples: tuple[Example, ...]
    notes: Notes
    policy: Policy


def world(database: Path) -> World:
    """The ferries, with the demo's notes, policy and examples, over a database of them."""
    return _world(database, demo_notes(), demo_policy(), load_examples(DEMO / "examples.yaml", "sqlite"))


def stores_world(database: Path) -> World:
    """The stores, with their notes and nothing else, over a database of them."""
    return _world(database, _notes(stores.FOLDER), Policy(withhold_delicate=False), ())


def academy_world(database: Path, noted: bool = False) -> World:
    """The academy: as on the first day, without a note, or with those of the second day."""
    notes = _notes(academy.FOLDER) if noted else Notes()
    return _world(database, notes, Policy(withhold_delicate=False), ())


def _notes(folder: Path) -> Notes:
    return Notes.model_validate(read_yaml((folder / "notes.yaml").read_text("utf-8")))


def _world(database: Path, notes: Notes, policy: Policy, examples: tuple[Example, ...]) -> World:
    whole = keeper_of(database, policy).current()
    return World(
        database, whole, CatalogIndex.build(policy.visible(whole), notes, policy), examples, notes, policy
    )  # fmt: skip
